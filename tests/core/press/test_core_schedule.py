"""The distribution of files to cores; shared work is not repeated."""

from pathlib import Path

from ripe_press.core.press.core_schedule import lanes
from support.press import delivery_of, facts_of, files_for
from support.signals import noise, write

RATE = 48_000


def test_files_with_a_shared_conversion_are_made_together(tmp_path: Path) -> None:
    facts = facts_of(write(tmp_path / "mix.wav", noise(RATE), RATE))

    def path(**more: object) -> object:
        (file,) = files_for(delivery_of(facts, **more), facts)
        return file.path

    lossy = [path(container="mp3", kbps=320), path(container="aac", kbps=256), path(container="opus", kbps=160)]
    assert sorted(map(len, lanes(lossy, 2))) == [1, 2]  # type: ignore[arg-type]
    assert sorted(map(len, lanes(lossy, 8))) == [1, 1, 1]  # type: ignore[arg-type]
    assert lanes(lossy, 1) == [[0, 1, 2]]  # type: ignore[arg-type]
    shared = [
        path(container="wav", encoding="s16", rate_hz=44_100),
        path(container="flac", encoding="s24", rate_hz=44_100),
    ]
    assert lanes(shared, 2) == [[0, 1]]  # type: ignore[arg-type]
    # The cheap file goes to the core with less work.
    mixed = lanes([path(container="wav", encoding="s24"), *lossy], 2)  # type: ignore[list-item]
    assert [0] not in mixed and len(mixed) == 2
