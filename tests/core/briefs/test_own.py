"""A brief from a delivery: settings that follow the mix still do; chosen settings are required."""

from dataclasses import replace

from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.core.briefs.own import saved_brief
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.delivery import NO_CHANGES
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.stations import Codec

MIX = SourceFacts("/mix.wav", "wav", "pcm", 48_000, 2, 480_000, 24)


def test_requirements_are_those_that_were_chosen() -> None:
    base = built_in_briefs()["archive"]
    wish = base.delivery(Stretch(0, 100), MIX)
    level = LevelRequest("loudness", -14.0, -1.5)
    codec = Codec("flac", "s24", 48_000, 2, 100)
    chosen = replace(NO_CHANGES, encoding="s24")
    made = saved_brief("Mühle & Wehr", replace(wish, container="flac", level=level), base, chosen, codec)
    assert (made.id, made.title) == ("muhle-wehr", "Mühle & Wehr")
    require, prefer = made.require, made.prefer
    assert (require.containers, require.encodings, require.channels) == (("flac",), ("s24",), (2,))
    # The archive keeps the rate of the mix: none is required.
    assert (require.rates_hz, prefer.rate_hz, prefer.encoding) == ((), "keep", "s24")
    assert (require.true_peak_max_dbtp, prefer.level) == (-1.5, level)
    assert saved_brief("…", wish, base, NO_CHANGES, codec).id == "own"
