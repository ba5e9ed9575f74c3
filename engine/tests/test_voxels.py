"""Cubes filled by a part: shares, depths, lattices, ties."""

import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.spots import spots
from hewel_engine.geometry.voxels import Grid, depths, filled, grid_over
from hewel_engine.strength.lattice import lattice_of, pieces, tie


def material(voxels) -> float:
    return float(voxels.share.sum(dtype=float)) * voxels.grid.size**3


@pytest.mark.parametrize("size", [0.7, 1.0, 2.3])
@pytest.mark.parametrize("turned", [None, 1, 2])
def test_the_cubes_hold_the_parts_volume(size, turned):
    for mesh in (sphere(9), torus(12, 4), mesh_of(box(20, 13, 7) - rod(20, 3))):
        if turned:
            mesh = Mesh(mesh.vertices @ rotation(turned).T, mesh.faces)
        voxels = filled(mesh, size)
        assert material(voxels) == pytest.approx(mesh.volume, rel=1e-5)
        assert voxels.share.min() >= 0 and voxels.share.max() <= 1


def test_a_box_on_the_grid_is_exact_and_beside_it_cut():
    on = filled(mesh_of(box(10, 6, 4)), 2.0)
    assert on.share.shape == (2, 3, 5) and (on.share == 1).all()
    beside = filled(mesh_of(box(9, 9, 9)), 2.0).share  # 4.5 cubes: the outer ones are three quarters full
    assert beside.shape == (5, 5, 5) and beside[2, 2, 0] == pytest.approx(0.75, abs=1e-6)
    assert beside[0, 0, 0] == pytest.approx(0.75**3, abs=1e-6)


def test_bodies_that_overlap_count_once():
    both = Mesh(
        np.concatenate([mesh_of(box(4, 4, 4)).vertices, mesh_of(box(4, 4, 4)).vertices + 1.0]),
        np.concatenate([mesh_of(box(4, 4, 4)).faces, mesh_of(box(4, 4, 4)).faces + 8]),
    )
    assert material(filled(both, 0.5)) == pytest.approx(2 * 64 - 27, rel=1e-6)


def test_a_window_of_the_grid_is_filled_like_the_whole():
    mesh = mesh_of(box(20, 13, 7) - rod(20, 3))
    whole = filled(mesh, 0.5)
    z, y, x = (slice(2, 9), slice(5, 19), slice(11, 30))
    low = whole.grid.origin + 0.5 * np.array([x.start, y.start, z.start])
    part = filled(mesh, 0.5, Grid(low, 0.5, (7, 14, 19)))
    assert np.allclose(part.share, whole.share[z, y, x], atol=1e-5)


def test_depth_is_the_distance_to_the_surface():
    mesh = sphere(8)
    grid = grid_over(mesh, 0.8)
    deep = depths(mesh, grid, 3.0)
    cells = np.argwhere(deep < 3)
    off = np.abs(8 - np.linalg.norm(grid.middles(cells), axis=1))
    assert np.abs(deep[tuple(cells.T)] - off).max() < 0.01
    plate = mesh_of(box(30, 30, 5))
    assert depths(plate, grid_over(plate, 1.0), 9.0)[2, 15, 15] == pytest.approx(2.5)


def test_forces_tied_to_a_lattice_keep_their_sum_and_their_moment():
    mesh = sphere(7)
    voxels = filled(mesh, 1.1)
    lattice, grid = lattice_of(voxels.share >= 0.05), voxels.grid
    rng = np.random.default_rng(3)
    points = mesh.centroids[rng.integers(0, len(mesh.faces), 300)]
    forces = rng.normal(size=(300, 3))
    ties = tie(lattice, grid, points)
    nodal = ties.spread(lattice, forces)
    at = grid.origin + lattice.nodes[:, ::-1] * grid.size
    assert np.allclose(nodal.sum(axis=0), forces.sum(axis=0))
    assert np.allclose(np.cross(at, nodal).sum(axis=0), np.cross(points, forces).sum(axis=0))
    linear = at @ rotation(4) + 2.0
    assert np.allclose(ties.at(lattice, linear), points @ rotation(4) + 2.0)


def test_cubes_that_touch_along_an_edge_are_two_pieces():
    share = np.zeros((2, 3, 3), np.float32)
    share[0, 0, 0] = share[0, 1, 1] = share[1, 1, 1] = 1
    assert pieces(share)[1] == 2
    share[0, 0, 1] = 0.04  # too little material to join them
    assert pieces(share)[1] == 2
    share[0, 0, 1] = 0.5
    assert pieces(share)[1] == 1


# --------------------------------------------------------------------------- places on a surface


def fine_pieces(triangles: np.ndarray, size: float) -> np.ndarray:
    """The same triangles quartered until no side is longer than ``size``."""
    while True:
        a, b, c = triangles.transpose(1, 0, 2)
        long = max(np.linalg.norm(p - q, axis=1).max() for p, q in ((a, b), (b, c), (c, a)))
        if long <= size:
            return triangles
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        quarters = [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
        triangles = np.concatenate([np.stack(q, axis=1) for q in quarters])


@pytest.mark.parametrize("parts", [1, 2])
def test_there_is_a_place_in_every_part_of_a_voxel_that_a_surface_passes_through(parts):
    mesh = mesh_of(rod(9, 2.6, 16).rotate((20, 35, 10)))
    grid = grid_over(mesh, 1.1)
    places, of = spots(grid, mesh.triangles, mesh.normals, parts)
    away = np.einsum("kd,kd->k", places - mesh.triangles[of, 0], mesh.normals[of])
    assert np.abs(away).max() < 1e-9
    part = lambda at: np.floor(parts * grid.places(at)).astype(int)
    side = lambda n: 2 * np.abs(n).argmax(axis=-1) + (n[np.arange(len(n)), np.abs(n).argmax(axis=-1)] > 0)
    found = {(*p, s) for p, s in zip(part(places).tolist(), side(mesh.normals[of]).tolist(), strict=True)}
    assert len(found) == len(places), "one for each part and side"
    area: dict[tuple, float] = {}
    for facet in range(len(mesh.faces)):
        pieces = fine_pieces(mesh.triangles[facet : facet + 1], 0.15)
        share = mesh.areas[facet] / len(pieces) * (parts / grid.size) ** 2
        which = int(side(mesh.normals[facet : facet + 1])[0])
        for p, count in zip(*np.unique(part(pieces.mean(axis=1)), axis=0, return_counts=True), strict=True):
            area[(*p, which)] = area.get((*p, which), 0.0) + count * share
    assert {k for k, a in area.items() if a > 0.2} <= found <= {k for k, a in area.items() if a > 0.03}


def test_places_do_not_depend_on_how_long_and_thin_the_facets_are():
    """A thin needle of a wall in two facets a side, and in many: the same parts of voxels."""
    slender = mesh_of(box(300, 0.6, 3))
    pieces = [fine_pieces(slender.triangles[k : k + 1], 2.0) for k in range(len(slender.faces))]
    normals = np.concatenate([np.repeat(n[None], len(p), axis=0) for n, p in zip(slender.normals, pieces, strict=True)])
    grid = grid_over(slender, 0.5)
    parts = [
        {tuple(p) for p in np.floor(2 * grid.places(spots(grid, *given, 2)[0]) - 1e-6).astype(int)}
        for given in ((slender.triangles, slender.normals), (np.concatenate(pieces), normals))
    ]
    assert parts[0] == parts[1] and len(parts[0]) > 600 * 12


def test_only_what_lies_in_the_grid_is_given():
    slender = mesh_of(box(300, 4, 4))
    whole = grid_over(slender, 0.5)
    window = Grid(whole.origin + np.array([100, 0, 0]), 0.5, (whole.shape[0], whole.shape[1], 40))
    places, _ = spots(window, slender.triangles, slender.normals, 2)
    assert len(places) and window.holds(places).all()
    assert np.ptp(places[:, 0]) > 19
