"""What gives with time: a power law found again, ten years from weeks, words where it says little."""

import numpy as np
import pytest

from hewel_engine.errors import InputError
from hewel_engine.trials.drift import DESIGN_H, drift

HOURS = [1.0, 5, 24, 100, 400, 1000, 2000]


@pytest.mark.parametrize("power", [0.02, 0.06, 0.12])
def test_the_power_of_time_is_found_again(power):
    told = drift(HOURS, [0.8 * t**power for t in HOURS])
    assert told.power == pytest.approx(power, abs=1e-9) and told.share == pytest.approx(DESIGN_H**-power)
    assert told.low < told.share < told.high <= 1
    assert told.at[0][1] == pytest.approx(0.8) and told.at[-1][0] == pytest.approx(2000)


@pytest.mark.parametrize("seed", range(6))
def test_its_band_holds_the_truth(seed):
    chance, held = np.random.default_rng(seed), 0
    for _ in range(50):
        told = drift(HOURS, [0.8 * t**0.06 * np.exp(chance.normal(0, 0.02)) for t in HOURS])
        held += told.low <= DESIGN_H**-0.06 <= told.high
    assert held >= 42


def test_little_is_said_of_little():
    assert drift([], []) is None and drift([0.1, 0.5], [1.0, 1.1]) is None and drift([5.0] * 4, [1.0] * 4) is None
    assert "a guess" in " ".join(drift(HOURS[:4], [1.0, 1.1, 1.2, 1.3]).says)
    still = drift(HOURS, [1.0] * 7)
    assert still.share == 1 and "does not give" in " ".join(still.says)


@pytest.mark.parametrize(("hours", "give"), [([0.0, 1, 2], [1.0, 1, 1]), ([1.0, 2, 3], [1.0, -1, 1])])
def test_what_is_no_reading_is_refused(hours, give):
    with pytest.raises(InputError):
        drift(hours, give)
