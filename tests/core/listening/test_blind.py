"""The order of a blind test, and what its result is said to mean."""

import hashlib

import pytest
from scipy.stats import chisquare

from ripe_press.core.listening.blind import guessed_p, hidden_in, meaning


def test_order_is_reproducible_from_the_seed() -> None:
    order = [hidden_in("orchard", trial, 2) for trial in range(64)]
    assert order == [int(hashlib.sha256(f"orchard:{trial}".encode()).hexdigest()[:16], 16) % 2 for trial in range(64)]
    assert order != [hidden_in("orchard ", trial, 2) for trial in range(64)]


@pytest.mark.parametrize("alternatives", [2, 3])
def test_every_alternative_is_hidden_as_often_and_none_follows_another(alternatives: int) -> None:
    order = [hidden_in(f"mill {seed}", trial, alternatives) for seed in range(1_000) for trial in range(10)]
    counts = [order.count(one) for one in range(alternatives)]
    pairs = [first * alternatives + second for first, second in zip(order[::2], order[1::2], strict=True)]
    followers = [pairs.count(one) for one in range(alternatives**2)]
    assert chisquare(counts).pvalue > 0.001
    assert chisquare(followers).pvalue > 0.001


def test_result_is_described_in_words() -> None:
    assert meaning(10, 10) == "Difference heard: 10 of 10 correct (by chance: 0.10 % of tests)."
    assert meaning(8, 10).startswith("Inconclusive: 8 of 10 correct (by chance: 5.5 % of tests).")
    assert meaning(6, 10).startswith("No difference heard: 6 of 10 correct")
    assert "does not prove that there is none" in meaning(2, 10)
    assert meaning(25, 25).endswith("under 0.01 % of tests).")
    # Of three, a third is luck.
    assert meaning(6, 10, 3).startswith("Inconclusive")
    assert meaning(5, 10, 3).startswith("No difference")


def test_nothing_right_is_certain_to_be_reached() -> None:
    assert guessed_p(0, 20) == 1.0
