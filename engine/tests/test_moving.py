"""Bodies printed in place: clearance all along the travel, after droop."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.advice.moving import separate_bodies, swept
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.travel import Travel
from hewel_engine.processes import Process

P, UP = Process(), np.array([0, 0, 1.0])
ALONG = Travel(np.array([0, 1.0, 0]), 20.0)


def prism(outline, length):
    """An outline in x and z, extruded along y, its middle at y = 0."""
    body = m3.Manifold.extrude(m3.CrossSection([outline]), length)
    return body.rotate((90, 0, 0)).translate((0, length / 2, 0))


def dovetail(gap=0.3, length=10.0):
    """A slider that narrows upward at 45° between two rails that lean over it at 45°; both stand on the plate. ``gap``
    is measured normal to the leaning faces.
    """
    slider = prism([(-10, 0), (10, 0), (6, 4), (6, 8), (-6, 8), (-6, 4)], length).translate((0, -10, 0))
    off = gap * 2**0.5
    rail = [(10 + off, 0), (18, 0), (18, 8), (6 + off, 8), (6 + off, 4)]
    frame = prism(rail, 50) + prism([(-x, z) for x, z in rail[::-1]], 50)
    frame += box(36, 4, 8).translate((0, 25, 4)) + box(36, 4, 8).translate((0, -25, 4))
    return frame, slider


def run(*bodies, travel=ALONG, needed=0.3, moving=1, up=UP, turn=None):
    mesh = mesh_of(bodies[0] + bodies[1] if len(bodies) > 1 else bodies[0])
    if turn is not None:
        mesh, up = mesh.moved(turn), turn @ up
        travel = Travel(turn @ travel.way, travel.length, None if travel.about is None else turn @ travel.about)
    return swept(mesh, up, P, [], moving, travel, needed)


def test_a_dovetail_slider_keeps_its_gap_all_along():
    found = run(*dovetail())
    assert len(found.bodies) == 2 and found.moving == 1
    assert found.drooped == pytest.approx(0.3, abs=1e-3) and found.drawn == pytest.approx(0.3, abs=1e-3)
    assert found.holds and "it runs free" in found.words
    assert len(found.shares) >= 81, "a look every quarter of a millimetre"
    tight = run(*dovetail(gap=0.25))
    assert not tight.holds and "widen the gap" in tight.words


def test_turned_anyhow_it_comes_out_the_same():
    for seed in range(4):
        found = run(*dovetail(), turn=rotation(seed))
        assert found.drooped == pytest.approx(0.3, abs=2e-3), seed


def test_a_travel_that_is_too_long_meets_the_end():
    frame, slider = dovetail()
    found = run(frame, slider, travel=Travel(ALONG.way, 32.0))
    assert not found.holds and found.shares[found.worst] > 0.9
    ends = 25 - 2 - (-10 + 5)  # from the slider's front to the bar across
    assert found.drooped[np.searchsorted(found.shares, (ends - 0.2) / 32) - 1] <= 0.45


def flange(gap):
    """A slider with a flange under level ledges ``gap`` mm above it."""
    slider = box(20, 10, 2).translate((0, -10, 1)) + box(8, 10, 8).translate((0, -10, 4))
    side = box(6, 50, 2 + gap + 3).translate((14, 0, (5 + gap) / 2))
    lip = box(8, 50, 3).translate((9.5, 0, 2 + gap + 1.5))
    bar = box(36, 4, 5 + gap).translate((0, 25, (5 + gap) / 2))
    frame = side + lip + bar
    return frame + frame.mirror((1, 0, 0)) + bar.translate((0, -50, 0)), slider


@pytest.mark.parametrize(("gap", "holds"), [(0.5, False), (0.61, True)])
def test_a_level_ledge_droops_into_the_gap(gap, holds):
    found = run(*flange(gap))
    assert found.drooped.min() == pytest.approx(gap - 0.3, abs=1e-3), "less what it droops"
    assert found.drawn.min() == pytest.approx(gap, abs=1e-3)
    assert found.holds == holds
    if not holds:
        assert "ridge or a chamfer" in found.words
        assert {c["kind"] for c in found.ceilings} & {"ledge", "bridge"}


def test_a_pin_turns_in_its_bore():
    body = box(30, 30, 12).translate((0, 0, 6)) - rod(40, 6.3, 256)
    round_pin, key = rod(12, 6, 256).translate((0, 0, 6)), box(3, 11, 12).translate((0, 3, 6))
    free = run(body, round_pin, travel=Travel(UP, 90.0, np.zeros(3)), needed=0.299)  # facets
    assert free.holds and free.drooped == pytest.approx(0.3, abs=2e-3)
    slot = box(3.6, 11.6, 40).translate((0, 3.3, 0))
    keyed = run(body - slot, round_pin + key, travel=Travel(UP, 90.0, np.zeros(3)))
    assert not keyed.holds and keyed.drooped.min() < 0, "the key meets the wall"
    assert keyed.drooped[0] > 0.25


def test_the_body_that_moves_is_the_one_pointed_at():
    found = run(*dovetail(), moving=np.array([0.0, -10, 8]))
    assert found.bodies[found.moving].volume == pytest.approx(10 * (16 * 4 + 12 * 4))


def test_a_cavity_belongs_to_its_body():
    bodies = separate_bodies(mesh_of(box(20, 20, 20) - box(10, 10, 10) + box(5, 5, 5).translate((30, 0, 0))))
    assert [b.volume for b in bodies] == pytest.approx([7000, 125])


@pytest.mark.parametrize(
    ("bodies", "kind", "words"),
    [
        ((box(10, 10, 10),), {}, "one body"),
        (dovetail(), {"moving": 7}, "no body 8"),
        (dovetail(), {"travel": Travel(np.array([0, 1.0, 0]), 0.0)}, "no length"),
    ],
)
def test_what_cannot_be_swept_is_refused_in_words(bodies, kind, words):
    with pytest.raises(Impossible, match=words):
        run(*bodies, **kind)
