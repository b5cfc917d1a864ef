"""Loops, tails, silence and tempo as the page asks for them, on music that was generated with a known truth."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
import soxr
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.cuts import RATE_HZ, music, room
from support.server import OWN, arrive, pressed
from support.signals import write

RATE = 44_100
BPM = 100
BAR = 240 * RATE // BPM


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("loops")))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def song(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Sixteen bars at 100 bpm, and their reverberation; only the sound gives the tempo."""
    random = np.random.default_rng(12)
    sound = room(music(random, 16 * 240 / BPM, "band", BPM), 1.0, 0.25, random)
    wide = soxr.resample(np.concatenate((sound, np.zeros(RATE_HZ))), RATE_HZ, RATE) * 0.4
    both = np.stack((wide, 0.8 * wide), axis=1)
    return write(tmp_path_factory.mktemp("song") / "Sluice Song.wav", both, RATE, "PCM_24")


@pytest.fixture(scope="module")
def mix(client: TestClient, song: Path) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/mixes/{arrive(client, str(song))['mix_id']}").json()
    return found


def bench(start: int, last: int, brief: str = "loop", tempo: bool = True, **edges: Any) -> dict[str, Any]:
    map_ = {"changes": [{"bar": 1, "tempo_bpm": BPM, "beats": 4, "unit": 4}], "first_bar_frame": 0}
    return {
        "ranges": [{"id": "r1", "start_frame": start, "end_frame": last, "edges": edges}],
        "ticket": [{"id": "d1", "brief": brief, "range_id": "r1"}], "tempo": map_ if tempo else None,
        "tags": [["title", "Sluice Song"], ["artist", "The Sluicekeepers"]],
    }  # fmt: skip


def ticket(client: TestClient, mix: dict[str, Any], wish: dict[str, Any]) -> dict[str, Any]:
    answer = client.post(f"/api/mixes/{mix['id']}/ticket", json=wish).json()
    assert answer["refused"] == []
    (row,) = answer["rows"]
    return dict(row)


def rules(row: dict[str, Any]) -> list[str]:
    return [one["rule"] for one in row["findings"]]


def test_continuing_music_is_never_folded_or_rung_out(client: TestClient, mix: dict[str, Any]) -> None:
    after = client.get(f"/api/mixes/{mix['id']}/after?frame={8 * BAR}").json()
    assert after["kind"] == "music" and after["sentence"].endswith("Use Cut, a fade out or Crossfade.")
    for end, remedy in (("fold", "crossfade"), ("ring", "stop")):
        row = ticket(client, mix, bench(0, 8 * BAR, end=end))
        (found,) = [one for one in row["findings"] if one["rule"] == "tail_is_music"]
        assert (row["verdict"], found["verdict"], found["remedy"]["end"]) == ("stop", "stop", remedy)
        refused = client.post("/api/pressings", json={"mix_id": mix["id"], "bench": bench(0, 8 * BAR, end=end)})
        assert refused.status_code == 422 and "The music continues after 0:19.20" in refused.json()["message"]
    # A cut at a bar line is on purpose.
    row = ticket(client, mix, bench(0, 8 * BAR, brief="audio-cd"))
    assert not [one for one in row["findings"] if one["rule"] == "end_cuts_sound"]
    row = ticket(client, mix, bench(0, 8 * BAR + 900, brief="audio-cd"))
    (found,) = [one for one in row["findings"] if one["rule"] == "end_cuts_sound"]
    assert "Ends in the music" in found["sentence"] and found["remedy"]["fade_out_s"] == 2.0
    tail = client.get(f"/api/mixes/{mix['id']}/after?frame={16 * BAR}").json()
    assert tail["kind"] == "tail" and 0.3 < tail["decay_s"] < 2.0


def test_a_loop_is_crossfaded_pressed_and_proved(client: TestClient, mix: dict[str, Any]) -> None:
    wish = bench(4 * BAR, 8 * BAR)
    row = ticket(client, mix, wish)
    assert row["verdict"] == "ready", row["findings"]
    assert [one["label"] for one in row["stations"] if one["kind"] == "range"] == ["Bars 5–8"]
    done = pressed(client, client.post("/api/pressings", json={"mix_id": mix["id"], "bench": wish}).json()["id"])
    (file,) = done["files"]
    assert file["verdict"] == "ready" and file["frames"] == 4 * BAR
    found = {one["rule"]: one["found"] for one in file["checks"]}
    assert found["loop_length"].startswith("bars 5-8 at 100bpm") and "step" in found["loop_seam"]
    rounds = client.get(f"/api/pressings/{done['id']}/files/{file['number']}/listen?times=3")
    assert len(soundfile.read(io.BytesIO(rounds.content))[0]) == 3 * file["frames"]
    sound, _ = soundfile.read(file["path"])
    assert np.abs(sound[0] - sound[-1]).max() < 3 * np.abs(np.diff(sound[:2_000], axis=0)).max()


def test_a_loop_without_tempo_or_whole_bars_is_not_ready(client: TestClient, mix: dict[str, Any]) -> None:
    row = ticket(client, mix, bench(0, 8 * BAR, tempo=False))
    (found,) = [one for one in row["findings"] if one["rule"] == "loop_tempo"]
    assert row["verdict"] == "look" and found["remedy"]["tempo"]["changes"][0]["tempo_bpm"] == BPM
    row = ticket(client, mix, bench(100, 8 * BAR + 3_000))
    (found,) = [one for one in row["findings"] if one["rule"] == "loop_length"]
    assert (found["remedy"]["start_frame"], found["remedy"]["end_frame"]) == (0, 8 * BAR)
    assert built_in_briefs()["ringtone"].require.whole_bars
    row = ticket(client, mix, bench(0, 16 * BAR, brief="ringtone"))
    (found,) = [one for one in row["findings"] if one["rule"] == "part_to_choose"]
    assert "Ringtone takes 30 s" in found["sentence"] and row["verdict"] == "look"


def test_tempo_and_silence_are_offered(client: TestClient, mix: dict[str, Any]) -> None:
    assert mix["bench"]["tempo"] is None, "nothing is guessed"
    (hint,) = client.get(f"/api/mixes/{mix['id']}/tempo-hints").json()
    assert (hint["by"], hint["bpm"], hint["others"]) == ("sound", BPM, [50.0, 200.0])
    (typed,) = client.get(f"/api/mixes/{mix['id']}/tempo-hints?bpm=96").json()
    assert (typed["bpm"], typed["first_bar_frame"]) == (96.0, 0)
    found = client.get(f"/api/mixes/{mix['id']}/sounding").json()
    assert found["silence_dbfs"] == -70.0 and found["end_frame"] < mix["frames"]
    tight = client.get(f"/api/mixes/{mix['id']}/sounding?silence_dbfs=-30").json()
    assert tight["end_frame"] < found["end_frame"] and tight["silence_dbfs"] == -30.0
    assert client.get(f"/api/mixes/{mix['id']}/sounding?silence_dbfs=5").status_code == 422
    wish = {**bench(0, mix["frames"], brief="audio-cd"), "silence_dbfs": -30.0}
    (air,) = [one for one in ticket(client, mix, wish)["findings"] if one["rule"] == "dead_air"]
    assert air["remedy"]["end_frame"] == pytest.approx(tight["end_frame"], abs=10)
    labels = [one["label"] for one in client.post(f"/api/mixes/{mix['id']}/proposals", json=wish).json()]
    assert "Trim silence" in labels and "Loop of 16 bars" in labels


def test_a_tempo_of_the_bench_is_written_into_every_file(client: TestClient, mix: dict[str, Any]) -> None:
    wish = bench(0, 4 * BAR, brief="phone-and-car")
    done = pressed(client, client.post("/api/pressings", json={"mix_id": mix["id"], "bench": wish}).json()["id"])
    import mutagen

    assert str(mutagen.File(done["files"][0]["path"]).tags["TBPM"]) == str(BPM)


def test_a_delivery_is_heard_through_its_level(client: TestClient, mix: dict[str, Any]) -> None:
    wish = bench(0, 4 * BAR, brief="audio-cd")
    wish["ticket"][0]["changes"] = {"level": {"kind": "peak", "target": -20.0}}
    client.put(f"/api/mixes/{mix['id']}/bench", json=wish)
    places = f"start_frame=0&end_frame={4 * BAR}&from_frame=0&to_frame={4 * BAR}"
    heard = [client.get(f"/api/mixes/{mix['id']}/listen?{places}{more}").content for more in ("", "&file=d1")]
    peaks = [20 * np.log10(np.abs(soundfile.read(io.BytesIO(body))[0]).max()) for body in heard]
    assert peaks[1] == pytest.approx(-20.0, abs=0.8) and peaks[0] > peaks[1] + 3
