"""Forecasts compared with pressed files, and the stated cut-off of a codec with the measured one."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from ripe_press.core import stations as st
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.press import OrderedFile, PressOrder, press
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.stations.size.exact import forecast_size
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.timeline import Marker
from ripe_press.core.trial import encoder_cutoff, size_after, try_path
from support.formats import SHEET
from support.press import facts_of, files_for, paths_for, whole
from support.signals import write

pytestmark = pytest.mark.slow
SECONDS = 24


@pytest.fixture(scope="module")
def music(tmp_path_factory: pytest.TempPathFactory) -> SourceFacts:
    """Noise that swells and falls, with tones in it: no two seconds pack alike."""
    rate = 48_000
    times = np.arange(SECONDS * rate) / rate
    random = np.random.default_rng(5)
    swell = 10 ** (-(40 + 30 * np.cos(2 * np.pi * times / SECONDS)) / 20)
    noise = random.standard_normal((len(times), 2)) * swell[:, None]
    tone = 0.1 * np.sin(2 * np.pi * 440 * times)
    path = write(tmp_path_factory.mktemp("music") / "Millrace.wav", noise + tone[:, None], rate, "PCM_24")
    return facts_of(path)


@pytest.fixture(scope="module")
def notes(tmp_path_factory: pytest.TempPathFactory) -> MixNotes:
    cover = tmp_path_factory.mktemp("cover") / "cover.jpg"
    Image.new("RGB", (300, 300), (90, 60, 30)).save(cover)
    return MixNotes(SHEET, str(cover), (Marker(0, "Intro"), Marker(500_000, "Refrain")), 48_000 * 3600)


def delivery(facts: SourceFacts, container: Container, **more: object) -> Delivery:
    made = BLANK.delivery(Stretch(0, facts.frames), facts)
    return replace(made, container=container, encoding="keep", gain_tags=True, **more)  # type: ignore[arg-type]


def pressed_bytes(file: PlannedFile, folder: Path, forecast: Forecast | None = None) -> int:
    ordered = OrderedFile(file, BLANK, str(folder / "out"), forecast=forecast)
    (made,) = whole(press(PressOrder((ordered,)), lambda _event: None, lambda: False))
    assert {"tags_read_back", "size_as_forecast"} <= {one.rule for one in made.checks}
    return made.proof.bytes


@pytest.mark.parametrize("container", ["wav", "bwf", "rf64", "aiff", "caf"])
@pytest.mark.parametrize("frames", [48_000, 48_001])
def test_plain_samples_are_forecast_to_the_byte(
    tmp_path: Path, music: SourceFacts, notes: MixNotes, container: Container, frames: int
) -> None:
    """Including chunks, markers, cover and padding."""
    wish = replace(delivery(music, container), stretch=Stretch(0, frames), channels="mono")
    (file,) = files_for(wish, music, notes=notes)
    forecast = size_after(file.path, try_path(file.path))
    assert forecast.exact
    assert pressed_bytes(file, tmp_path) == forecast.low == forecast.high


@pytest.mark.parametrize("container", [one for one, can in CAPABILITIES.items() if can.codec])
def test_everything_else_lies_between_the_bounds_of_a_trial(
    tmp_path: Path, music: SourceFacts, notes: MixNotes, container: Container
) -> None:
    (file,) = files_for(delivery(music, container), music, notes=notes)
    path = file.path
    cheap, forecast = forecast_size(path.codec, path.tags.content), size_after(path, try_path(path))
    found = pressed_bytes(file, tmp_path, forecast)
    assert forecast.low <= found <= forecast.high
    assert cheap.low <= found <= cheap.high
    if cheap.basis == "bound":
        assert forecast.high - forecast.low < (cheap.high - cheap.low) / 2
    assert forecast.error_percent(found) == 0


def test_a_miss_is_measured() -> None:
    told = Forecast(100, 200, "trial")
    assert [told.error_percent(found) for found in (100, 200, 400, 50)] == [0, 0, 50, 100]
    assert str(Forecast(26_592_044, 26_592_044, "exact")) == "26,592,044 bytes"
    assert str(Forecast(11_200_000, 12_900_000, "trial")) == "11.2 MB to 12.9 MB"
    assert str(Forecast(0, 900_000, "bound")) == "max 900 kB"


def test_cut_off_falls_with_the_bit_rate(music: SourceFacts) -> None:
    lost, above = [], []
    for kbps in (96, 192, 320):
        (path,) = paths_for(delivery(music, "mp3", mode="constant", kbps=kbps), music, "Millrace")
        found = try_path(path)
        assert found.mix_dbfs is not None
        assert found.difference_dbfs is not None
        assert len(found.mix_curve) == len(found.difference_curve) > 100
        lost.append(found.difference_dbfs - found.mix_dbfs)
        assert found.cutoff is not None
        assert found.above_cutoff_db is not None
        above.append(found.above_cutoff_db)
    assert lost == sorted(lost, reverse=True)
    assert lost[0] - lost[-1] > 4
    # The sooner an encoder stops, the more of the mix lies where it has stopped.
    assert 0 > above[0] > above[1] > above[2]


@pytest.mark.parametrize(
    ("container", "coding", "edge_hz"),
    [
        ("mp3", Coding("constant", 128), 16_530),
        ("mp3", Coding("constant", 192), 18_590),
        ("mp3", Coding("constant", 320), 19_980),
        ("aac", Coding("average", 128), 17_220),
        # With these encoder settings it cuts off where a low-pass of 20 kHz would (measured).
        ("aac", Coding("average", 256), 20_000),
    ],
)
def test_encoders_stop_where_they_were_measured_to(container: Container, coding: Coding, edge_hz: float) -> None:
    """Figures measured with another method on other material (pink noise of 30 s, 44.1 kHz, Welch's method)."""
    found = encoder_cutoff(container, coding, 44_100, 2)
    assert found.edge_hz == pytest.approx(edge_hz, abs=350)
    assert not found.full


def test_an_encoder_that_reaches_the_end_says_so() -> None:
    assert encoder_cutoff("aac", Coding("average", 320), 44_100, 2).full
    assert encoder_cutoff("vorbis", Coding("variable", quality=10), 44_100, 2).full


def test_rates_that_a_codec_lacks_are_met_by_a_station(music: SourceFacts) -> None:
    facts = replace(music, rate_hz=44_100)
    (path,) = paths_for(delivery(facts, "opus"), facts, "Millrace")
    assert path.rate == st.Rate(44_100, 48_000, "very-high")
    facts = replace(music, rate_hz=96_000)
    (path,) = paths_for(delivery(facts, "mp3"), facts, "Millrace")
    assert path.rate.to_hz == 48_000
