"""How fast the server answers while it presses: eight readers of a long mix, and a shelf of a thousand.

python benchmarks/answers.py [--minutes 180] [--seconds 20]
"""

import argparse
import http.client
import json
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np

from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, NewMix
from ripe_press.studio.data_folder import DataFolder

COMMAND = str(Path(sys.executable).with_name("ripe-press"))
RATE = 48_000
BRIEFS = ("audio-cd", "distributor", "archive", "phone-and-car", "e-mail", "podcast")
READERS = 8


def long_mix(path: Path, minutes: int) -> int:
    """Noise that swells and fades, a minute long and repeated, so that it is quickly made."""
    swell = 0.05 + 0.2 * np.abs(np.sin(np.linspace(0, 6.28, RATE * 60)))[:, None]
    noise = np.random.default_rng(1).uniform(-1, 1, (RATE * 60, 2)) * swell
    minute = np.rint(noise * 2**31).astype(np.int32)
    with WavWriter(path, "s24", RATE, 2, minutes * 60 * RATE) as writer:
        for _ in range(minutes):
            writer.write(minute)
    return minutes * 60 * RATE


class Caller:
    """One connection, kept open as a browser does."""

    def __init__(self, port: int) -> None:
        self._line = http.client.HTTPConnection("127.0.0.1", port, timeout=120)

    def __call__(self, method: str, path: str, body: Any = None) -> bytes:
        text = None if body is None else json.dumps(body)
        self._line.request(method, f"/api{path}", text, {"Content-Type": "application/json"} if text else {})
        answer = self._line.getresponse()
        found = answer.read()
        if answer.status >= 400:
            message = f"{path}: {answer.status} {found[:200]!r}"
            raise RuntimeError(message)
        return found


def routes(frames: int, bench: Any, content: str) -> list[tuple[str, Any]]:
    """What a page asks for: (name, a function of chance that gives method, path and body)."""
    minute = 60 * RATE

    def start(chance: Any) -> int:
        return int(chance.integers(0, frames - 2 * minute))

    def measures(at: int) -> str:
        return f"/mixes/1/measures?start_frame={at}&end_frame={at + minute}"

    def range_bench(chance: Any) -> Any:
        at = start(chance)
        part = {**bench["ranges"][0], "start_frame": at, "end_frame": at + minute}
        return {**bench, "ranges": [part]}

    return [
        ("shelf", lambda _: ("GET", "/shelf", None)),
        ("press", lambda _: ("GET", "/press", None)),
        ("record", lambda _: ("GET", "/pressings", None)),
        ("pressing", lambda _: ("GET", "/pressings/1", None)),
        ("mix", lambda _: ("GET", "/mixes/1", None)),
        ("tile, coarse", lambda c: ("GET", f"/mixes/1/tiles/4096/{int(c.integers(0, 4))}?of={content}", None)),
        ("tile, fine", lambda c: ("GET", f"/mixes/1/tiles/16/{int(c.integers(0, 500))}?of={content}", None)),
        ("measures", lambda c: ("GET", measures(start(c)), None)),
        ("ticket", lambda c: ("POST", "/mixes/1/ticket", range_bench(c))),
        ("set out", lambda _: ("PUT", "/mixes/1/bench", bench)),
    ]


def main() -> None:
    words = argparse.ArgumentParser()
    words.add_argument("--minutes", type=int, default=180)
    words.add_argument("--seconds", type=float, default=20.0)
    asked = words.parse_args()
    with tempfile.TemporaryDirectory() as name:
        place = Path(name)
        frames = long_mix(place / "Long Pound.wav", asked.minutes)
        server = subprocess.Popen(
            [COMMAND, "serve", "--port", "0", "--data", str(place / "data")],
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip
        try:
            assert server.stdout
            port = int(server.stdout.readline().rsplit(":", 1)[1])
            call = Caller(port)
            call("POST", "/arrivals/path", {"path": str(place / "Long Pound.wav")})
            began = time.monotonic()
            while not json.loads(call("GET", "/shelf"))["mixes"]:
                time.sleep(0.2)
            print(f"brought in: {asked.minutes} minutes in {time.monotonic() - began:.1f} s")
            under_load(port, frames, asked.seconds)
        finally:
            server.terminate()
            server.wait()
        thousand(place)


def under_load(port: int, frames: int, seconds: float) -> None:
    """Six deliveries pressing, eight readers."""
    call = Caller(port)
    mix = json.loads(call("GET", "/mixes/1"))
    call("POST", "/pressings/batch", {"mix_ids": [1], "briefs": list(BRIEFS)})
    while not json.loads(call("GET", "/pressings/1"))["done"]:
        time.sleep(0.1)
    found: dict[str, list[float]] = defaultdict(list)
    end = time.monotonic() + seconds

    def read(seed: int) -> None:
        chance, mine = np.random.default_rng(seed), Caller(port)
        ways = routes(frames, mix["bench"], mix["content"])
        while time.monotonic() < end:
            title, make = ways[int(chance.integers(0, len(ways)))]
            method, path, body = make(chance)
            began = time.perf_counter()
            mine(method, path, body)
            found[title].append((time.perf_counter() - began) * 1000)
            time.sleep(0.05)

    readers = [threading.Thread(target=read, args=(seed,)) for seed in range(READERS)]
    for one in readers:
        one.start()
    for one in readers:
        one.join()
    # A line that nobody used meanwhile has been closed.
    state = json.loads(Caller(port)("GET", "/pressings/1"))["state"]
    print(f"{READERS} readers, a request every 50 ms each, six deliveries {state}:")
    for title, times in found.items():
        p50, p99 = np.percentile(times, (50, 99))
        print(f"  {title:14} p50 {p50:7.1f} ms   p99 {p99:7.1f} ms   of {len(times)}")


def thousand(place: Path) -> None:
    """The shelf of a thousand mixes: asked for, and asked for again."""
    folder = DataFolder(place / "data")
    database = Database(folder.database)
    (mix,) = Mixes(database).all()
    values = {name: getattr(mix, name) for name in NewMix.__slots__}
    for at in range(999):
        Mixes(database).add(NewMix(**{**values, "sha256": f"{at:064x}", "title": f"Mix {at}"}))
    database.close()
    server = subprocess.Popen(
        [COMMAND, "serve", "--port", "0", "--data", str(folder.root)],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    try:
        assert server.stdout
        port = int(server.stdout.readline().rsplit(":", 1)[1])
        time.sleep(8)
        line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)

        def ask(**headers: str) -> tuple[float, int, str, int]:
            began = time.perf_counter()
            line.request("GET", "/api/shelf", headers={key.replace("_", "-"): value for key, value in headers.items()})
            answer = line.getresponse()
            size = len(answer.read())
            return (time.perf_counter() - began) * 1000, answer.status, answer.headers["ETag"], size

        whole = [ask() for _ in range(21)]
        same = [ask(If_None_Match=whole[-1][2]) for _ in range(21)]
        print(f"shelf of 1,000: {np.median([one[0] for one in whole]):.1f} ms, {whole[0][3]:,} bytes")
        print(f"  unchanged: {np.median([one[0] for one in same]):.1f} ms, status {same[0][1]}, {same[0][3]} bytes")
    finally:
        server.terminate()
        server.wait()


if __name__ == "__main__":
    main()
