import json
from dataclasses import replace
from importlib.resources import files

import pytest
from pydantic import TypeAdapter

from ripe_press.core.briefs.library import BLANK, brief_from, brief_of, built_in_briefs, check_possible
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.errors import NotFound, Unsupported
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fitting import nearest_rate
from ripe_press.core.requests.brief import Brief, Preferences, Requirements
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.rules.case import NOTHING_EXPECTED, Case, Expected
from ripe_press.core.rules.registry import judge
from ripe_press.core.stations.size.forecast import Forecast, known_size
from support.press import files_for

FILES = [entry for entry in files("ripe_press.core.briefs").iterdir() if entry.name.endswith(".json")]
FLOAT96 = SourceFacts("/mix.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)
INT44 = SourceFacts("/mix.wav", "wav", "pcm", 44_100, 2, 441_000, 16)
MONO = SourceFacts("/mix.wav", "wav", "pcm", 48_000, 1, 441_000, 24)


@pytest.mark.parametrize("entry", FILES, ids=lambda entry: entry.name)
def test_every_brief_that_ships_is_valid(entry: object) -> None:
    text = entry.read_text(encoding="utf-8")  # type: ignore[attr-defined]
    row = json.loads(text)
    TypeAdapter(Brief).validate_python({name: value for name, value in row.items() if name != "order"})
    brief = brief_from(json.loads(text))
    assert built_in_briefs()[brief.id] == brief
    assert entry.name == f"{brief.id}.json"  # type: ignore[attr-defined]
    assert brief.sentence.endswith(".")
    assert brief.why.endswith(".")


def asked_by(brief: Brief, file: PlannedFile, expected: Expected = NOTHING_EXPECTED) -> list[str]:
    """What a brief has against the format, the size and the levels of a file."""
    findings, _ = judge(Case(file.path, file.path, file.wish, brief, expected=expected), "before")
    return [one.sentence for one in findings if one.rule.startswith("brief_") and not one.field]


@pytest.mark.parametrize("brief", built_in_briefs().values(), ids=lambda brief: brief.id)
@pytest.mark.parametrize("facts", [FLOAT96, INT44, MONO], ids=["96k float", "44k1 16 bits", "mono"])
def test_every_brief_can_be_met_by_every_mix_as_it_prefers(brief: Brief, facts: SourceFacts) -> None:
    for file in files_for(brief.delivery(Stretch(0, facts.frames), facts), facts):
        assert asked_by(brief, file) == []


@pytest.mark.parametrize(
    ("brief", "facts", "encoding", "rate_hz"),
    [
        ("distributor", FLOAT96, "s24", "keep"),
        ("distributor", INT44, "s16", "keep"),
        ("archive", FLOAT96, "f32", "keep"),
        ("archive", replace(INT44, bit_depth=32), "f64", "keep"),
        ("mastering", INT44, "f32", "keep"),
        ("video", INT44, "s24", 48_000),
        ("smallest-web", FLOAT96, "lossy", 48_000),
        ("phone-and-car", INT44, "lossy", 44_100),
    ],
)
def test_mix_values_within_the_brief_are_kept(
    brief: str, facts: SourceFacts, encoding: str, rate_hz: int | None
) -> None:
    made = brief_of(brief).delivery(Stretch(0, 100), facts)
    assert (made.encoding, made.rate_hz) == (encoding, rate_hz)


def test_rates_are_divided_evenly_where_they_can_be() -> None:
    assert nearest_rate(96_000, (44_100, 48_000)) == 48_000
    assert nearest_rate(88_200, (44_100, 48_000)) == 44_100
    assert nearest_rate(192_000, (44_100, 88_200)) == 88_200
    assert nearest_rate(22_050, (44_100, 48_000)) == 44_100


@pytest.mark.parametrize(
    ("require", "prefer", "words"),
    [
        (Requirements(containers=("flac",)), Preferences(), "does not allow"),
        (Requirements(), Preferences(container="flac", encoding="f32"), "does not support 32-bit float"),
        (Requirements(encodings=("f64",)), Preferences(container="flac"), "supports none of 64-bit float"),
        (Requirements(rates_hz=(48_000,)), Preferences(rate_hz=44_100), "does not allow"),
        (Requirements(rates_hz=(700_000,)), Preferences(), "8 to 384 kHz"),
        (Requirements(channels=(6,)), Preferences(), "one or two channels"),
        (Requirements(), Preferences(kbps=320), "is lossless"),
        (Requirements(), Preferences(container="mp3", mode="constant", kbps=200), "192, 224, 256, 320 kbit/s, not 200"),
        (Requirements(), Preferences(container="opus", rate_hz=44_100), "supports 48 kHz only"),
        (Requirements(kbps_min=192), Preferences(container="mp3", kbps=128), "at least 192"),
        (Requirements(), Preferences(container="vorbis", mode="constant"), "no constant bit rate"),
    ],
)
def test_a_brief_that_asks_for_the_impossible_is_refused(
    require: Requirements, prefer: Preferences, words: str
) -> None:
    with pytest.raises(Unsupported, match=words):
        check_possible(replace(BLANK, require=require, prefer=prefer))


def test_size_limit_finding_is_as_certain_as_the_forecast() -> None:
    brief = brief_of("e-mail")
    (file,) = files_for(brief.delivery(Stretch(0, 441_000), INT44), INT44)

    def told(size: Forecast) -> list[str]:
        return asked_by(brief, file, Expected(size))

    limit, fix = "Over the 20.0 MB limit of E-mail:", "Shorten it or lower the bit rate."
    assert told(known_size(30_000_000)) == [f"{limit} 30.0 MB. {fix}"]
    assert told(Forecast(21_000_000, 24_000_000, "trial")) == [f"{limit} about 21.0 MB to 24.0 MB. {fix}"]
    assert told(Forecast(19_000_000, 21_000_000, "bit rate")) == [f"{limit} possibly 19.0 MB to 21.0 MB. {fix}"]
    assert told(Forecast(0, 30_000_000, "bound")) == told(known_size(20_000_000)) == []


def test_a_brief_that_is_not_there_is_named_with_those_that_are() -> None:
    with pytest.raises(NotFound, match="audio-cd"):
        brief_of("wax-cylinder")
