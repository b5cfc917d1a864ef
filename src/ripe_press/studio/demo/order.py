"""The demo's running order: the mixes of its shelf as an album, with codes."""

import threading
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ripe_press.core.errors import RipePressError
from ripe_press.core.requests.document import bench_of
from ripe_press.core.requests.running_order import OrderEntry, OrderLine, RunningOrder
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.log import logger
from ripe_press.studio.orders import OrderBook
from ripe_press.studio.shelf import Shelf
from ripe_press.studio.stems import StemBook

TITLE = "Nine Weirs"
_LOG = logger("demo")
_PATIENCE_S = 300.0


def begin_demo_order(shelf: Shelf, orders: OrderBook, stems: StemBook, paths: Sequence[Path], made: Path) -> None:
    """Create the order, and add stems to their mix, on a thread once all mixes are on the shelf; only once, so that the
    user can remove them.
    """
    if not made.exists():
        threading.Thread(target=_wait, args=(shelf, orders, stems, paths, made), name="demo order", daemon=True).start()


def _wait(shelf: Shelf, orders: OrderBook, stems: StemBook, paths: Sequence[Path], made: Path) -> None:
    end = time.monotonic() + _PATIENCE_S
    wanted = {str(path) for path in paths}
    while time.monotonic() < end:
        found = {mix.path: mix for mix in shelf.mixes() if mix.path in wanted}
        if len(found) == len(wanted):
            try:
                orders.make(demo_order([found[str(path)] for path in paths]))
                for mix in found.values():
                    beside = Path(mix.path).with_name(f"{mix.title} stems")
                    if beside.is_dir():
                        stems.fetch(mix.id, str(beside))
                made.touch()
            except (RipePressError, OSError) as error:
                _LOG.warning("demo order was not made", why=str(error))
            return
        time.sleep(0.25)


def demo_order(mixes: Sequence[StoredMix]) -> RunningOrder:
    """The mixes in album order: the short ones whole, the long one split at its markers, gapless."""
    entries: list[OrderEntry] = []
    for mix in sorted(mixes, key=lambda one: one.frames / one.rate_hz > 600):
        markers = bench_of(mix.bench).markers
        if mix.frames / mix.rate_hz > 600 and markers:
            ends = [*(one.frame for one in markers[1:]), mix.frames]
            for at, (marker, last) in enumerate(zip(markers, ends, strict=True)):
                entries.append(OrderEntry("", mix.id, marker.frame, last, marker.name, runs_on=at > 0))
        else:
            head, tail = mix.measures["head_silence_frames"], mix.measures["tail_silence_frames"]
            entries.append(OrderEntry("", mix.id, head, mix.frames - tail))
    coded = tuple(
        replace(one, id=f"e{at}", tags=(("artist", "The Sluicekeepers"), ("isrc", f"QZ-WLT-26-{at:05d}")))
        for at, one in enumerate(entries, 1)
    )
    tags = (("album_artist", "The Sluicekeepers"), ("barcode", "0036000291452"))
    return RunningOrder(coded, TITLE, tags, lines=(OrderLine("streaming-loud"), OrderLine("phone-and-car")))
