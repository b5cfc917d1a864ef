"""Units of the rack inside the test's own process, their clock as fast as it can be."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from ripe_press.rack.outboard import Character
from ripe_press.rack.unit import Setup, UnitProcessing, UnitServer


@contextmanager
def unit(kind: Any = "outboard", *, hurry: float = 0.0, faults: Any = (), **more: Any) -> Iterator[str]:
    """The address of a unit of some character: ``latency_frames``, ``drift_ppm``, ``noise_dbfs``, ``warm``."""
    setup_names = {"rates_hz", "most_channels"}
    setup = {name: value for name, value in more.items() if name in setup_names}
    character = Character(**{name: value for name, value in more.items() if name not in setup_names})
    with UnitServer(
        0, UnitProcessing(Setup(kind, "Weir Compressor", character, hurry, list(faults), **setup))
    ) as server:
        threading.Thread(target=server.serve_forever, args=(0.02,), daemon=True).start()
        yield f"127.0.0.1:{server.server_address[1]}"
        server.shutdown()
