"""Routes of destination folders: offered, browsed, created, opened, downloaded."""

import shutil
import subprocess
import threading
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse

from ripe_press.api.deps import TheStudio
from ripe_press.api.pressing import folder_views as schemas
from ripe_press.core.errors import Conflict, NotFound
from ripe_press.core.naming import safe_stem
from ripe_press.core.words import quoted
from ripe_press.studio.pressing import FolderView, OfferedFolder, order_title, zipped

router = APIRouter(prefix="/api", tags=["folders"])

Typed = Annotated[str, Query(max_length=1000)]


def folder_home(studio: TheStudio, mix_id: int | None, order_id: int | None) -> tuple[str, str]:
    """Title and path of the mix, or of the running order and its first mix; empty for neither."""
    if mix_id is not None:
        mix = studio.shelf.mix(mix_id)
        return mix.title, mix.path
    if order_id is None:
        return "", ""
    order = studio.orders.order(order_id)
    try:
        return order_title(order.title), studio.shelf.mix(order.entries[0].mix).path
    except (NotFound, IndexError):
        return order_title(order.title), ""


@router.get("/folders")
def read_folder(
    studio: TheStudio, path: Typed = "", mix_id: int | None = None, order_id: int | None = None
) -> FolderView:
    """The folders in a folder; without a path, those in the home folder."""
    return studio.press_room.destinations.look(path, folder_home(studio, mix_id, order_id)[1])


@router.post("/folders", status_code=201)
def make_folder(wish: schemas.NewFolder, studio: TheStudio) -> FolderView:
    """Creates a folder in a folder."""
    _, home = folder_home(studio, wish.mix_id, wish.order_id)
    return studio.press_room.destinations.make(wish.path, wish.name, home)


@router.get("/folders/offered")
def read_offered(studio: TheStudio, mix_id: int | None = None, order_id: int | None = None) -> list[OfferedFolder]:
    """The folders that are offered for the files of a mix or a running order; the first is the usual one."""
    return studio.press_room.destinations.offered(*folder_home(studio, mix_id, order_id))


@router.put("/folders/usual")
def set_usual(wish: schemas.UsualFolder, studio: TheStudio) -> list[OfferedFolder]:
    """Makes a folder the usual one of those that have none of their own; without one, that beside each mix."""
    title, home = folder_home(studio, wish.mix_id, wish.order_id)
    destinations = studio.press_room.destinations
    if wish.path:
        destinations.remember(destinations.checked(wish.path, home), title)
    else:
        destinations.forget()
    return read_offered(studio, wish.mix_id, wish.order_id)


@router.get("/here")
def read_here(request: Request) -> schemas.Here:
    """Whether this machine can open folders for the caller."""
    return schemas.Here(opens_folders=_same_machine(request) and _opener() is not None)


@router.post("/pressings/{number}/open", status_code=204)
def open_folder(number: int, studio: TheStudio, request: Request) -> None:
    """Opens the folder of a pressing on this machine.

    Raises: Conflict ``folder.elsewhere``; NotFound ``folder.gone``.
    """
    opener = _opener()
    if not opener or not _same_machine(request):
        message = "The folder is on another machine. Copy its path instead."
        raise Conflict("folder.elsewhere", message)
    paths = _made(studio, number)
    if not paths[0].parent.is_dir():
        message = f"{quoted(paths[0].parent)} was moved or deleted."
        raise NotFound("folder.gone", message)
    process = subprocess.Popen(  # noqa: S603 - the path is one of ours, and no shell reads it
        [opener, str(paths[0].parent)], start_new_session=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    # It may stay open for as long as the folder is looked at.
    threading.Thread(target=process.wait, name="folder", daemon=True).start()


@router.get("/pressings/{number}/files.zip")
def download_all(number: int, studio: TheStudio) -> StreamingResponse:
    """All files of a pressing as one ZIP, stored as they are. Raises: NotFound ``file.gone``."""
    paths = _made(studio, number)
    gone = next((one for one in paths if not one.is_file()), None)
    if gone:
        message = f"{quoted(gone.name)} was moved or deleted. Press again."
        raise NotFound("file.gone", message, path=str(gone))
    name = safe_stem(studio.press_room.pressing(number).mix_title.encode("ascii", "ignore").decode())
    headers = {"Content-Disposition": f'attachment; filename="{name}.zip"'}
    return StreamingResponse(zipped(paths), media_type="application/zip", headers=headers)


def _made(studio: TheStudio, number: int) -> list[Path]:
    paths = [Path(one.path) for one in studio.press_room.pressing(number).reports]
    if not paths:
        message = f"Pressing {number} has no files."
        raise NotFound("file.unknown", message)
    return paths


def _same_machine(request: Request) -> bool:
    # A proxy on this machine is named by another host.
    near = ("127.0.0.1", "::1", "localhost")
    return request.client is not None and request.client.host in near and request.url.hostname in near


def _opener() -> str | None:
    """The program that shows a folder on this machine, where there is one."""
    return next((found for one in ("xdg-open", "open") if (found := shutil.which(one))), None)
