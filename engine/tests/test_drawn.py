"""What the nozzle draws of a layer, against closed forms: lines, slits, places where no line fits."""

from math import pi

import numpy as np
import pytest
from manifold3d import CrossSection
from shapes import box, mesh_of, rod

from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process
from hewel_engine.walls.drawn import drawn, layers_drawn
from hewel_engine.walls.lines import Comb

P = Process()
UP = np.array([0, 0, 1.0])


def strip(thick, long=60.0) -> CrossSection:
    return CrossSection.square((long, thick), True)


@pytest.mark.parametrize(
    "process", [P, Process(rule="plain"), Process(width=0.42, inner_width=0.55), Process(rule="nozzle", nozzle=0.6)]
)
def test_a_wall_of_whole_lines_leaves_no_slit_and_one_between_does(process):
    comb = Comb.of(process)
    for n in range(2, comb.most + 1):
        assert drawn(strip(comb.width(n)), process).slits.area() == pytest.approx(0, abs=0.02), n
    for n in range(2, comb.most):
        half = (comb.width(n) + comb.width(n + 1)) / 2
        slit = drawn(strip(half), process).slits.area()
        if n % 2 == 0:  # both faces have as many lines; the two in the middle do not lie in each other
            left = half - comb.width(n) - process.overlap
            assert slit == pytest.approx(left * (60 - comb.width(n)), rel=0.05), n


def test_lines_run_at_their_distances_and_no_more_than_there_are_perimeters():
    lines = drawn(CrossSection.square((40, 30), True), P).lines
    assert len(lines) == P.perimeters
    for i, line in enumerate(lines):
        inset = P.width / 2 + i * P.spacing
        assert line.both.area() == pytest.approx((40 - 2 * inset) * (30 - 2 * inset), rel=1e-3)
    assert len(drawn(strip(Comb.of(P).width(2)), P).lines) == 1


def test_where_no_line_fits_it_is_bare():
    pads = CrossSection.square((20, 20)) + CrossSection.square((20, 20)).translate((30, 0))
    neck = pads + CrossSection.square((10, 0.3)).translate((20, 10))
    found = drawn(neck, P)
    assert found.bare.area() == pytest.approx(10 * 0.3, rel=0.1)
    assert found.slits.area() == pytest.approx(0, abs=0.05)
    variable = Process(variable_lines=True)
    assert drawn(neck, variable).bare.area() == 0  # a line may be laid at 0.6 of its width: 0.27 mm
    narrower = pads + CrossSection.square((10, 0.2)).translate((20, 10))
    assert drawn(narrower, variable).bare.area() == pytest.approx(10 * 0.2, rel=0.1)


def test_lines_of_variable_width_close_slits():
    comb = Comb.of(P)
    half = (comb.width(2) + comb.width(3)) / 2
    assert drawn(strip(half), P).slits.area() > 1
    assert drawn(strip(half), Process(variable_lines=True)).slits.area() == 0


def test_a_solid_block_and_a_ring_of_whole_lines_are_filled():
    block = drawn(CrossSection.square((30, 30), True), P)
    assert block.slits.area() == pytest.approx(0, abs=1e-6) and block.core.area() > 700
    ring = CrossSection.circle(15, 256) - CrossSection.circle(15 - Comb.of(P).width(2), 256)
    assert drawn(ring, P).slits.area() < 0.01 * 2 * pi * 15


def test_every_layer_of_a_part_is_looked_at():
    """A block with a fin that is too thin, from half-way up: bare there and nowhere below."""
    solid = (
        box(30, 30, 20).translate((0, 0, 10)) + box(0.3, 20, 10).translate((0, 0, 25)) + rod(2, 3).translate((9, 9, 21))
    )
    found = layers_drawn(LayerStack(mesh_of(solid), UP, P.layer), P)
    assert len(found.slits) == 150
    assert found.bare[:100].max() == 0 and found.bare[101:].min() == pytest.approx(0.3 * 20, rel=0.1)
    assert found.worst >= 100 and found.as_dict()["worst_layer"] == found.worst
