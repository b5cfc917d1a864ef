"""The disc of a pressing, made in a worker after its tracks."""

from pathlib import Path
from typing import Any

from ripe_press.core.errors import Unsupported
from ripe_press.core.requests.document import read_document
from ripe_press.studio.discs.making import make_disc, on_disc
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.planning import measured


def disc_of(document: str, tracks: list[str], folder: str, job: str, note: str) -> dict[str, Any]:
    """Makes the disc beside its tracks and gives its report. Raises: as `make_disc`."""
    made, work = read_document(document), JobFolder(Path(job))
    if made.order is None:
        message = "No running order to make a disc from."
        raise Unsupported("disc.no-order", message)
    laid = on_disc(made, made.order, lambda wish: measured(wish.source.facts))
    return make_disc(laid, [Path(one) for one in tracks], Path(folder), work.report, work.should_stop, Path(note))
