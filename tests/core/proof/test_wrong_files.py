"""Deliberately wrong files, one wrong thing each: the check that should catch it does, and no other."""

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import mutagen
import numpy as np
import pytest
import soundfile

from ripe_press.core.blocks import Block
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.proof.against import hold_against
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Check, Finding
from ripe_press.core.rules.registry import judge
from support import ROOT, WHOLE, sampled
from support.press import delivery_of, facts_of, files_for, press_files
from support.signals import noise, write

RATE, SECONDS = 44_100, 6
FRAMES = RATE * SECONDS
LSB = 2.0**-15
TABLE = ROOT / "docs" / "wrong-files.md"
HEAD = """# Wrong files and the checks that find them

`tests/core/proof/test_wrong_files.py` damages a pressed file in one way at a time, compares it with its mix, and
writes this table. It fails if another check or none reports the fault.

| fault | CD file with dither | bit-exact FLAC | MP3 |
|---|---|---|---|
"""


def song(seed: int) -> Block:
    """Struck notes over a bed of noise, other ones on either side."""
    random, at = np.random.default_rng(seed), np.arange(FRAMES) / RATE
    out = noise(FRAMES, 2, seed, 0.004)
    for beat in np.arange(0.1, SECONDS - 0.5, 0.23):
        since = at - beat
        struck = np.where(since > 0, np.exp(-np.maximum(since, 0) * 7), 0.0)
        hz = random.choice([110.0, 147.0, 196.0, 262.0, 330.0, 523.0])
        wave = sum(np.sin(2 * np.pi * hz * part * since) / part for part in (1, 2, 3, 5))
        out += (struck * wave)[:, None] * random.uniform(0.04, 0.16, 2)
    return out


@dataclass(frozen=True)
class Pressed:
    """A whole file, what it was made of, and its samples."""

    planned: PlannedFile
    path: Path
    samples: Block


def press_one(mix: Path, folder: Path, **changes: object) -> Pressed:
    facts = facts_of(mix)
    notes = MixNotes(values=(("title", "Millrace"), ("artist", "The Sluicekeepers")))
    (file,) = files_for(delivery_of(facts, **changes), facts, notes=notes)
    (made,) = press_files(folder, [file])
    samples, _ = soundfile.read(made.path, always_2d=True)
    return Pressed(file, Path(made.path), samples)


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Pressed]:
    folder = tmp_path_factory.mktemp("wrong")
    float_mix = write(folder / "Millrace.wav", song(1), RATE, "FLOAT")
    mix = write(folder / "Millrace 24.wav", song(1), RATE, "PCM_24")
    found = {}
    for name, source, changes in (
        ("CD", float_mix, {"container": "wav", "encoding": "s16", "dither": "triangular"}),
        ("FLAC", mix, {"container": "flac", "encoding": "s24"}),
        ("MP3", mix, {"container": "mp3", "mode": "constant", "kbps": 320}),
    ):
        (folder / name).mkdir()
        found[name] = press_one(source, folder / name, **changes)
    return found


def judged(pressed: Pressed, file: Path) -> tuple[set[str], set[str]]:
    """The failed and the passed checks of a file compared with its mix."""
    path = pressed.planned.path
    case = Case(
        path, path, pressed.planned.wish, BLANK, proof=prove(file, loudness=path.codec.lossy),
        against=hold_against(path, file),
    )  # fmt: skip
    findings, checks = judge(case, "against")
    return {one.rule for one in findings if isinstance(one, Finding)}, {
        one.rule for one in checks if isinstance(one, Check)
    }


def later(samples: Block, frames: int) -> Block:
    return np.concatenate((np.zeros((frames, 2)), samples[:-frames]))


def flipped(samples: Block) -> Block:
    out = samples.copy()
    code = int(out[FRAMES // 2, 1] * 32_768)
    out[FRAMES // 2, 1] = (code ^ 0x0400) / 32_768
    return out


def dropped(samples: Block) -> Block:
    out = samples.copy()
    # Just behind an attack.
    place = int(np.argmax(np.abs(out[FRAMES // 3 : FRAMES // 2, 0]))) + FRAMES // 3
    out[place : place + round(0.005 * RATE)] = 0
    return out


def dithered(samples: Block) -> Block:
    random = np.random.default_rng(99)
    step = LSB
    triangular = random.uniform(-0.5, 0.5, samples.shape) + random.uniform(-0.5, 0.5, samples.shape)
    return np.rint(samples / step + triangular) * step


def clipped(samples: Block) -> Block:
    top = np.floor(0.6 * np.abs(samples).max() / LSB) * LSB
    return np.clip(samples, -top, top)


SOUND: dict[str, tuple[Callable[[Block], Block], str]] = {
    "one bit flipped": (flipped, "samples_as_made"),
    "clipped": (clipped, "tops_kept"),
    "mono": (lambda x: np.repeat(x.mean(axis=1, keepdims=True), 2, axis=1), "sides_as_asked"),
    "sides swapped": (lambda x: x[:, ::-1], "sides_as_asked"),
    "shifted by 1 sample": (lambda x: later(x, 1), "starts_as_asked"),
    "shifted by 1,105 samples": (lambda x: later(x, 1_105), "starts_as_asked"),
    "louder by 0.2 dB": (lambda x: x * 10 ** (0.2 / 20), "level_kept"),
    "inverted polarity": (lambda x: -x, "polarity_kept"),
    "a dropout of 5 ms": (dropped, "nothing_dropped"),
    "a different mix": (lambda _: song(2), "same_source"),
}
LOSSY = {
    "mono",
    "sides swapped",
    "shifted by 1,105 samples",
    "louder by 0.2 dB",
    "inverted polarity",
    "a different mix",
}
"""What can be done to a coded file by coding other sound; a codec turns a bit, a gap or a top into something else."""


def rewritten(pressed: Pressed, target: Path, samples: Block, rate_hz: int = RATE, tagged: bool = True) -> Path:
    """The same file with other samples, tags and all."""
    kind = {"CD": ("WAV", "PCM_16"), "FLAC": ("FLAC", "PCM_24")}["FLAC" if pressed.path.suffix == ".flac" else "CD"]
    step = 2.0**-15 if kind[1] == "PCM_16" else 2.0**-23
    soundfile.write(target, np.clip(np.rint(samples / step) * step, -1, 1 - step), rate_hz, kind[1], format=kind[0])
    if tagged:
        pressed.planned.path.tags.write(target, pressed.planned.path.codec, None)
    return target


def untagged(pressed: Pressed, target: Path) -> Path:
    """Without its title, or in a WAV, which keeps it in two places, without any."""
    if pressed.path.suffix == ".wav":
        return rewritten(pressed, target, pressed.samples, tagged=False)
    target.write_bytes(pressed.path.read_bytes())
    file = mutagen.File(target)
    del file["TIT2" if "TIT2" in file else "title"]
    file.save()
    return target


def recoded(pressed: Pressed, folder: Path, samples: Block) -> Path:
    """A lossy file of other sound, under the settings and the tags of the one that was pressed."""
    folder.mkdir(exist_ok=True)
    source = write(folder / "Millrace.wav", samples, RATE, "FLOAT")
    codec = pressed.planned.path.codec
    again = press_one(source, folder, container=codec.container, mode="constant", kbps=320)
    return again.path


def cases(pressed: Pressed, kind: str, folder: Path) -> dict[str, tuple[Path, str]]:
    """Every wrong file of one kind, and the check that should catch it."""
    found: dict[str, tuple[Path, str]] = {}
    if kind == "MP3":
        for name in LOSSY:
            make, rule = SOUND[name]
            found[name] = recoded(pressed, folder / name.replace(" ", "-"), make(song(1))), rule
        found["a tag missing"] = untagged(pressed, folder / "untagged.mp3"), "tags_read_back"
        return found
    suffix, whole = pressed.path.suffix, pressed.samples
    for at, (name, (make, rule)) in enumerate(SOUND.items()):
        found[name] = rewritten(pressed, folder / f"{at}{suffix}", make(whole)), rule
    found["the wrong rate"] = rewritten(pressed, folder / f"rate{suffix}", whole, 48_000), "rate_as_asked"
    found["one sample short"] = rewritten(pressed, folder / f"short{suffix}", whole[:-1]), "frames_as_asked"
    found["a tag missing"] = untagged(pressed, folder / f"untagged{suffix}"), "tags_read_back"
    if kind == "CD":
        rounded = np.rint(song(1).astype(np.float32).astype(float) / LSB) * LSB
        found["dither missing"] = rewritten(pressed, folder / "dry.wav", rounded), "noise_as_meant"
        found["dithered twice"] = rewritten(pressed, folder / "twice.wav", dithered(whole)), "noise_as_meant"
    return found


@pytest.mark.parametrize("kind", ["CD", "FLAC", "MP3"])
def test_a_whole_file_holds(made: dict[str, Pressed], kind: str) -> None:
    failed, hold = judged(made[kind], made[kind].path)
    assert failed == set()
    assert {"same_source", "starts_as_asked", "sides_as_asked", "polarity_kept", "level_kept"} <= hold
    assert ("samples_as_made" in hold) == (kind != "MP3")
    assert ("noise_as_meant" in hold) == (kind == "CD")


def test_file_of_few_bits_is_predicted_audible(made: dict[str, Pressed], tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", song(1), RATE, "PCM_24")
    small = press_one(mix, tmp_path, container="mp3", mode="constant", kbps=64)
    failed, _ = judged(small, small.path)
    assert failed == {"difference_heard"}
    assert "difference_heard" in judged(made["MP3"], made["MP3"].path)[1]


def test_a_file_of_another_level_of_the_same_mix_is_laid_right(made: dict[str, Pressed]) -> None:
    """The gain is reported with its figure, and other faults appear as they would without it."""
    pressed = made["CD"]
    found = hold_against(pressed.planned.path, pressed.path)
    assert found.apart and found.apart.exact
    # Triangular dither and rounding: a quarter of a squared step (Lipshitz, Wannamaker, Vanderkooy 1992).
    assert found.apart.noise_dbfs == pytest.approx(10 * np.log10(2 * LSB**2 / 4), abs=0.1)
    assert found.apart.peak_dbfs == pytest.approx(20 * np.log10(1.5 * LSB), abs=0.2)
    assert len(found.apart.curve_dbfs) == SECONDS * 10
    assert found.apart.heard and found.apart.heard.total_db < -20


def test_intended_clipping_is_reported(tmp_path: Path) -> None:
    """Twelve decibels too loud: every sample is the rendered one, and the difference is not only dither."""
    hot = press_one(write(tmp_path / "Hot.wav", song(1) * 16, RATE, "FLOAT"), tmp_path, container="wav", encoding="s16")
    found = hold_against(hot.planned.path, hot.path)
    assert found.apart and found.apart.exact
    assert found.apart.over_samples == pytest.approx(hot_samples(song(1) * 16), rel=0.01)
    failed, hold = judged(hot, hot.path)
    assert failed <= {"difference_heard"} and {"samples_as_made", "noise_as_meant"} <= hold


def hot_samples(samples: Block) -> int:
    """How many lie above full scale by more than a step."""
    heights = np.abs(samples.astype(np.float32).astype(float))
    return int(np.count_nonzero(heights > 1 + LSB))


def test_each_wrong_thing_is_caught_by_its_own_check(made: dict[str, Pressed], tmp_path: Path) -> None:
    table: dict[str, dict[str, str]] = {}
    wrong = []
    for kind, pressed in made.items():
        (tmp_path / kind).mkdir()
        for name, (file, rule) in sampled(cases(pressed, kind, tmp_path / kind).items(), 5):
            failed, _ = judged(pressed, file)
            if failed != {rule}:
                wrong.append((kind, name, rule, failed))
            table.setdefault(name, {})[kind] = rule
    assert wrong == [], "\n".join(map(str, wrong))
    rows = [
        f"| {name} | {' | '.join(f'`{row[kind]}`' if kind in row else '–' for kind in made)} |"
        for name, row in table.items()
    ]
    text = HEAD + "\n".join(rows) + "\n"
    if WHOLE and os.environ.get("RIPE_PRESS_WRITE_DOCS"):
        TABLE.write_text(text)
    assert TABLE.read_text() == text or not WHOLE
