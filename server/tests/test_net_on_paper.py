"""The direction net on paper is the one of the page: both are held to the same cases."""

import json

import pytest

from house.places import WEB
from studies.printing import RAMP, spot

CASES = json.loads((WEB / "src/domain/net.cases.json").read_text())


@pytest.mark.parametrize("case", CASES["places"], ids=lambda c: str(c["up"]))
def test_a_direction_stands_where_the_page_draws_it(case):
    half, x, y = spot(case["up"], 1.0)
    assert half == case["disc"] and (x, -y) == pytest.approx((case["x"], case["y"]), abs=1e-8)


def test_the_colours_are_the_pages():
    assert CASES["ramp"] == RAMP
