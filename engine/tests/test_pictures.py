"""Pictures of parts: where a known body lands, what is ink, and that a part and its direction turn together."""

import manifold3d as m3
import numpy as np
import pytest

from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.pictures import INK, MARGIN, Eye, picture

UP = np.array([0, 0, 1.0])
ABOVE = Eye(np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1.0]]))
"""Looks straight down."""


def test_a_block_from_above_fills_what_it_should():
    seen = picture(mesh_of(m3.Manifold.cube((40, 20, 5))), UP, 0.2, 200, 200, ABOVE)
    rows, columns = np.nonzero(seen[..., 3])
    assert np.ptp(columns) + 1 == pytest.approx(200 * (1 - 2 * MARGIN), abs=1.5)
    assert np.ptp(rows) + 1 == pytest.approx(np.ptp(columns) / 2, abs=1.5)
    assert (rows.mean(), columns.mean()) == pytest.approx((99.5, 99.5), abs=0.6)
    inside = seen[85:115, 60:140, :3].astype(int)
    assert np.ptp(inside.reshape(-1, 3), axis=0).max() == 0, "a level face has one tone, and no layers are seen on it"


def test_a_hole_is_seen_through():
    plate = m3.Manifold.cube((40, 40, 5), True) - m3.Manifold.cylinder(20, 8, 8, 96, True)
    seen = picture(mesh_of(plate), UP, 0.2, 160, 160, ABOVE)
    share = (seen[..., 3] == 0)[40:120, 40:120].sum() / (np.pi * (8 * 160 * (1 - 2 * MARGIN) / 40) ** 2)
    assert share == pytest.approx(1, abs=0.03)


def test_edges_are_ink_and_layers_are_lines():
    drawn = picture(mesh_of(m3.Manifold.cube((20, 20, 20))), UP, 0.2, 240, 240)
    seen = drawn[..., :3].astype(int)
    dark = ((np.abs(seen - INK).max(axis=2) < 60) & (drawn[..., 3] > 0)).sum()
    assert 200 < dark < 3000
    side = seen[150:200, 80]
    assert len(np.unique(side, axis=0)) >= 2 and (np.diff(side.sum(axis=1)) != 0).sum() >= 4, "the side is ruled"


@pytest.mark.parametrize("seed", range(3))
def test_a_part_and_its_direction_turned_together_look_the_same_from_above(seed):
    rng = np.random.default_rng(seed)
    turn, _ = np.linalg.qr(rng.standard_normal((3, 3)))
    turn *= np.sign(np.linalg.det(turn))
    mesh = mesh_of(m3.Manifold.cube((30, 18, 12)) + m3.Manifold.cylinder(20, 4, 4, 48).translate((8, 8, 5)))
    turned = Mesh(mesh.vertices @ turn.T, mesh.faces)
    assert covered(turned, turn @ UP) == pytest.approx(covered(mesh, UP), rel=0.03)


def covered(mesh, up) -> float:
    """mm² of the part's shadow, from its picture."""
    seen = picture(mesh, up, 0.2, 160, 160, ABOVE)[..., 3].sum() / 255
    longest = np.ptp(mesh.vertices @ upright(up).T, axis=0)[:2].max()
    return float(seen * (longest / (160 * (1 - 2 * MARGIN))) ** 2)


def test_an_open_sheet_is_drawn_from_both_sides():
    sheet = Mesh(
        np.array([[0, 0, 0], [10, 0, 0], [10, 10, 0], [0, 10, 0.0]]), np.array([[0, 2, 1], [0, 3, 2]], np.int32)
    )
    assert (picture(sheet, UP, 0.2, 60, 60, ABOVE)[..., 3] > 0).sum() > 1500
