"""The real application on a temporary data folder."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

OWN = "http://127.0.0.1"
"""The address of a server on this machine: requests to any other name are rejected."""


def wait_for(ask: Callable[[], Any], seconds: float = 60.0) -> Any:
    """The first answer that is true, asked for again and again."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if answer := ask():
            return answer
        time.sleep(0.05)
    raise TimeoutError


def is_gone(process: int) -> bool:
    """Whether a process has ended, reaped or not."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] in "ZX"
    except FileNotFoundError:
        return True


def against_mix(client: TestClient, pressing: int, file: int = 0) -> dict[str, Any]:
    """Compares a pressed file with its mix and waits; gives the comparison."""
    path = f"/api/pressings/{pressing}/files/{file}/against"
    assert client.post(path).status_code == 202
    found: dict[str, Any] = wait_for(lambda: (now := client.get(path).json())["state"] != "running" and now)
    return found


def arrive(client: TestClient, path: str, seconds: float = 60.0) -> dict[str, Any]:
    """Brings a file in by its path and waits; gives the arrival."""
    answer = client.post("/api/arrivals/path", json={"path": path})
    assert answer.status_code == 202, answer.text
    (arrival,) = answer.json()
    # A file that changed is read as a version of the mix that it is of.
    return arrival if arrival["state"] == "done" else settled(client, arrival["id"], seconds)


def bench(*ranges: int, **more: Any) -> dict[str, Any]:
    """The bench of a mix: ranges by their starts and ends, one after the other, unnamed."""
    pairs = zip(ranges[::2], ranges[1::2], strict=True)
    parts = [{"id": f"r{at}", "start_frame": start, "end_frame": end} for at, (start, end) in enumerate(pairs)]
    ticket = [{"id": f"d{at}", "brief": "audio-cd", "range_id": part["id"]} for at, part in enumerate(parts)]
    tags = [["title", "Millrace"], ["artist", "The Sluicekeepers"]]
    return {"ranges": parts, "ticket": ticket, "tags": tags, **more}


def settled(client: TestClient, arrival: str, seconds: float = 60.0) -> dict[str, Any]:
    def ask() -> Any:
        state = client.get(f"/api/arrivals/{arrival}").json()
        return state if state["state"] != "running" else None

    found: dict[str, Any] = wait_for(ask, seconds)
    return found


def pressed(client: TestClient, number: int) -> dict[str, Any]:
    def ask() -> Any:
        state = client.get(f"/api/pressings/{number}").json()
        return state if state["state"] not in ("queued", "running") else None

    found: dict[str, Any] = wait_for(ask)
    return found
