"""What leaves larger than it is drawn, so that it comes out as drawn: 1/(1 − s) by axes."""

import manifold3d as m3
import numpy as np
import pytest

from hewel_engine.fits.numbers import given_numbers, scale_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.exports import export, plate_file
from hewel_engine.io.threemf import read_3mf, scaled_3mf, write_3mf
from hewel_engine.processes import Process

READINGS = {f"shrinkage_{a}": {"value": s, "origin": "coupon"} for a, s in zip("xyz", (0.4, 0.6, 1.0), strict=True)}


def corner() -> Mesh:
    """An L whose own origin lies outside it."""
    solid = m3.Manifold.cube((20, 4, 6)) + m3.Manifold.cube((4, 12, 6))
    out = solid.translate((30, -5, 40)).to_mesh64()
    return Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))


def test_a_scale_undoes_the_shrinkage_in_plan_and_across_the_layers():
    plan, along = scale_of(given_numbers(Process(), {"capability": READINGS}))
    assert plan * (1 - 0.005) == pytest.approx(1) and along * (1 - 0.01) == pytest.approx(1)


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_an_oriented_file_is_larger_by_it(kind):
    sizes = [np.ptp(_corners(export(corner(), (0, 0, 1), kind, "corner", s), kind), axis=0) for s in ((1, 1), (1.1, 2))]
    assert sizes[1] == pytest.approx(sizes[0] * [1.1, 1.1, 2], rel=1e-6)


def _corners(data: bytes, kind: str) -> np.ndarray:
    if kind == "3mf":
        return read_3mf(data)[0].reshape(-1, 3)
    return np.frombuffer(data[84:], np.dtype([("v", "<f4", 12), ("a", "<u2")]))["v"].reshape(-1, 3)[1:4:1]


@pytest.mark.parametrize("up", [(0, 0, 1), (0.6, 0, 0.8)])
def test_copies_grow_about_their_own_middle_and_stand_on_the_plate(up):
    items = [[100.0, 50.0, 0.0], [10.0, 20.0, 90.0]]
    drawn, larger = (
        read_3mf(plate_file(corner(), up, items, "corner", [], "together", "0a1b", s))[0].reshape(2, -1, 3)
        for s in ((1.0, 1.0), (1.02, 1.05))
    )
    for a, b in zip(drawn, larger, strict=True):
        middle = lambda rows: (rows.min(axis=0) + rows.max(axis=0)) / 2
        assert middle(b)[:2] == pytest.approx(middle(a)[:2])
        assert b[:, 2].min() == pytest.approx(0, abs=1e-6) and np.ptp(b[:, 2]) == pytest.approx(1.05 * np.ptp(a[:, 2]))
    assert np.ptp(larger[0], axis=0)[:2] == pytest.approx(1.02 * np.ptp(drawn[0], axis=0)[:2])


def test_pieces_are_scaled_where_they_lie():
    data = write_3mf([("one", corner()), ("two", corner())], "pieces")
    before, after = read_3mf(data)[0], read_3mf(scaled_3mf(data, 1.01, 1.03))[0]
    assert after == pytest.approx(before * [1.01, 1.01, 1.03])
    assert scaled_3mf(data, 1.01, 1.03) == scaled_3mf(data, 1.01, 1.03)
