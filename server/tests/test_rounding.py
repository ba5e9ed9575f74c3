"""Figures of many numbers at once are those of each by itself."""

import numpy as np
import pytest

from hewel.rounding import significant


@pytest.mark.parametrize("figures", [4, 6])
def test_they_are_those_of_the_written_number(figures):
    dice = np.random.default_rng(figures)
    values = dice.choice([-1, 1], 20_000) * 10 ** dice.uniform(-9, 9, 20_000)
    written = [float(f"{v:.{figures}g}") for v in values]
    assert significant(values, figures).tolist() == written, "to the last bit, for it is written out"


def test_nothing_and_what_has_no_end_stay():
    assert significant(np.array([0.0, np.inf, -np.inf]), 4).tolist() == [0.0, np.inf, -np.inf]
    assert np.isnan(significant(np.array(np.nan), 4)) and significant(np.array([]), 4).size == 0
    assert float(significant(np.float64(0.99996), 4)) == 1.0
