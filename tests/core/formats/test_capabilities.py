import pytest

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats.capabilities import CAPABILITIES, CONTAINERS, Container, Mode
from ripe_press.core.formats.coding import Coding, bit_rates, check_capable, settle_coding


def test_every_format_has_a_row_of_its_own() -> None:
    assert tuple(CAPABILITIES) == CONTAINERS
    assert len({can.title for can in CAPABILITIES.values()}) == len(CONTAINERS)
    for can in CAPABILITIES.values():
        assert can.suffix.startswith(".")
        assert bool(can.knobs) == can.lossy
        assert can.lossy == ("lossy" in can.encodings)


@pytest.mark.parametrize(
    ("container", "asked", "settled"),
    [
        ("mp3", (None, None, None), Coding("constant", 320)),
        ("mp3", ("variable", None, None), Coding("variable", quality=10)),
        ("mp3", (None, None, 4), Coding("variable", quality=4)),
        ("mp3", ("average", 200, None), Coding("average", 200)),
        ("aac", (None, None, None), Coding("average", 256)),
        ("opus", (None, 96, None), Coding("variable", 96)),
        ("vorbis", (None, None, None), Coding("variable", quality=7)),
        ("flac", (None, None, None), None),
    ],
)
def test_open_settings_get_defaults(
    container: Container, asked: tuple[Mode | None, int | None, int | None], settled: Coding | None
) -> None:
    assert settle_coding(container, 48_000, 2, *asked) == settled


@pytest.mark.parametrize(
    ("container", "rate_hz", "asked", "words"),
    [
        ("mp3", 44_100, ("constant", 200, None), "64, 80, 96, 112, 128, 160, 192, 224, 256, 320 kbit/s, not 200"),
        ("mp3", 22_050, ("constant", 320, None), "160 kbit/s, not 320"),
        ("mp3", 44_100, ("variable", 320, None), "quality from 0 to 10"),
        ("mp3", 44_100, ("constant", None, 5), "kbit/s, not a quality"),
        ("mp3", 44_100, ("variable", None, 11), "0 (smallest) to 10"),
        ("aac", 44_100, ("constant", None, None), "Use average"),
        ("aac", 8_000, (None, 128, None), "64 to 96"),
        ("opus", 48_000, (None, 600, None), "32 to 450"),
        ("vorbis", 44_100, (None, 192, None), "quality from 0 to 10"),
        ("wav", 44_100, (None, 320, None), "is lossless"),
        ("flac", 44_100, ("variable", None, None), "is lossless"),
    ],
)
def test_settings_that_do_not_exist_are_refused_with_those_that_do(
    container: Container, rate_hz: int, asked: tuple[Mode | None, int | None, int | None], words: str
) -> None:
    with pytest.raises(Unsupported) as caught:
        settle_coding(container, rate_hz, 2, *asked)
    assert words in caught.value.message


def test_pairs_that_do_not_exist_are_refused_with_those_that_do() -> None:
    for container, rate, words in (
        ("opus", 44_100, "Ogg Opus does not support 44.1 kHz. Use 48 kHz."),
        ("mp3", 96_000, "16, 22.05, 24, 32, 44.1 or 48 kHz"),
        ("vorbis", 384_000, "8 to 192 kHz"),
    ):
        with pytest.raises(Unsupported) as caught:
            check_capable(container, "lossy", rate, 2)  # type: ignore[arg-type]
        assert words in caught.value.message
    with pytest.raises(Unsupported, match="lossy: remove the bit depth"):
        check_capable("mp3", "s16", 44_100, 2)


def test_mp3_has_other_bit_rates_at_low_rates() -> None:
    assert bit_rates("mp3", 44_100, 2)[-1] == 320
    assert bit_rates("mp3", 22_050, 2)[-1] == 160


def test_bit_rates_end_where_a_channel_takes_no_more() -> None:
    assert bit_rates("opus", 48_000, 2)[-1] == 450
    assert bit_rates("opus", 48_000, 1)[-1] == 256
    assert bit_rates("aac", 8_000, 1) == (48,)
    assert bit_rates("wav", 48_000, 2) == bit_rates("vorbis", 48_000, 2) == ()
    assert settle_coding("aac", 8_000, 1, None, None, None) == Coding("average", 48)
    with pytest.raises(Unsupported, match="32 to 256 kbit/s, not 320"):
        settle_coding("opus", 48_000, 1, None, 320, None)
