"""Drop-offs and the outbox: set up, tried, sent, accepted, held, recalled and sent again."""

import asyncio
import time

from fastapi import APIRouter, Response
from pydantic import TypeAdapter
from starlette.concurrency import run_in_threadpool

from ripe_press.api.deps import TheStudio
from ripe_press.api.sending import views as schemas
from ripe_press.core.errors import RipePressError
from ripe_press.store.drop_offs import StoredDropOff
from ripe_press.store.parcels import StoredParcel
from ripe_press.studio.sending import TransferProgress, drop_off_of
from ripe_press.studio.studio import Studio

router = APIRouter(prefix="/api", tags=["sending"])
_PARCELS = TypeAdapter(list[schemas.ParcelShown])
_WITH_SECRETS = ("mail", "desk")


@router.get("/drop-offs")
def read_drop_offs(studio: TheStudio) -> schemas.DropOffBookShown:
    """Every drop-off that is set up."""
    counts = studio.outbox.counts()
    shown = [_drop_off(studio, one, counts) for one in studio.drop_offs.all()]
    return schemas.DropOffBookShown(drop_offs=shown, secrets_in=studio.drop_offs.secrets.where)


@router.post("/drop-offs", status_code=201)
def add_drop_off(wish: schemas.DropOffRequest, studio: TheStudio) -> schemas.DropOffShown:
    """Sets up a drop-off."""
    number = studio.drop_offs.add(wish.drop_off, wish.secret or "")
    return _drop_off(studio, studio.drop_offs.get(number), studio.outbox.counts())


@router.put("/drop-offs/{number}")
def change_drop_off(number: int, wish: schemas.DropOffRequest, studio: TheStudio) -> schemas.DropOffShown:
    """Change a drop-off; transfers in progress keep their earlier place."""
    studio.drop_offs.change(number, wish.drop_off, wish.secret)
    return _drop_off(studio, studio.drop_offs.get(number), studio.outbox.counts())


@router.delete("/drop-offs/{number}", status_code=204)
def remove_drop_off(number: int, studio: TheStudio) -> None:
    """Delete a drop-off; its transfers stay in the history."""
    studio.drop_offs.remove(number)


@router.post("/drop-offs/{number}/look")
async def look_at_drop_off(number: int, studio: TheStudio) -> schemas.DropOffShown:
    """Tries a drop-off now, without sending anything."""
    looked = await asyncio.wrap_future(studio.drop_offs.begin_look(number))
    return await run_in_threadpool(lambda: _drop_off(studio, looked, studio.outbox.counts()))


@router.get("/outbox", response_model=list[schemas.ParcelShown])
def read_outbox(studio: TheStudio) -> Response:
    """All transfers: open ones first, newest first."""
    shown = [_parcel(one, underway) for one, underway in studio.outbox.shown()]
    # Requested at every step of every transfer: rendered in one go.
    return Response(_PARCELS.dump_json(shown), media_type="application/json")


@router.post("/outbox", status_code=201)
def send_files(wish: schemas.SendRequest, studio: TheStudio) -> list[schemas.HandedOver]:
    """Hands files of a pressing over to drop-offs."""
    made = studio.outbox.send(wish.pressing, wish.files, wish.drop_offs, wish.accepted_by, wish.because)
    return [schemas.HandedOver(parcel=number, new=new) for number, new in made]


@router.get("/pressings/{number}/parcels")
def read_parcels_of_pressing(number: int, studio: TheStudio) -> list[schemas.ParcelShown]:
    """What of a pressing was sent, with its receipts."""
    return [_parcel(one, None) for one in studio.outbox.of_pressing(studio.press_room.pressing(number).id)]


@router.post("/outbox/{number}/accept")
def accept_parcel(number: int, wish: schemas.Acceptance, studio: TheStudio) -> schemas.ParcelShown:
    """Sign off the findings of a file with name and reason."""
    studio.outbox.accept(number, wish.accepted_by, wish.because)
    return _parcel(studio.outbox.get(number), None)


@router.post("/outbox/{number}/hold")
def hold_parcel(number: int, studio: TheStudio) -> schemas.ParcelShown:
    """Pause a transfer."""
    studio.outbox.hold(number)
    return _parcel(studio.outbox.get(number), None)


@router.post("/outbox/{number}/recall")
def recall_parcel(number: int, studio: TheStudio) -> schemas.ParcelShown:
    """Cancel a transfer."""
    studio.outbox.recall(number)
    return _parcel(studio.outbox.get(number), None)


@router.post("/outbox/{number}/go-on")
def go_on_with_parcel(number: int, studio: TheStudio) -> schemas.ParcelShown:
    """Send a paused, waiting, rejected or failed transfer now."""
    studio.outbox.go_on(number)
    return _parcel(studio.outbox.get(number), None)


def _drop_off(studio: Studio, stored: StoredDropOff, counts: dict[str, dict[str, int]]) -> schemas.DropOffShown:
    drop_off = drop_off_of(stored)
    try:
        secret = drop_off.kind in _WITH_SECRETS and bool(studio.drop_offs.secrets.get(stored.id, drop_off.word))
    except RipePressError:
        secret = False
    return schemas.DropOffShown.model_validate(
        {
            "id": stored.id, "drop_off": drop_off, "word": drop_off.word, "has_secret": secret,
            "said": stored.said or None, "counts": counts.get(drop_off.word, {}),
        }
    )  # fmt: skip


def _parcel(stored: StoredParcel, underway: TransferProgress | None) -> schemas.ParcelShown:
    parcel, drop_off = stored.parcel, stored.drop_off
    waits = None if stored.next_at is None else max(0.0, stored.next_at - time.time())
    return schemas.ParcelShown.model_validate(
        {
            "id": stored.id, "drop_off": drop_off["name"], "kind": drop_off["kind"], "word": stored.place,
            "mix_id": stored.mix_id, "pressing": stored.pressing_id, "file": stored.file_number, "line": stored.line,
            "name": stored.name, "path": parcel["path"], "bytes": parcel["bytes"], "sha256": stored.sha256,
            "brief": str(parcel.get("about", {}).get("brief") or ""), "verdict": stored.verdict,
            "state": stored.state, "sentence": stored.sentence, "reasons": stored.reasons, "receipt": stored.receipt,
            "attempts": stored.attempts, "next_try_in_s": waits, "accepted_by": stored.accepted_by,
            "because": stored.because, "made_at": stored.made_at, "ended_at": stored.ended_at,
            "done_bytes": underway.done if underway else 0,
            "bytes_a_second": underway.bytes_a_second if underway else 0.0,
        }
    )  # fmt: skip
