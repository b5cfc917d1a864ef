"""Simulated units: their processes, their audio, and invalid requests."""

import socket
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.live.score import Note, Score
from ripe_press.rack.instrument import Instrument, click
from ripe_press.rack.outboard import Character, Outboard
from ripe_press.rack.wire import HEAD, receive, send, tell
from ripe_press.studio.live.live_pass import unit_at
from ripe_press.studio.live.rack import begin_unit
from support.rack import unit
from support.signals import noise, sine

RATE = 48_000


def through(character: Character, sent: np.ndarray) -> np.ndarray:
    box = Outboard(RATE, 2, character)
    blocks = [box.process(sent[at : at + 1_000]) for at in range(0, len(sent), 1_000)]
    return np.concatenate([*blocks, box.process(sent[:0], last=True)])


def test_it_passes_sound_on_unchanged_and_late() -> None:
    sent = noise(9_500).astype(np.float32)
    came = through(Character(1_234), sent)
    assert np.array_equal(came[1_234:], sent[:-1_234]) and not came[:1_234].any()


def test_unit_compresses_and_distorts_loud_audio_only() -> None:
    loud, quiet = sine(1_000, 0.5, RATE, 0.8).astype(np.float32), sine(1_000, 0.5, RATE, 0.01).astype(np.float32)
    came = through(Character(warm=True), loud)
    assert 0.2 < np.abs(came[RATE // 4 :]).max() < 0.55
    assert np.allclose(through(Character(warm=True), quiet), quiet, atol=1e-5)


def test_its_clock_gives_more_or_fewer_samples_and_its_converter_hisses() -> None:
    sent = np.zeros((RATE * 10, 2), dtype=np.float32)
    assert len(through(Character(drift_ppm=100), sent)) - len(sent) == pytest.approx(48, abs=2)
    assert len(through(Character(drift_ppm=-50), sent)) - len(sent) == pytest.approx(-24, abs=2)
    hiss = through(Character(noise_dbfs=-90.0), sent)
    assert 20 * np.log10(np.sqrt(np.mean(np.square(hiss)))) == pytest.approx(-90, abs=0.2)


def test_instrument_plays_only_its_notes() -> None:
    notes = (Note(0.0, 0.1, 9, 0, 36, 120), Note(0.5, 0.9, 0, 32, 40, 90), Note(0.5, 0.9, 3, 48, 64, 90))
    player = Instrument(RATE, 2, Score(notes, 1.0), latency_frames=100)
    assert not player.process(5_000).any()
    player.cue("click", 6_000)
    player.cue("score", 20_000)
    sound = np.concatenate([player.process(1_024) for _ in range(60)])
    assert np.array_equal(sound[1_100 : 1_100 + 64], click()) and not sound[1_164:15_100].any()
    assert np.abs(sound[15_100:18_000]).max() > 0.1 and np.abs(sound[39_200:45_000]).max() > 0.05
    assert np.isfinite(sound).all() and np.abs(sound).max() < 1


def test_unit_is_a_process_that_ends_with_its_parent() -> None:
    process, address = begin_unit("instrument", hurry=5.0)
    assert unit_at(address).unit == "instrument" and not unit_at(address).busy
    assert process.stdin and process.stdout
    process.stdin.close()
    assert process.wait(10) == 0
    process.stdout.close()


def talk(address: str) -> tuple[socket.socket, object]:
    host, port = address.split(":")
    connection = socket.create_connection((host, int(port)), 5)
    file = connection.makefile("rb")
    receive(file)  # type: ignore[arg-type]
    return connection, file


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"rate_hz": 12}, "not 12 Hz"),
        ({"rate_hz": RATE, "channels": 7}, "has 2 channels, not 7"),
        ({"rate_hz": RATE, "channels": "two"}, "not two"),
        ({"rate_hz": RATE, "channels": 2, "score": "TWlk"}, "Cannot read MIDI file"),
        ({"rate_hz": RATE, "channels": 2, "score": "%"}, ""),
    ],
)
def test_unsupported_request_is_reported(asked: dict[str, object], says: str) -> None:
    with unit("instrument") as address:
        connection, file = talk(address)
        tell(connection, "OPEN", **asked)  # type: ignore[arg-type]
        told = receive(file)  # type: ignore[arg-type]
        assert told and told.kind == "FAIL" and says in told.fields()["sentence"]
        connection.close()


def test_unit_keeps_serving_after_invalid_requests(tmp_path: Path) -> None:
    with unit() as address:
        for words in (
            b"GET / HTTP/1.1\r\n\r\n",
            HEAD.pack(b"OPEN", 1 << 30, 0),
            b"",
            HEAD.pack(b"OPEN", 4, 0) + b"{]}x",
        ):
            connection, _ = talk(address)
            connection.sendall(words)
            connection.close()
        connection, file = talk(address)
        tell(connection, "OPEN", rate_hz=RATE, channels=2)
        assert receive(file).kind == "REDY"  # type: ignore[arg-type, union-attr]
        send(connection, "PLAY", b"123")
        connection.close()
        assert unit_at(address).unit == "outboard"
