"""The cards' own distributions against the numerical library's."""

import pytest
from scipy import special

from hewel_engine.reckoning.distributions import (
    noncentral_quantile,
    noncentral_student,
    normal,
    normal_quantile,
    student,
    student_quantile,
)

FREEDOMS = (0.3, 1.0, 2.0, 3.5, 9.0, 40.0, 300.0, 5000.0)


@pytest.mark.parametrize("share", [1e-6, 0.01, 0.5, 0.95, 0.9999])
def test_the_normal_one(share):
    assert normal_quantile(share) == pytest.approx(special.ndtri(share), rel=1e-9, abs=1e-10)
    assert normal(normal_quantile(share)) == pytest.approx(share, rel=1e-9)


@pytest.mark.parametrize("freedom", FREEDOMS)
def test_students(freedom):
    for t in (-40.0, -3.0, -0.2, 0.0, 1.0, 7.0):
        assert student(t, freedom) == pytest.approx(special.stdtr(freedom, t), rel=1e-8, abs=1e-12)
    for share in (0.05, 0.5, 0.9, 0.975):
        assert student_quantile(share, freedom) == pytest.approx(special.stdtrit(freedom, share), rel=1e-8, abs=1e-8)


@pytest.mark.parametrize("freedom", FREEDOMS[1:])
@pytest.mark.parametrize("shift", [0.0, 2.0, 5.2, 23.0])
def test_the_noncentral_one(freedom, shift):
    for t in (-1.0, 0.5, 3.0, shift, 1.4 * shift + 2):
        theirs = special.nctdtr(freedom, shift, t)
        if theirs == theirs:  # far out theirs gives none
            assert noncentral_student(t, freedom, shift) == pytest.approx(theirs, rel=1e-7, abs=1e-10)
        else:
            assert noncentral_student(t, freedom, shift) < 1e-10
    for share in (0.1, 0.9, 0.95):
        found = noncentral_quantile(share, freedom, shift)
        assert special.nctdtr(freedom, shift, found) == pytest.approx(share, abs=1e-8)
