"""Routes of running orders: made, changed, heard, pressed, burnt."""

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import job_view
from ripe_press.api.orders import views as schemas
from ripe_press.api.pressing.folder_routes import folder_home
from ripe_press.api.pressing.record_routes import pressing_schema
from ripe_press.api.pressing.record_views import Pressing
from ripe_press.core.errors import Conflict, NotFound
from ripe_press.core.naming import safe_stem
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder
from ripe_press.studio.jobs import JobState
from ripe_press.studio.orders import OrderView
from ripe_press.studio.studio import Studio

router = APIRouter(prefix="/api", tags=["orders"])


@router.get("/orders")
def read_orders(studio: TheStudio) -> list[schemas.OrderSummary]:
    """Every running order, the one that was changed last first."""
    return [
        schemas.OrderSummary(id=one.id, title=one.title, entries=len(one.body["entries"]), changed_at=one.changed_at)
        for one in studio.orders.all()
    ]


@router.post("/orders", status_code=201)
def make_order(wish: schemas.NewOrder, studio: TheStudio) -> schemas.OrderShown:
    """Makes an order of mixes, or of ranges of them."""
    wanted = [(one.mix_id, one.range_id) for one in wish.ranges]
    order = studio.orders.of_ranges(wish.title, wanted, wish.gap_frames)
    return _shown(studio, studio.orders.view(studio.orders.make(order)))


@router.post("/orders/cut", status_code=201)
def cut_order(wish: schemas.CutOrder, studio: TheStudio) -> schemas.OrderShown:
    """Create a running order by splitting one mix into gapless tracks."""
    entries = studio.orders.of_cuts(wish.mix_id, wish.at == "quiet")
    order = RunningOrder(entries, studio.shelf.mix(wish.mix_id).title)
    return _shown(studio, studio.orders.view(studio.orders.make(order)))


@router.post("/orders/entries")
def propose_entries(wish: schemas.CutOrder, studio: TheStudio) -> list[OrderEntry]:
    """The entries that a long mix would be cut into; nothing is kept."""
    return list(studio.orders.of_cuts(wish.mix_id, wish.at == "quiet"))


@router.post("/orders/import", status_code=201)
def import_order(body: schemas.OrderFile, studio: TheStudio) -> schemas.OrderShown:
    """Takes in an order that was exported; its mixes are found on the shelf."""
    return _shown(studio, studio.orders.view(studio.orders.make(studio.orders.read(body.text))))


@router.get("/orders/{order_id}")
def read_order(order_id: int, studio: TheStudio) -> schemas.OrderShown:
    """A running order with tracks, findings and levels."""
    return _shown(studio, studio.orders.view(order_id))


@router.put("/orders/{order_id}")
def set_order(order_id: int, order: RunningOrder, studio: TheStudio) -> schemas.OrderShown:
    """Keeps an order as it is now."""
    studio.orders.set(order_id, order)
    return _shown(studio, studio.orders.view(order_id))


@router.delete("/orders/{order_id}", status_code=204)
def remove_order(order_id: int, studio: TheStudio) -> None:
    """Delete a running order; its pressings stay in the history."""
    studio.orders.remove(order_id)


@router.post("/orders/{order_id}/copy", status_code=201)
def copy_order(order_id: int, studio: TheStudio) -> schemas.OrderShown:
    """Keeps a copy of an order."""
    return _shown(studio, studio.orders.view(studio.orders.copy(order_id)))


@router.get("/orders/{order_id}/document")
def export_order(order_id: int, studio: TheStudio) -> Response:
    """The order as a document that travels."""
    text = studio.orders.export(order_id)
    stem = safe_stem(studio.orders.order(order_id).title or "Running order").encode("ascii", "replace").decode()
    named = f'attachment; filename="{stem.replace("?", "_")}.json"'
    return Response(text, media_type="application/json", headers={"Content-Disposition": named})


@router.get("/orders/{order_id}/joins/{join}/listen")
def hear_join(order_id: int, join: int, studio: TheStudio, seconds: float = 4.0) -> FileResponse:
    """A few seconds around the join before an entry, counted from 0, as they will be pressed."""
    path = studio.orders.hear(order_id, join, min(15.0, max(0.5, seconds)))
    gone = BackgroundTask(path.unlink, missing_ok=True)
    return FileResponse(path, media_type="audio/wav", headers={"Cache-Control": "no-store"}, background=gone)


@router.get("/orders/{order_id}/entries/{entry}/path")
def read_path(order_id: int, entry: int, studio: TheStudio) -> list[schemas.PathCellRow]:
    """The stations of a track, and which of them it shares with gapless neighbours."""
    return [schemas.PathCellRow(**asdict(one)) for one in studio.orders.path(order_id, entry)]


@router.post("/orders/{order_id}/press", status_code=202)
def press_order(order_id: int, wish: schemas.OrderPressRequest, studio: TheStudio) -> Pressing:
    """Puts an order to press: to its briefs, as a disc, or both in one go."""
    document = studio.orders.to_press(order_id, files=wish.files, disc=wish.disc)
    return pressing_schema(studio.press_room.press_order(document), studio)


@router.get("/pressings/{number}/disc/log-sheet")
def read_log_sheet(number: int, studio: TheStudio) -> FileResponse:
    """The log sheet of the disc of a pressing."""
    disc = studio.press_room.pressing(number).disc
    path = disc and studio.press_room.disc_file(number, "log_sheet")
    if not path:
        message = "No log sheet for this pressing."
        raise NotFound("disc.none", message, pressing=number)
    return FileResponse(path, media_type="text/html; charset=utf-8")


@router.get("/pressings/{number}/disc/burn")
def read_burn(number: int, studio: TheStudio) -> schemas.BurnView | None:
    """How the burn of a pressing's disc stands; null where there was none."""
    state = studio.burns.of(number)
    return _burn(number, state) if state else None


@router.post("/pressings/{number}/disc/burn", status_code=202)
def burn_disc(number: int, wish: schemas.BurnBody, studio: TheStudio) -> schemas.BurnView:
    """Begins to burn the disc of a pressing, and reads it back."""
    cue = studio.press_room.disc_file(number, "cue")
    state = studio.burns.burn(number, cue, wish.kind, wish.speed, simulate=wish.simulate, finalize=wish.finalize)
    return _burn(number, state)


@router.delete("/pressings/{number}/disc/burn", status_code=202)
def cancel_burn(number: int, studio: TheStudio) -> None:
    """Cancel a burn; the answer says whether the disc is usable."""
    if not studio.burns.cancel(number):
        raise Conflict("writer.idle", "No burn to cancel.")


def _shown(studio: Studio, view: OrderView) -> schemas.OrderShown:
    destinations, (title, path) = studio.press_room.destinations, folder_home(studio, None, view.id)
    folder = str(destinations.of(title, path, view.order.folder))
    return schemas.OrderShown(
        id=view.id, order=view.order, entries=[schemas.EntryRow(**asdict(one)) for one in view.entries],
        findings=list(view.findings),
        lead_out_frame=view.lead_out_frame, capacities=dict(view.capacities), loudest=view.loudest,
        folder=folder, folder_problem=destinations.problem(folder, path),
    )  # fmt: skip


def _burn(number: int, state: JobState[dict[str, Any]]) -> schemas.BurnView:
    report = state.result or {}
    back = report.get("read_back") or {}
    return schemas.BurnView(
        pressing=number, **job_view(state), offset_samples=back.get("offset_samples"), frames=back.get("frames", 0),
        wrong_frames=back.get("wrong_frames", 0),
        wrong=[schemas.WrongFrameRow.model_validate(one) for one in back.get("wrong", ())],
        medium=report.get("medium", ""), worth=report.get("worth", ""), simulated=report.get("simulated", False),
    )  # fmt: skip
