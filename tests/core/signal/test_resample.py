import pytest

from ripe_press.core.signal.resample import ConverterResponse, Resampler, measure_response
from ripe_press.core.units import frames_after_conversion
from support.signals import noise


@pytest.mark.parametrize("frames", [1, 2, 999, 12_345, 48_001])
@pytest.mark.parametrize("rates", [(96_000, 44_100), (44_100, 96_000), (48_000, 44_100), (192_000, 48_000)])
def test_the_length_is_the_exact_ratio_rounded(frames: int, rates: tuple[int, int]) -> None:
    resampler = Resampler(*rates, channels=1)
    out = len(resampler.process(noise(frames, 1))) + len(resampler.flush())
    assert out == frames_after_conversion(frames, *rates)


def response_at(response: ConverterResponse, frequency_hz: float) -> float:
    """The level in dB of the measured curve nearest to a frequency."""
    return min(response.curve, key=lambda point: abs(point[0] - frequency_hz))[1]


def test_the_curve_falls_where_the_figures_say() -> None:
    response = measure_response(96_000, 44_100, "very-high")
    assert response_at(response, 1_000) == pytest.approx(0.0, abs=0.001)
    assert response_at(response, 30_000) < -150
    assert response_at(response, response.edge_hz) == pytest.approx(-0.1, abs=0.4)


def test_the_curve_has_as_many_points_as_are_asked_for() -> None:
    assert [len(measure_response(96_000, 44_100, "high", points).curve) for points in (50, 200)] == [50, 200]
