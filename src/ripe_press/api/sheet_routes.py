"""The delivery sheet of a pressing, to be read, printed, or taken in by a machine."""

from typing import Literal

from fastapi import APIRouter, Response

from ripe_press.api.deps import TheStudio
from ripe_press.core.sheet.contents import NAMES
from ripe_press.studio.sheets import sheet_of_pressing, written

router = APIRouter(prefix="/api/pressings/{number}/sheet", tags=["sheets"])
_KINDS = dict(zip(NAMES, ("text/html", "application/pdf", "application/json", "text/plain"), strict=True))


@router.get("/{name}")
def read_sheet(
    number: int,
    name: Literal["delivery-sheet.html", "delivery-sheet.pdf", "delivery-sheet.json", "checksums.sha256"],
    studio: TheStudio,
    paper: Literal["A4", "Letter"] = "A4",
) -> Response:
    """One of the four files of the delivery sheet."""
    data = written(sheet_of_pressing(studio.press_room.pressing(number), studio.outbox.accepted(number)), paper)[name]
    shown = "inline" if name.endswith((".html", ".pdf")) else "attachment"
    headers = {"Content-Disposition": f'{shown}; filename="{name}"', "Cache-Control": "no-store"}
    return Response(data, media_type=_KINDS[name], headers=headers)
