"""A listening desk over a long mix: a block of twelve voices, against reading and converting the same bare.

    python benchmarks/desk.py [minutes]

Voices are a 48 kHz WAV, and in turn FLAC, MP3 and Opus files of it, some at 44.1 kHz. Bare is what the libraries take
for the same stretches one after the other on one core, files opened before: decoding with soundfile, converting with
soxr, with the sound before and after that a conversion needs. Times are medians of places all over the mix.
"""

import statistics
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile
import soxr
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from support.server import OWN, arrive

DESK_HZ, VOICES, PLACES = 48_000, 12, 60
KINDS = (
    ("wav", "PCM_24", 48_000),
    ("flac", "PCM_24", 48_000),
    ("mp3", "MPEG_LAYER_III", 44_100),
    ("ogg", "OPUS", 48_000),
)
LEAD_S = 0.05


def made(folder: Path, minutes: int) -> list[Path]:
    paths = []
    for suffix, subtype, rate in KINDS:
        minute = np.random.default_rng(rate).standard_normal((rate * 60, 2)) * 0.1
        path = folder / f"Long Pound {suffix}.{suffix}"
        kind = {"wav": "RF64", "flac": "FLAC", "mp3": "MP3", "ogg": "OGG"}[suffix]
        with soundfile.SoundFile(path, "w", rate, 2, subtype, format=kind) as file:
            for _ in range(minutes):
                file.write(minute)
        paths.append(path)
    return paths


def bare(files: list[soundfile.SoundFile], start_s: float, seconds: float) -> float:
    began = time.perf_counter()
    for at in range(VOICES):
        file = files[at % len(files)]
        same = file.samplerate == DESK_HZ
        first = round((start_s - (0 if same else LEAD_S)) * file.samplerate)
        file.seek(first)
        sound = file.read(round((seconds + (0 if same else 2 * LEAD_S)) * file.samplerate), dtype="float64")
        if not same:
            sound = soxr.resample(sound, file.samplerate, DESK_HZ, quality="VHQ")
        sound.astype(np.float32).tobytes()
    return time.perf_counter() - began


def main() -> None:
    minutes = int(sys.argv[1]) if len(sys.argv) > 1 else 10
    with tempfile.TemporaryDirectory() as place:
        paths = made(Path(place), minutes)
        files = [soundfile.SoundFile(path) for path in paths]
        with TestClient(make_app(Studio(DataFolder(Path(place) / "data"))), OWN) as client:
            ids = [arrive(client, str(path), 900)["mix_id"] for path in paths]
            asked = {"voices": [{"mix_id": ids[at % len(ids)]} for at in range(VOICES)]}
            desk = client.post("/api/desks", json=asked).json()
            where = f"/api/desks/{desk['id']}/blocks"
            client.get(where, params={"start": 0, "frames": 6_000})
            places = np.random.default_rng(2).integers(DESK_HZ, desk["frames"] - DESK_HZ, PLACES)
            for name, seconds in (("another place, 0.125 s", 0.125), ("the next 0.25 s", 0.25)):
                ours, theirs = [], []
                for at in places:
                    theirs.append(bare(files, int(at) / DESK_HZ, seconds))
                    began = time.perf_counter()
                    client.get(where, params={"start": int(at), "frames": round(seconds * DESK_HZ)})
                    ours.append(time.perf_counter() - began)
                ratio = statistics.median(one / other for one, other in zip(ours, theirs, strict=True))
                print(
                    f"{name:24} of {VOICES} voices: {statistics.median(ours) * 1000:5.1f} ms, "
                    f"bare on one core {statistics.median(theirs) * 1000:5.1f} ms, ratio {ratio:.2f}"
                )


if __name__ == "__main__":
    main()
