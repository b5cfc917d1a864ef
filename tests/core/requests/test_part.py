"""What of a mix a delivery is of."""

import pytest

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.part import MOST_STEMS, THE_MIX, Part, StemNote, check_stems, parse_part

NAMES = ("Bass", "drums", "voice", "kick+snare")


@pytest.mark.parametrize(
    ("text", "name", "stems"),
    [
        ("voice", "voice", ("voice",)),
        ("BASS + voice", "Bass + voice", ("Bass", "voice")),
        ("kick+snare", "kick+snare", ("kick+snare",)),
        ("mix-minus:voice", "all but voice", ("Bass", "drums", "kick+snare")),
        ("mix-minus: voice+bass", "all but voice + Bass", ("drums", "kick+snare")),
        ("sum", "all stems", NAMES),
    ],
)
def test_typed_parts_mean_stems(text: str, name: str, stems: tuple[str, ...]) -> None:
    (part,) = parse_part(text, NAMES)
    assert (part.name, part.chosen(NAMES)) == (name, stems)


def test_all_is_one_for_each_and_mix_is_the_mix() -> None:
    assert [one.name for one in parse_part("all", NAMES)] == list(NAMES)
    assert parse_part("mix", ()) == (THE_MIX,) and THE_MIX.is_mix and not THE_MIX.name


@pytest.mark.parametrize(
    ("text", "names", "code", "says"),
    [
        ("flute", NAMES, "stem.unknown", "Available: Bass, drums"),
        ("mix-minus:flute", NAMES, "stem.unknown", "Unknown stem “flute”"),
        ("voice", (), "stem.unknown", "Add its stems first"),
        ("all", (), "stem.none", "No audio left"),
        ("mix-minus:solo", ("solo",), "stem.none", "without solo"),
    ],
)
def test_missing_stem_is_rejected(text: str, names: tuple[str, ...], code: str, says: str) -> None:
    with pytest.raises((NotFound, BadInput), match=says) as caught:
        parse_part(text, names)
    assert caught.value.code == code


def test_a_stem_that_is_renamed_stays_chosen() -> None:
    assert Part(("bass", "voice"), but=True).renamed("Bass", "Low") == Part(("Low", "voice"), but=True)


def test_names_of_stems_are_distinct() -> None:
    facts = SourceFacts("a.wav", "wav", "pcm", 48_000, 2, 100, 24)
    with pytest.raises(BadInput, match="Two stems are named “Bass”"):
        check_stems((StemNote("Bass", facts), StemNote("bass", facts)))
    with pytest.raises(BadInput, match="maximum"):
        check_stems(tuple(StemNote(str(at), facts) for at in range(MOST_STEMS + 1)))
