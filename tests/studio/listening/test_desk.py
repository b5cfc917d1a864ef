"""The listening desk: mix and files as sources on one timeline, exactly aligned, whatever happens to one."""

import os
import signal
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
import soxr
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.sources.source import open_file
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE, SECONDS = 48_000, 12
START, END, BEFORE = 24_000, 11 * RATE, 4_800
BRIEFS = ("archive", "audio-cd", "phone-and-car", "video-site", "streaming-loud", "smallest-web")


@pytest.fixture(scope="module")
def room(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("desk")
    with TestClient(make_app(Studio(DataFolder(folder / "data"))), OWN) as client:
        frames = RATE * SECONDS
        rise = np.linspace(0.2, 1.0, frames)[:, None]
        path = write(folder / "Weir.wav", (noise(frames, 2, 4, 0.25) * rise).astype(np.float32), RATE, "PCM_24")
        mix_id = arrive(client, str(path))["mix_id"]
        wish = bench(START, END)
        # A tenth of a second of silence leaves before the range does.
        wish["ranges"][0]["edges"] = {"silence_before_s": 0.1}
        wish["ticket"] = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(BRIEFS)]
        found = pressed(client, client.post("/api/pressings", json={"mix_id": mix_id, "bench": wish}).json()["id"])
        assert found["state"] == "done" and len(found["files"]) == len(BRIEFS), found
        yield client, path, mix_id, found


def opened(client: TestClient, *voices: dict[str, Any]) -> dict[str, Any]:
    answer = client.post("/api/desks", json={"voices": list(voices)})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def all_of(room: Any) -> list[dict[str, Any]]:
    pressing = room[3]
    return [
        {"pressing": pressing["id"]},
        *({"pressing": pressing["id"], "number": f["number"]} for f in pressing["files"]),
    ]


def block(client: TestClient, desk: dict[str, Any], start: int, frames: int) -> np.ndarray:
    answer = client.get(f"/api/desks/{desk['id']}/blocks", params={"start": start, "frames": frames})
    assert answer.status_code == 200, answer.text
    assert len(answer.content) == len(desk["voices"]) * frames * 8
    return np.frombuffer(answer.content, "<f4").reshape(len(desk["voices"]), frames, 2)


def decoded(client: TestClient, desk: dict[str, Any]) -> dict[str, Any]:
    def ask() -> Any:
        found = client.get(f"/api/desks/{desk['id']}").json()
        return None if any(one["state"] == "decoding" for one in found["voices"]) else found

    found: dict[str, Any] = wait_for(ask)
    return found


def test_every_source_is_aligned_with_the_mix_to_the_sample(room: Any) -> None:
    client, path, _, pressing = room
    desk = decoded(client, opened(client, *all_of(room)))
    assert (desk["rate_hz"], desk["frames"]) == (RATE, RATE * SECONDS)
    assert {one["state"] for one in desk["voices"]} == {"ready"}
    mix = soundfile.read(path, dtype="float32")[0]
    at = {one["title"]: one for one in desk["voices"]}
    start, frames = 200_000, 12_000
    found = block(client, desk, start, frames)
    assert np.array_equal(found[0], mix[start : start + frames])
    for voice, file in zip(desk["voices"][1:], pressing["files"], strict=True):
        assert voice["title"] == file["name"]
        assert voice["start_frame"] == START - BEFORE
        with open_file(Path(file["path"])) as reader:
            whole, own_hz = np.concatenate(list(reader.blocks())), reader.facts.rate_hz
        there = soxr.resample(whole, own_hz, RATE, quality="VHQ") if own_hz != RATE else whole
        begin = start - voice["start_frame"]
        expected = np.broadcast_to(there[begin : begin + frames], (frames, 2)).astype(np.float32)
        exact = own_hz == RATE and voice["codec"] not in ("opus", "vorbis")
        assert np.abs(found[voice["slot"]] - expected).max() <= (0 if exact else 1e-6), voice["title"]
    archive = next(one for one in at.values() if "archive" in one["title"])
    assert np.array_equal(found[archive["slot"]], found[0])
    early = block(client, desk, 0, START)
    assert early[0].any()
    assert not early[archive["slot"]].any()


def test_lossy_sources_are_aligned_with_the_mix_too(room: Any) -> None:
    """By the peak of the cross-correlation: codec delay and padding are gone, and so is the shift of the range."""
    client, *_ = room
    desk = decoded(client, opened(client, *all_of(room)))
    found = block(client, desk, 300_000, 32_768).astype(np.float64)
    for voice in desk["voices"][1:]:
        mix, file = found[0].sum(axis=1), found[voice["slot"]].sum(axis=1)
        lag = np.fft.irfft(np.fft.rfft(mix, 65_536) * np.conj(np.fft.rfft(file, 65_536))).argmax()
        assert lag == 0, voice["title"]


def test_levels_equal_those_of_the_playback(room: Any) -> None:
    client, *_ = room
    voices = opened(client, *all_of(room))["voices"]
    at = {next(b for b in BRIEFS if b == f["brief"]): v for f, v in zip(room[3]["files"], voices[1:], strict=True)}
    archive, loud, small = at["archive"], at["streaming-loud"], at["smallest-web"]
    assert (archive["gain_db"], archive["louder_db"]) == (0, 0)
    assert loud["loudness_lufs"] == pytest.approx(-14.0, abs=0.1)
    assert loud["louder_db"] == pytest.approx(loud["loudness_lufs"] - archive["loudness_lufs"], abs=0.05)
    assert [one["level_lufs"] for one in loud["plays"]] == [-14, -16, -18, -23]
    assert loud["plays"][3]["sentence"] == "9.0 dB down"
    # Two unlike sides folded into one: half the power of either, heard from both sides; and noise above 20 kHz is lost.
    assert small["channels"] == 1
    assert small["louder_db"] == pytest.approx(small["gain_db"] - 3.6, abs=0.6)


def test_another_mix_is_matched_by_the_loudness_of_all_of_it(room: Any, tmp_path: Path) -> None:
    client, *_ = room
    path = write(tmp_path / "Eel Ladder.wav", noise(44_100 * 3, 1, 12, 0.02), 44_100, "PCM_24")
    other = {"mix_id": arrive(client, str(path))["mix_id"]}
    mix, *_, beside = opened(client, *all_of(room), other)["voices"]
    assert (beside["kind"], beside["rate_hz"], beside["channels"]) == ("mix", 44_100, 1)
    assert beside["louder_db"] == pytest.approx(beside["loudness_lufs"] - mix["loudness_lufs"])
    assert beside["louder_db"] < -5


def test_setting_of_the_comparison_is_playable(room: Any) -> None:
    client, _, mix_id, _ = room
    wish = bench(START, END, ticket=[{"id": "d0", "brief": "phone-and-car", "range_id": "r0"}])
    client.put(f"/api/mixes/{mix_id}/bench", json=wish)
    (row,) = client.post(f"/api/mixes/{mix_id}/ticket", json=wish).json()["rows"]
    rung = {"file": row["id"], "container": "opus", "mode": "variable", "kbps": 96}
    desk = opened(client, {"mix_id": mix_id}, {"mix_id": mix_id, "rung": rung})
    voice = decoded(client, desk)["voices"][1]
    assert (voice["kind"], voice["state"], voice["start_frame"]) == ("rung", "ready", START)
    assert voice["title"].startswith("Ogg Opus, 96")
    mix, coded = block(client, desk, 300_000, 32_768).astype(np.float64).sum(axis=2)
    lag = np.fft.irfft(np.fft.rfft(mix, 65_536) * np.conj(np.fft.rfft(coded, 65_536))).argmax()
    assert lag == 0
    assert 0.7 < np.square(coded).sum() / np.square(mix).sum() < 1.1
    none = client.post("/api/desks", json={"voices": [{"mix_id": mix_id, "rung": {**rung, "kbps": 97}}]})
    assert (none.status_code, none.json()["code"]) == (422, "ladder.no-rung")


def test_a_passage_is_looked_at_beside_the_mix(room: Any) -> None:
    client, *_ = room
    desk = decoded(client, opened(client, *all_of(room)))
    slots = {next(b for b in BRIEFS if b == f["brief"]): at for at, f in enumerate(room[3]["files"], 1)}

    def look(slot: int, start: int = 100_000, end: int = 300_000) -> Any:
        return client.get(f"/api/desks/{desk['id']}/passage", params={"slot": slot, "start": start, "end": end})

    same = look(slots["archive"]).json()
    assert (same["rms_dbfs"], same["prediction"]) == (None, "same")
    coded = look(slots["phone-and-car"]).json()
    assert -80 < coded["rms_dbfs"] < -20 and coded["masked"]
    for slot, start, end in ((0, 0, 10), (99, 0, 10), (1, 10, 10), (1, 0, 61 * RATE)):
        assert look(slot, start, end).json()["code"] == "desk.passage"


def test_passages_are_where_all_sources_have_audio(room: Any) -> None:
    client, *_ = room
    found = {one["name"]: one for one in opened(client, *all_of(room))["passages"]}
    assert [*found] == ["start", "loudest", "quietest", "end"]
    assert found["start"]["start_frame"] == START - BEFORE
    assert found["loudest"]["start_frame"] > found["quietest"]["start_frame"]
    assert abs(found["end"]["end_frame"] - END) <= 2


def test_a_file_that_begins_before_the_mix_moves_the_mix(room: Any) -> None:
    client, path, mix_id, _ = room
    wish = bench(0, RATE)
    wish["ranges"][0]["edges"] = {"silence_before_s": 0.2}
    wish["ticket"] = [{"id": "d0", "brief": "archive", "range_id": "r0"}]
    made = pressed(client, client.post("/api/pressings", json={"mix_id": mix_id, "bench": wish}).json()["id"])
    desk = opened(client, {"mix_id": mix_id}, {"pressing": made["id"], "number": 0})
    assert [one["start_frame"] for one in desk["voices"]] == [9_600, 0]
    both = block(client, desk, 9_000, 2_000)
    assert not both[:, :600].any()
    assert np.array_equal(both[0], both[1])
    assert np.array_equal(both[0][600:], soundfile.read(path, dtype="float32")[0][:1_400])


def test_invalid_listening_desk_is_rejected(room: Any) -> None:
    client, _, mix_id, pressing = room
    assert client.post("/api/desks", json={"voices": []}).status_code == 422
    assert client.post("/api/desks", json={"voices": [{"mix_id": 999}]}).status_code == 404
    unknown = client.post("/api/desks", json={"voices": [{"pressing": pressing["id"], "number": 77}]})
    assert unknown.json()["code"] == "file.unknown"
    desk = opened(client, {"mix_id": mix_id})
    for start, frames in ((-1, 10), (0, 0), (0, RATE + 1)):
        answer = client.get(f"/api/desks/{desk['id']}/blocks", params={"start": start, "frames": frames})
        assert (answer.status_code, answer.json()["code"]) == (422, "desk.stretch")
    assert client.delete(f"/api/desks/{desk['id']}").status_code == 204
    gone = client.get(f"/api/desks/{desk['id']}/blocks", params={"start": 0, "frames": 10})
    assert (gone.status_code, gone.json()["code"]) == (404, "desk.gone")
    assert client.delete(f"/api/desks/{desk['id']}").status_code == 204


def test_closed_listening_desk_leaves_nothing(room: Any) -> None:
    client, *_ = room
    desk = decoded(client, opened(client, *all_of(room)))
    folder: Path = client.app.state.studio.desks.desk(desk["id"]).job.path
    assert list(folder.glob("voice-*"))
    client.delete(f"/api/desks/{desk['id']}")
    wait_for(lambda: not folder.exists())
    # Closed while it still decodes, too.
    desk = opened(client, *all_of(room))
    folder = client.app.state.studio.desks.desk(desk["id"]).job.path
    client.delete(f"/api/desks/{desk['id']}")
    wait_for(lambda: not folder.exists())


def test_a_file_that_goes_bad_is_silent_and_the_others_play_on(room: Any, tmp_path: Path) -> None:
    client, *_ = room
    frames = RATE * 2
    good, bad = (write(tmp_path / f"{name}.wav", noise(frames, 2, 9), RATE, "PCM_16") for name in ("good", "bad"))
    first = {"mix_id": arrive(client, str(good))["mix_id"]}
    # Another content, so that it is another mix.
    write(bad, noise(frames, 2, 10), RATE, "PCM_16")
    second = {"mix_id": arrive(client, str(bad))["mix_id"]}
    desk = opened(client, first, second)
    bad.write_bytes(bad.read_bytes()[:1_000])
    found = block(client, desk, 50_000, 1_000)
    assert found[0].any() and not found[1].any()
    voices = client.get(f"/api/desks/{desk['id']}").json()["voices"]
    assert [one["state"] for one in voices] == ["ready", "failed"]
    assert "bad.wav" in voices[1]["sentence"]
    # A restored file plays again.
    write(bad, noise(frames, 2, 10), RATE, "PCM_16")
    assert block(client, desk, 50_000, 1_000)[1].any()
    assert client.get(f"/api/desks/{desk['id']}").json()["voices"][1]["state"] == "ready"


def test_damaged_file_is_silent_with_its_reason(room: Any) -> None:
    client, _, mix_id, _ = room
    wish = bench(
        0, RATE * 2, ticket=[{"id": f"d{at}", "brief": one, "range_id": "r0"} for at, one in enumerate(BRIEFS)]
    )
    made = pressed(client, client.post("/api/pressings", json={"mix_id": mix_id, "bench": wish}).json()["id"])
    for file in made["files"]:
        if file["codec"] in ("aac", "mp3"):
            Path(file["path"]).write_bytes(b"nonsense" * 50)
    asked = [{"pressing": made["id"], "number": file["number"]} for file in made["files"]]
    desk = opened(client, {"pressing": made["id"]}, *asked)
    found = block(client, desk, RATE, 1_000)
    voices = client.get(f"/api/desks/{desk['id']}").json()["voices"]
    spoilt = {voice["slot"] for voice in voices if voice["codec"] in ("aac", "mp3")}
    assert len(spoilt) == 2
    for voice in voices:
        assert (voice["state"] == "failed") == (voice["slot"] in spoilt), voice
    assert all(voices[slot]["sentence"] and not found[slot].any() for slot in spoilt)
    assert found[0].any()


def test_a_process_that_dies_is_silent_for_a_moment(room: Any) -> None:
    client, _, mix_id, _ = room
    desk = opened(client, {"mix_id": mix_id})
    whole = block(client, desk, 1_000, 500)
    studio = client.app.state.studio  # type: ignore[attr-defined]
    hand = studio.desks._hands[0]._processes[0]
    (pid,) = hand._processes
    # Paused, so that it ends during its work: an idle one is replaced without a message.
    os.kill(pid, signal.SIGSTOP)
    with ThreadPoolExecutor(1) as other:
        asked = other.submit(block, client, desk, 1_000, 500)
        wait_for(lambda: bool(hand._pending_work_items))
        os.kill(pid, signal.SIGKILL)
        assert not asked.result().any()
    assert "Worker lost" in client.get(f"/api/desks/{desk['id']}").json()["voices"][0]["sentence"]
    assert np.array_equal(block(client, desk, 1_000, 500), whole)


def test_idle_listening_desk_is_closed(room: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    client, _, mix_id, _ = room
    monkeypatch.setattr("ripe_press.studio.listening.desk.IDLE_SECONDS", -1.0)
    first = opened(client, {"mix_id": mix_id})
    second = opened(client, {"mix_id": mix_id})
    assert client.get(f"/api/desks/{first['id']}").status_code == 404
    assert client.get(f"/api/desks/{second['id']}").status_code == 200


def test_files_without_their_mix_are_compared_with_each_other(room: Any) -> None:
    client, path, *_ = room
    path.unlink()
    answer = client.post("/api/desks", json={"voices": all_of(room)})
    assert (answer.status_code, answer.json()["code"]) == (404, "desk.no-mix")
    desk = decoded(client, opened(client, *all_of(room)[1:]))
    assert {one["kind"] for one in desk["voices"]} == {"file"}
    assert all(one.any() for one in block(client, desk, RATE, 2_000))
