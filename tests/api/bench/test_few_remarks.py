"""Review means something: clean material to its usual recipients has at most one finding."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, wait_for
from support.signals import noise, write

RATE = 48_000
TAGS = [["title", "Headrace"], ["artist", "The Sluicekeepers"], ["album", "Nine Weirs"], ["track", "1/9"]]
TEMPO = {"first_bar_frame": 0, "changes": [{"bar": 1, "tempo_bpm": 120, "beats": 4, "unit": 4}]}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("data")))), OWN) as client:
        yield client


def song(seconds: int) -> Any:
    """Noise that comes in quickly and dies away."""
    at = np.linspace(0, 1, RATE * seconds)
    return noise(RATE * seconds, 2, 1, 0.08) * np.minimum(1, np.minimum(at * 200, (1 - at) * 20) ** 2)[:, None]


def findings(client: TestClient, path: Path, briefs: tuple[str, ...], **more: Any) -> set[tuple[str, str]]:
    mix = client.get(f"/api/mixes/{arrive(client, str(path))['mix_id']}").json()
    wish = {**mix["bench"], "tags": TAGS, **more}
    wish.pop("version", None)
    first = wish["ranges"][0]["id"]
    wish["ticket"] = [{"id": f"d{at}", "brief": one, "range_id": first} for at, one in enumerate(briefs)]
    ticket = client.post(f"/api/mixes/{mix['id']}/ticket", json=wish).json()
    assert not ticket["refused"] and len(ticket["rows"]) == len(briefs)
    return {
        (one["rule"], one["sentence"]) for row in ticket["rows"] for one in row["findings"] if one["verdict"] != "ready"
    }


def rows(client: TestClient, mix: int, briefs: tuple[str, ...], parts: list[dict[str, Any]]) -> dict[str, Any]:
    wish = client.get(f"/api/mixes/{mix}").json()["bench"] | {"tags": TAGS}
    first = wish["ranges"][0]["id"]
    wish["ticket"] = [
        {"id": f"{brief}{at}", "brief": brief, "range_id": first, "part": part}
        for brief in briefs
        for at, part in enumerate(parts)
    ]
    found: dict[str, Any] = client.post(f"/api/mixes/{mix}/ticket", json=wish).json()
    return found


def test_a_song_to_its_usual_recipients(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Headrace.wav", song(30), RATE, "PCM_24")
    found = findings(client, path, ("audio-cd", "archive", "phone-and-car", "streaming-loud", "video", "mastering"))
    assert len(found) <= 1, found


def test_a_part_cut_at_bar_lines(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Weir.wav", noise(RATE * 20, 2, 5, 0.08), RATE, "PCM_24")
    parts = [{"id": "r1", "start_frame": RATE * 2, "end_frame": RATE * 10, "name": "Verse"}]
    assert findings(client, path, ("archive",), ranges=parts, tempo=TEMPO) == set()
    # Off the bars the same cuts are findings.
    off = [{**parts[0], "start_frame": RATE * 2 + 5_000, "end_frame": RATE * 10 + 5_000}]
    rules = {rule for rule, _ in findings(client, path, ("archive",), ranges=off, tempo=TEMPO)}
    assert "start_cuts_sound" in rules


def test_a_loop_of_whole_bars(client: TestClient, tmp_path: Path) -> None:
    # Four bars at 120 bpm that repeat without a seam: every bar is the same.
    bar = noise(RATE * 2, 2, 7, 0.08)
    path = write(tmp_path / "Wheel 120 bpm.wav", np.tile(bar, (4, 1)), RATE, "PCM_24")
    found = findings(client, path, ("loop",), tempo=TEMPO)
    assert len(found) <= 1, found


def test_stems_with_silence_in_them(client: TestClient, tmp_path: Path) -> None:
    at = song(20)
    voice, rest = at.copy(), at.copy()
    voice[: RATE * 8] = 0
    rest[RATE * 8 :] = 0
    folder = tmp_path / "stems"
    folder.mkdir()
    path = write(tmp_path / "Sluice.wav", voice + rest, RATE, "FLOAT")
    write(folder / "Sluice voice.wav", voice, RATE, "FLOAT")
    write(folder / "Sluice rest.wav", rest, RATE, "FLOAT")
    mix = arrive(client, str(path))["mix_id"]
    assert client.post(f"/api/mixes/{mix}/stems/path", json={"path": str(folder)}).status_code == 202
    wait_for(lambda: len(client.get(f"/api/mixes/{mix}/stems").json()["stems"]) == 2)
    parts = [{"stems": [name], "but": False} for name in ("voice", "rest")]
    wait_for(lambda: not rows(client, mix, ("archive",), parts)["refused"])
    ticket = rows(client, mix, ("archive", "mastering"), parts)
    found = {
        (one["rule"], one["sentence"]) for row in ticket["rows"] for one in row["findings"] if one["verdict"] != "ready"
    }
    assert len(ticket["rows"]) == 4 and len(found) <= 1, found


def test_speech_that_is_as_required(client: TestClient, tmp_path: Path) -> None:
    # Syllables at about −20 dB RMS over room tone at −66 dB, with a second of it before and three after.
    spoken = noise(RATE * 60, 1, 3, 0.25) * (np.sin(np.linspace(0, 60 * np.pi * 3, RATE * 60)) ** 2)[:, None]
    tone = noise(RATE * 64, 1, 4, 0.0005)
    tone[RATE : RATE * 61] += 0.62 * spoken
    path = write(tmp_path / "Lock keeper.wav", tone, RATE, "PCM_24")
    found = findings(client, path, ("spoken-word", "archive"))
    assert len(found) <= 1, found
