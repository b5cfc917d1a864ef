"""The delivery sheet of a pressing, to be read, printed, or taken in by a machine."""

from typing import Literal

from fastapi import APIRouter, Response

from ripe_press.api.deps import TheStudio
from ripe_press.core.errors import NotFound
from ripe_press.core.sheet.contents import NAMES
from ripe_press.core.sheet.signature import NAME as SIGNATURE
from ripe_press.studio.handoff import Keys, files_of_sheet, sheet_of_pressing

Name = Literal[
    "delivery-sheet.html", "delivery-sheet.pdf", "delivery-sheet.json", "checksums.sha256",
    "delivery-sheet.sig.json",
]  # fmt: skip
router = APIRouter(prefix="/api/pressings/{number}/sheet", tags=["sheets"])
_KINDS = {
    **dict(zip(NAMES, ("text/html", "application/pdf", "application/json", "text/plain"), strict=True)),
    SIGNATURE: "application/json",
}


@router.get("/signed-by")
def read_signer(number: int, studio: TheStudio) -> str:
    """Whose key the delivery sheet is signed with; empty where there is none."""
    studio.press_room.pressing(number)
    own = Keys(studio.folder.root).own()
    return own.name if own else ""


@router.get("/{name}")
def read_sheet(
    number: int,
    name: Name,
    studio: TheStudio,
    paper: Literal["A4", "Letter"] = "A4",
) -> Response:
    """One of the files of the delivery sheet; its signature where there is a key to sign with."""
    sheet = sheet_of_pressing(studio.press_room.pressing(number), studio.outbox.accepted(number))
    data = files_of_sheet(sheet, paper, Keys(studio.folder.root)).get(name)
    if data is None:
        message = "No signing key. Create one with `ripe-press key new --name NAME`."
        raise NotFound("key.none", message)
    shown = "inline" if name.endswith((".html", ".pdf")) else "attachment"
    headers = {"Content-Disposition": f'{shown}; filename="{name}"', "Cache-Control": "no-store"}
    return Response(data, media_type=_KINDS[name], headers=headers)
