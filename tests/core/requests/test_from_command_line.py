import pytest

from ripe_press.core.errors import BadInput
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.from_command_line import (
    checked_level,
    parse_briefs,
    parse_changes,
    parse_level,
    refuse_overrides,
)
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.signal.limiter import Limiting


@pytest.mark.parametrize(
    ("text", "level"),
    [
        ("leave", LevelRequest()),
        ("peak=-0.3", LevelRequest("peak", -0.3)),
        ("true-peak=-1,only-down", LevelRequest("true-peak", -1.0, only_down=True)),
        ("loudness=-14,ceiling=-1", LevelRequest("loudness", -14.0, -1.0)),
        ("loudness=-14,back-off", LevelRequest("loudness", -14.0, back_off=True)),
        ("loudness=-9,dense,clip", LevelRequest("loudness", -9.0, limiting=Limiting("dense", clip=True))),
        ("loudness=-9,sides-together", LevelRequest("loudness", -9.0, limiting=Limiting(sides="together"))),
        ("loudness=-16, ceiling=-2, no-limiter", LevelRequest("loudness", -16.0, -2.0, limit=False)),
    ],
)
def test_levels_as_they_are_typed(text: str, level: LevelRequest) -> None:
    assert parse_level(text) == level


@pytest.mark.parametrize("text", ["", "loud", "peak", "peak=loud", "peak=-1,ceiling=-1", "leave,only-down", "peak=3"])
def test_levels_that_cannot_be_are_explained(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_level(text)
    assert caught.value.code in ("level.unreadable", "level.range")
    with pytest.raises(BadInput):
        checked_level(LevelRequest("loudness", -14.0, 3.0))


def test_overrides_stand_alone_and_together() -> None:
    assert parse_changes() == Changes()
    assert parse_changes(rate="keep", depth="keep") == Changes(rate_hz="keep", encoding="keep")
    made = parse_changes(rate="48000", depth="20", dither="shaped-light", channels="mono:-3", container="flac")
    assert made == Changes(
        container="flac", encoding="s20", rate_hz=48_000, channels="mono", mono_law_db=-3, dither="shaped-light"
    )
    assert parse_changes(quality="high", finish=False) == Changes(quality="high", finish=False)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"rate": "fast"}, "8000 to 384000"),
        ({"rate": "500"}, "8000 to 384000"),
        ({"depth": "12"}, "keep, 8, 16"),
        ({"dither": "much"}, "shaped-strong"),
        ({"channels": "5.1"}, "swapped"),
        ({"channels": "mono:-4"}, "mono:-3"),
        ({"container": "cassette"}, "wav, bwf, rf64, caf"),
        ({"mode": "loud"}, "constant, average, variable"),
        ({"id3": "1"}, "2.3, 2.4"),
        ({"quality": "best"}, "very-high"),
    ],
)
def test_nonsense_is_answered_with_the_options(typed: dict[str, str], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        parse_changes(**typed)  # type: ignore[arg-type]


def test_briefs_have_settings_of_their_own() -> None:
    found = parse_briefs(
        ("audio-cd", "phone-and-car:format=mp3:kbps=192:level=loudness=-14,ceiling=-1", "blank:name={title}: {rate}")
    )
    assert found["audio-cd"] == Changes()
    assert found["phone-and-car"] == Changes(container="mp3", kbps=192, level=parse_level("loudness=-14,ceiling=-1"))
    assert found["blank"].label_pattern == "{title}: {rate}"
    assert parse_briefs(("a:finish=no:channels=mono:-3",))["a"] == Changes(
        finish=False, channels="mono", mono_law_db=-3
    )


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("archive:formt=flac", "Unknown setting “formt”"),
        ("archive:kbps=many", "“many” is not a bit rate. Use 1 to 1000."),
        ("archive:finish=maybe", "Unknown answer “maybe”. Use yes, no."),
        ("archive:format=tape", "Unknown container “tape”"),
    ],
)
def test_unreadable_settings_of_a_brief(text: str, sentence: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_briefs((text,))
    assert sentence in caught.value.message


def test_a_brief_twice_with_different_settings_is_refused() -> None:
    assert parse_briefs(("archive", "archive")) == {"archive": Changes()}
    with pytest.raises(BadInput, match="twice"):
        parse_briefs(("archive", "archive:rate=48000"))


def test_an_option_that_overrides_several_briefs_is_refused() -> None:
    refuse_overrides(["container", "rate"], ["audio-cd", "audio-cd"])
    refuse_overrides(["label_pattern"], ["audio-cd", "archive"])
    with pytest.raises(BadInput) as caught:
        refuse_overrides(["label_pattern", "container"], ["audio-cd", "archive"])
    assert caught.value.message == (
        "--format overrides 2 briefs at once. Give it to each: --brief audio-cd:format=VALUE."
    )
