"""One mix on the bench, over HTTP: ranges, markers, tempo, channels, and looking closely."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.api.shelf.routes import mix_schema
from ripe_press.core.tags.riff_notes import append_chunks, marker_chunks
from ripe_press.core.timeline import Marker
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, settled
from support.signals import noise, rms_db, sine, write

RATE = 48_000
TEMPO = {"changes": [{"bar": 1, "tempo_bpm": 120.0}, {"bar": 3, "tempo_bpm": 60.0, "beats": 3}], "first_bar_frame": 0}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("bench")))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    """Ten seconds: a tone, two seconds of silence, a quieter tone; two markers in the file."""
    samples = np.concatenate((sine(997, 4, RATE, 0.5), np.zeros((RATE * 2, 2)), sine(8_000, 4, RATE, 0.1)))
    path = write(tmp_path_factory.mktemp("mixes") / "Millrace.wav", samples, RATE, "PCM_24")
    append_chunks(path, marker_chunks([Marker(RATE, "Verse"), Marker(RATE * 6, "Close")]))
    found: dict[str, Any] = client.get(f"/api/mixes/{arrive(client, str(path))['mix_id']}").json()
    return found


def url(mix: dict[str, Any], rest: str) -> str:
    return f"/api/mixes/{mix['id']}/{rest}"


def test_a_new_mix_comes_with_its_markers(mix: dict[str, Any]) -> None:
    assert [marker["name"] for marker in mix["bench"]["markers"]] == ["Verse", "Close"]
    assert mix["embedded"]["markers"] == mix["bench"]["markers"]
    assert [(one["start_frame"], one["end_frame"]) for one in mix["bench"]["ranges"]] == [(0, RATE * 10)]


def test_a_bench_is_kept_and_nonsense_is_not(client: TestClient, mix: dict[str, Any]) -> None:
    wish = bench(0, RATE, RATE * 2, RATE * 3, markers=[{"frame": 9, "name": "A"}], tempo=TEMPO)
    kept = client.put(url(mix, "bench"), json=wish).json()["bench"]
    assert [one["id"] for one in kept["ranges"]] == ["r0", "r1"]
    assert kept["tempo"]["changes"][1] == {"bar": 3, "tempo_bpm": 60.0, "beats": 3, "unit": 4}
    for wrong in (
        bench(5, 5),
        bench(),
        bench(0, RATE * 11),
        bench(0, 5, tempo={"changes": [{"bar": 2, "tempo_bpm": 90.0}]}),
        bench(0, 5, tempo={"changes": [{"bar": 1, "tempo_bpm": 3.0}]}),
        bench(0, 5, markers=[{"frame": RATE * 11, "name": "A"}]),
    ):
        answer = client.put(url(mix, "bench"), json=wrong)
        assert answer.status_code == 422
        assert answer.json()["message"].endswith(".")
    assert client.get(f"/api/mixes/{mix['id']}").json()["bench"] == kept


def test_several_ranges_are_several_files_that_share_their_source(client: TestClient, mix: dict[str, Any]) -> None:
    wish = bench(0, RATE, RATE * 6, RATE * 7)
    wish["ranges"][1]["name"] = "Close"
    rows = client.post(url(mix, "ticket"), json=wish).json()["rows"]
    assert [row["file_name"] for row in rows] == ["Millrace 44k1 16b.wav", "Millrace Close 44k1 16b.wav"]
    nodes = [[station["node"] for station in row["stations"]] for row in rows]
    assert nodes[0][0] == nodes[1][0]
    assert not set(nodes[0][1:]) & set(nodes[1][1:])
    done = pressed(client, client.post("/api/pressings", json={"mix_id": mix["id"], "bench": wish}).json()["id"])
    assert [file["name"] for file in done["files"]] == [row["file_name"] for row in rows]
    assert [file["frames"] for file in done["files"]] == [44_100, 44_100]
    assert rms_db(soundfile.read(done["files"][1]["path"])[0]) == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("text", "frame"), [("0:01.5", 72_000), ("75cdf", RATE), ("b3.2", RATE * 5), ("480smp", 480), ("b2.3.5", 156_000)]
)
def test_typed_times_in_every_unit(client: TestClient, mix: dict[str, Any], text: str, frame: int) -> None:
    assert client.post(url(mix, "time"), json={"text": text, "tempo": TEMPO}).json() == {"frame": frame}


def test_invalid_time_is_explained(client: TestClient, mix: dict[str, Any]) -> None:
    assert "no tempo" in client.post(url(mix, "time"), json={"text": "b3"}).json()["message"]
    assert "is not a time" in client.post(url(mix, "time"), json={"text": "soon"}).json()["message"]


def test_bars_of_a_tempo_map(client: TestClient, mix: dict[str, Any]) -> None:
    bars = client.post(url(mix, "bars"), json=TEMPO).json()
    assert [(bar["frame"] / RATE, bar["beats"]) for bar in bars] == [(0, 4), (2, 4), (4, 3), (7, 3), (10, 3)]


def test_proposals(client: TestClient, mix: dict[str, Any]) -> None:
    wish = {**bench(0, RATE * 10), "markers": mix["embedded"]["markers"]}
    labels = [one["label"] for one in client.post(url(mix, "proposals"), json=wish).json()]
    assert labels == ["2 ranges from markers", "2 parts"]


def test_markers_come_and_go_as_files(client: TestClient, mix: dict[str, Any]) -> None:
    text = "time,samples,name\r\n0:01,48000,Verse\r\n"
    found = client.post(url(mix, "markers"), json={"text": text}).json()
    assert found == [{"frame": 48_000, "name": "Verse"}]
    client.put(url(mix, "bench"), json={**bench(0, 5), "markers": found})
    csv = client.get(url(mix, "markers.csv"))
    assert "attachment" in csv.headers["content-disposition"]
    assert "48000,Verse" in csv.text
    assert client.get(url(mix, "markers.json")).json()["markers"][0]["name"] == "Verse"
    assert client.get(url(mix, "markers.xml")).status_code == 422


def test_looking_closely_at_a_range(client: TestClient, mix: dict[str, Any]) -> None:
    def peak(start: int, end: int) -> dict[str, Any]:
        asked = {"start_frame": start, "end_frame": end}
        found: dict[str, Any] = client.get(url(mix, "true-peak"), params=asked).json()
        return found

    assert peak(0, RATE * 10)["true_peak_dbtp"] == pytest.approx(-6.0, abs=0.1)
    late = peak(RATE * 6 + 100, RATE * 10 - 100)
    assert late["true_peak_dbtp"] == pytest.approx(-20.0, abs=0.1)
    assert late["frame"] >= RATE * 6
    assert peak(RATE * 5, RATE * 5 + 50)["true_peak_dbtp"] is None
    teeth = np.frombuffer(client.get(url(mix, "true-peaks")).content, "<f4")
    assert len(teeth) == -(-RATE * 10 // 8192)
    spectrum = client.get(url(mix, "spectrum"), params={"start_frame": RATE * 6, "end_frame": RATE * 10}).json()
    assert max(spectrum, key=lambda point: point[1])[0] == pytest.approx(8_000, rel=0.05)
    assert client.get(url(mix, "spectrum"), params={"start_frame": 9, "end_frame": 9}).status_code == 422
    # 997 Hz crosses zero every 48000 / 1994 samples; the frame found is the first one of the new sign.
    crossing = client.get(url(mix, "zero-crossing"), params={"frame": 1_000}).json()["frame"]
    assert crossing == math.ceil(42 * RATE / (2 * 997))
    assert client.get(url(mix, "zero-crossing"), params={"frame": RATE * 5}).json()["frame"] == RATE * 5


def test_other_channels_make_another_mix_of_the_same_file(client: TestClient, tmp_path: Path) -> None:
    samples = np.round(noise(RATE * 2, 6, level=0.05) * 2**15) / 2**15
    samples[:, 3] *= 4
    path = write(tmp_path / "Surround.wav", samples, RATE, "PCM_16")
    number = arrive(client, str(path))["mix_id"]
    folded = client.get(f"/api/mixes/{number}").json()
    assert (folded["channels"], folded["file_channels"], folded["downmix"]) == (2, 6, "bs775")
    arrival = client.put(f"/api/mixes/{number}/downmix", json={"downmix": "3+4"}).json()
    assert settled(client, arrival["id"])["state"] == "done"
    picked = client.get(f"/api/mixes/{number}").json()
    assert picked["downmix"] == "3+4"
    assert picked["measures"]["sample_peak_dbfs"] > folded["measures"]["sample_peak_dbfs"] + 3
    tile = np.frombuffer(client.get(f"/api/mixes/{number}/tiles/1/0").content, "<f4").reshape(-1, 2, 3)
    assert np.allclose(tile[:, :, 0], samples[:1024, 2:4], atol=1e-7)
    row = client.post(f"/api/mixes/{number}/ticket", json=bench(0, RATE)).json()["rows"][0]
    assert "channels 3 and 4 of 6" in row["stations"][0]["sentence"]
    done = pressed(client, client.post("/api/pressings", json={"mix_id": number, "bench": bench(0, RATE)}).json()["id"])
    assert done["state"] == "done", done["error"]
    assert client.put(f"/api/mixes/{number}/downmix", json={"downmix": "9"}).status_code == 422


def test_channels_without_labels_are_asked_for(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Seven.wav", noise(RATE, 7), RATE, "PCM_16")
    number = arrive(client, str(path))["mix_id"]
    mix = client.get(f"/api/mixes/{number}").json()
    assert (mix["downmix"], mix["channels_asked"], mix["fold_order"]) == ("1+2", True, "L R C LFE Cb Ls Rs")

    def rules() -> list[str]:
        row = client.post(f"/api/mixes/{number}/ticket", json=bench(0, RATE)).json()["rows"][0]
        return [one["rule"] for one in row["findings"]]

    assert "channels_unheard" in rules()
    arrival = client.put(f"/api/mixes/{number}/downmix", json={"downmix": "bs775"}).json()
    assert settled(client, arrival["id"])["state"] == "done"
    mix = client.get(f"/api/mixes/{number}").json()
    assert (mix["downmix"], mix["channels_asked"]) == ("bs775", False)
    assert "channels_unheard" not in rules()


def test_a_mix_from_before_there_was_a_ticket_goes_where_it_went(mix: dict[str, Any]) -> None:
    old = {"ranges": [{"id": "r1", "start_frame": 100, "end_frame": 800, "edges": {"end": "ring"}}]}
    measures = {**mix["measures"], "head_silence_frames": 0}
    stored = StoredMix(
        "Millrace", "/a.wav", False, "ab" * 32, "wav", "pcm", RATE, 2, 900, 24, "", 2, measures, {}, old, id=7,
        added_at="2026",
    )  # fmt: skip
    seen = mix_schema(stored).bench
    assert [(line.brief, line.range_id) for line in seen.ticket] == [("audio-cd", "r1")]
    assert seen.ranges[0].edges.end == "ring"
