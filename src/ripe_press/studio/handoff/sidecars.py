"""Sidecars next to files, with the tempo on the bench of their mix."""

import json
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.requests.document import bench_of
from ripe_press.core.sidecar import sidecar_of
from ripe_press.core.timeline import TempoMap
from ripe_press.core.whole_files import write_whole
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.shelf import on_shelf


def sidecar_now(file: Path, progress: Progress, should_stop: Callable[[], bool]) -> dict[str, Any]:
    """Writes the sidecar of a file beside it, with the tempo that its mix has on its bench where it is on the shelf.

    Raises: as `sidecar_of`; Interrupted ``write.failed``.
    """
    found = sidecar_of(file, _tempo_on_bench(file), progress, should_stop)
    target = file.with_name(f"{file.name}.json")
    row = asdict(found)
    write_whole(target, json.dumps(row, ensure_ascii=False) + "\n")
    return {"written": str(target), "sidecar": row}


def sidecar_job(path: str, folder: str) -> str:
    """Runs in a worker: writes the sidecar of a file, and gives where. Raises: as `sidecar_now`."""
    job = JobFolder(Path(folder))
    return str(sidecar_now(Path(path), job.report, job.cancelled)["written"])


def _tempo_on_bench(file: Path) -> TempoMap | None:
    mix = on_shelf(file)
    return bench_of(mix.bench).tempo if mix else None
