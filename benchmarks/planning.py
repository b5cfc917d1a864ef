"""How long the ticket of a long mix takes, once its ranges are known: six deliveries and sixty.

    python benchmarks/planning.py [hours]

The mix is made of one minute of noise that swells and falls, over and over. Times are medians of the whole request,
from the page's question to the answer's last byte; the first one, in which ranges are measured, stands apart.
"""

import statistics
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from support.server import OWN, arrive

RATE = 44_100
BRIEFS = [name for name in built_in_briefs() if name not in ("video", "video-site")]


def long_mix(path: Path, minutes: int) -> Path:
    swell = 0.05 + 0.2 * np.sin(np.linspace(0, np.pi, 60 * RATE)) ** 2
    minute = np.random.default_rng(1).standard_normal((60 * RATE, 2)) * swell[:, None]
    with soundfile.SoundFile(path, "w", RATE, 2, "PCM_16", format="RF64") as file:
        for _ in range(minutes):
            file.write(minute)
    return path


def ticket(frames: int, deliveries: int) -> dict[str, object]:
    ranges = [
        {"id": f"r{at}", "start_frame": at * frames // 12, "end_frame": (at + 3) * frames // 12, "name": f"Part {at}"}
        for at in range(max(1, deliveries // 6))
    ]
    lines = [{"id": f"d{at}", "brief": BRIEFS[at % 6], "range_id": ranges[at // 6]["id"]} for at in range(deliveries)]
    return {"ranges": ranges, "ticket": lines}


def main() -> None:
    hours = float(sys.argv[1]) if len(sys.argv) > 1 else 3.0
    with tempfile.TemporaryDirectory() as place:
        mix = long_mix(Path(place) / "Long Pound.wav", round(hours * 60))
        with TestClient(make_app(Studio(DataFolder(Path(place) / "data"))), OWN) as client:
            began = time.perf_counter()
            number = arrive(client, str(mix), 900)["mix_id"]
            took = time.perf_counter() - began
            frames = client.get(f"/api/mixes/{number}").json()["frames"]
            print(f"{hours:g} h brought in at {frames / RATE / took:.0f} times real time")
            for deliveries in (6, 60):
                wish, times = ticket(frames, deliveries), []
                for _ in range(12):
                    began = time.perf_counter()
                    answer = client.post(f"/api/mixes/{number}/ticket", json=wish)
                    times.append(1000 * (time.perf_counter() - began))
                    assert len(answer.json()["rows"]) == deliveries, answer.text[:300]
                print(
                    f"{deliveries} deliveries: {statistics.median(times[1:]):.0f} ms, "
                    f"{times[0]:.0f} ms at first, {len(answer.content) / 1024:.0f} kB"
                )


if __name__ == "__main__":
    main()
