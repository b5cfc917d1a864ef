"""Blind tests against binomial tables.

Values: the one-sided binomial at one half, as in printed tables of the distribution (here from memory of NIST's and
worked out a second time by SciPy); for three alternatives by SciPy alone.
"""

import pytest
from scipy.stats import binomtest

from ripe_press.core.listening.blind import guessed_p


@pytest.mark.parametrize(
    ("right", "trials", "p"),
    [
        (7, 8, 0.0352), (8, 10, 0.0547), (9, 10, 0.0107), (10, 10, 0.0010), (10, 12, 0.0193), (12, 16, 0.0384),
        (13, 16, 0.0106), (14, 16, 0.0021), (15, 20, 0.0207), (18, 25, 0.0216), (0, 10, 1.0), (8, 16, 0.5982),
    ],
)  # fmt: skip
def test_of_two_it_is_the_table(right: int, trials: int, p: float) -> None:
    assert guessed_p(right, trials) == pytest.approx(p, abs=5e-5)


@pytest.mark.parametrize("alternatives", [2, 3])
def test_probability_equals_scipys(alternatives: int) -> None:
    for trials in (10, 16, 25, 100):
        for right in range(trials + 1):
            known = binomtest(right, trials, 1 / alternatives, alternative="greater").pvalue
            assert guessed_p(right, trials, alternatives) == pytest.approx(known, rel=1e-9)


@pytest.mark.parametrize(("trials", "enough"), [(10, 9), (12, 10), (16, 12), (20, 15), (25, 18)])
def test_the_fewest_that_count_as_heard(trials: int, enough: int) -> None:
    """Critical values for one in twenty, one-sided."""
    assert guessed_p(enough, trials) < 0.05 < guessed_p(enough - 1, trials)
