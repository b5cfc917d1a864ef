"""An hour of work: pages that ask, presses that run, uploads that break off, streams that come and go; what it cost.

python benchmarks/load.py [MINUTES]
"""

import json
import random
import socket
import struct
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from contextlib import suppress
from http.client import HTTPConnection, HTTPException
from pathlib import Path
from statistics import quantiles
from typing import Any
from urllib.parse import urlsplit

import numpy as np
import soundfile

ASKING, RATE = 4, 48_000
STEPS = (("median", 499), ("p99", 989), ("p99.9", 998))
TICKET = [
    {"id": f"d{at}", "brief": "blank", "range_id": "r0", "changes": {"container": kind}}
    for at, kind in enumerate(("wav", "flac", "mp3", "opus"))
]


class Load:
    """One server, and everything that is done to it; what came of it is counted."""

    def __init__(self, place: Path) -> None:
        words = [str(Path(sys.executable).with_name("ripe-press")), "serve", "--port", "0", "--no-browser"]
        self.process = subprocess.Popen(
            [*words, "--data", str(place / "data")], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        )
        assert self.process.stdout
        self.netloc = urlsplit(self.process.stdout.readline().split()[-1]).netloc
        self.took: list[float] = []
        self.statuses: Counter[int] = Counter()
        self.over = threading.Event()
        self.pressed = 0

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        line = HTTPConnection(self.netloc, timeout=120)
        began = time.monotonic()
        line.request(method, path, json.dumps(body) if body else None, {"Content-Type": "application/json"})
        answer = line.getresponse()
        data = answer.read()
        line.close()
        self.took.append(time.monotonic() - began)
        self.statuses[answer.status] += 1
        return json.loads(data) if "json" in (answer.getheader("Content-Type") or "") else data

    def resources(self) -> tuple[float, int]:
        """Megabytes and open files of the server."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        megabytes = int(status.split("VmRSS:")[1].split()[0]) / 1024
        return megabytes, len(list(Path(f"/proc/{self.process.pid}/fd").iterdir()))

    def page(self, mix: int, seed: int) -> None:
        chance = random.Random(seed)
        wish = {"ranges": [{"id": "r0", "start_frame": 0, "end_frame": 30 * RATE}], "ticket": TICKET, "tags": []}
        while not self.over.is_set():
            method, path, body = chance.choice(
                [
                    ("GET", "/api/shelf", None), ("GET", "/api/press", None), ("GET", f"/api/mixes/{mix}", None),
                    ("GET", "/api/pressings?most=50", None), ("GET", "/api/outbox", None),
                    ("POST", f"/api/mixes/{mix}/ticket", wish),
                ]
            )  # fmt: skip
            with suppress(OSError, HTTPException):
                self.ask(method, path, body)

    def press(self, mix: int) -> None:
        wish = {"ranges": [{"id": "r0", "start_frame": 0, "end_frame": 30 * RATE}], "ticket": TICKET, "tags": []}
        while not self.over.is_set():
            number = self.ask("POST", "/api/pressings", {"mix_id": mix, "bench": wish})["id"]
            while not self.over.is_set():
                if self.ask("GET", f"/api/pressings/{number}")["state"] not in ("waiting", "running"):
                    self.pressed += 1
                    break
                self.over.wait(0.3)

    def nuisance(self) -> None:
        host, _, port = self.netloc.partition(":")
        while not self.over.wait(0.2):
            with suppress(OSError), socket.create_connection((host, int(port))) as line:
                head = f"POST /api/arrivals/upload?name=x.wav HTTP/1.1\r\nHost: {self.netloc}\r\n"
                line.sendall(head.encode() + b"Content-Length: 9999999\r\n\r\nRIFF" + bytes(50_000))
                line.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, struct.pack("ii", 1, 0))
            with suppress(OSError), socket.create_connection((host, int(port))) as line:
                line.sendall(f"GET /api/events HTTP/1.1\r\nHost: {self.netloc}\r\n\r\n".encode())
                line.recv(100)


def main() -> None:
    """Runs it, and prints what it came to."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    with tempfile.TemporaryDirectory() as name:
        place = Path(name)
        sound = np.random.default_rng(1).normal(size=(30 * RATE, 2)) * 0.1
        soundfile.write(place / "Weir.wav", sound, RATE, subtype="PCM_24")
        load = Load(place)
        arrival = load.ask("POST", "/api/arrivals/path", {"path": str(place / "Weir.wav")})[0]["id"]
        while (found := load.ask("GET", f"/api/arrivals/{arrival}"))["state"] == "reading":
            time.sleep(0.2)
        mix = found["mix_id"]
        time.sleep(5)
        load.took.clear()
        load.statuses.clear()
        threads = [threading.Thread(target=load.page, args=(mix, at)) for at in range(ASKING)]
        threads += [threading.Thread(target=load.press, args=(mix,)), threading.Thread(target=load.nuisance)]
        for one in threads:
            one.start()
        # Caches fill in the first minute: what grows after it would grow on.
        time.sleep(min(60, minutes * 15))
        first = load.resources()
        time.sleep(max(0, minutes * 60 - min(60, minutes * 15)))
        load.over.set()
        for one in threads:
            one.join()
        last = load.resources()
        began = time.monotonic()
        load.process.terminate()
        load.process.wait(60)
        ended = time.monotonic() - began
        steps = quantiles(load.took, n=1000)
        faults = sum(count for status, count in load.statuses.items() if status >= 500)
        print(f"{minutes:.0f} min, {len(load.took):,} answers, {faults} faults, {load.pressed} pressings of 4 files")
        told = ", ".join(f"{name} {steps[at] * 1000:.0f} ms" for name, at in STEPS)
        print(f"answers: {told}; ended in {ended:.1f} s")
        print(f"memory {first[0]:.0f} MB then {last[0]:.0f} MB; open files {first[1]} then {last[1]}")


if __name__ == "__main__":
    main()
