"""Sharp inner edges read over a material length, whatever the grid; windows at the end of a long arm."""

import numpy as np
import pytest
from shapes import box, mesh_of, rod

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.loads.cases import LoadSet, read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.edges import power, sharp_edges
from hewel_engine.strength.lines import OUTLINE
from hewel_engine.strength.reserves import reserves
from hewel_engine.strength.stressing import Stressed, stressed
from hewel_engine.strength.submodels import closer, peak_window

P = Process()
UP = np.array([0.0, 0, 1])
FORCE, ARM, WIDE = 20.0, 50.0, 20.0


def bracket(thick: float) -> Mesh:
    """A post and an arm that meet at a square inner corner at (thick, ·, thick)."""
    post, arm = (
        box(thick, WIDE, 60).translate((thick / 2, 0, 30)),
        box(ARM, WIDE, thick).translate((ARM / 2, 0, thick / 2)),
    )
    return mesh_of(post + arm)


def pushed_down(thick: float) -> LoadSet:
    """The post held at its top, the arm pushed at its end."""
    end = {"box": [[ARM - 0.1, -11, -1], [ARM + 0.1, 11, thick + 1]]}
    return read_loads(
        {
            "fixed": [{"on": {"box": [[-0.1, -11, 58], [thick + 0.1, 11, 60.1]]}}],
            "cases": [{"name": "down", "loads": [{"on": end, "force_n": [0, 0, -FORCE]}]}],
        },
        10_000,
    )


def solved(thick: float, voxel_count: int) -> Stressed:
    return stressed(bracket(thick), None, pushed_down(thick), P, voxel_count=voxel_count, solid=True)


@pytest.mark.parametrize(("turn", "wanted"), [(90, 0.4555), (60, 0.3840), (45, 0.3264), (180, 0.5)])
def test_the_power_of_an_edge_is_williams_own(turn, wanted):
    """Roots of sin(λω) + λ·sin(ω) for the angle that is filled: 270°, 240°, 225°, 360°."""
    assert power(turn) == pytest.approx(wanted, abs=5e-4)
    assert power(0.5) < 0.02, "a flat face is no edge"


def test_only_inner_edges_are_edges():
    edges = sharp_edges(bracket(8), 0.45)
    assert np.abs(edges.spots[:, [0, 2]] - 8).max() < 1e-9 and np.ptp(edges.spots[:, 1]) == pytest.approx(WIDE)
    assert edges.power == pytest.approx(0.4555, abs=5e-4)
    assert len(sharp_edges(mesh_of(box(10, 10, 10)), 0.45).spots) == 0


def test_a_sharp_corner_reads_the_same_on_any_grid():
    """Single places would read some 15 % more with every halving of the voxels, for ever."""
    least = [reserves(solved(8, voxel_count), P.stock, UP)[0].reserve for voxel_count in (60_000, 150_000)]
    assert least[0] == pytest.approx(least[1], rel=0.05)


@pytest.mark.parametrize("times", [2.0, 4.0])
def test_a_window_far_out_on_a_bending_part_says_what_the_whole_says(times):
    """It moves by 16 mm and is strained by far less: two thicknesses off the corner the post bends by M·e/I + F/A."""
    thick = 4.0
    found = solved(thick, 60_000)
    near = closer(
        found,
        bracket(thick),
        None,
        pushed_down(thick),
        P,
        peak_window(found, np.array([thick, 0, thick + 0.3]), "down", times),
        True,
    )
    at = near.points.places
    inner = (np.abs(at[:, 0] - thick) < 0.05) & (np.abs(at[:, 1]) < 3) & (near.points.lie.normals[:, 0] > 0.9)
    there = inner & (np.abs(at[:, 2] - 6.5) < 0.3)
    assert there.sum() > 20
    bending = FORCE * (ARM - thick / 2) * 6 / (WIDE * thick**2) + FORCE / (WIDE * thick)
    assert near.cases[0].stress[there, 2].mean() == pytest.approx(bending, rel=0.05)


def test_the_pull_across_the_lines_round_a_hole_is_kirschs():
    """Radially σ/2·(1 − q) − σ/2·(1 − 4q + 3q²)·cos 2θ (from the side), q = (a/r)²: nothing at the hole's own face, and
    0.2 σ two lines inside, normal to the pull.
    """
    radius, half, thick, pull = 10.0, 60.0, 6.0, 1.0
    part = mesh_of(box(2 * half, 2 * half, thick) - rod(2 * thick, radius, sides=180))
    side = lambda x: {"box": [[x - 0.1, -half - 1, -thick], [x + 0.1, half + 1, thick]]}
    loads = {
        "fixed": [{"on": side(-half)}],
        "cases": [{"name": "pull", "loads": [{"on": side(half), "force_n": [pull * 2 * half * thick, 0, 0]}]}],
    }
    found = stressed(part, None, read_loads(loads, len(part.faces)), P, voxel_count=200_000, solid=True)
    at, lie = found.points.places, found.points.lie
    across = lie.across(found.cases[0].stress, UP)
    r = np.hypot(at[:, 0], at[:, 1])
    round_it = (np.abs(at[:, 0]) < 1.5) & (r < 1.3 * radius) & (np.abs(at[:, 2]) < 0.3 * thick) & (lie.kinds == OUTLINE)
    for deep in (1, 2):
        rows = round_it & (np.abs(r - radius - deep * P.width) < 0.05)
        q = (radius / r[rows].mean()) ** 2
        wanted = pull / 2 * (1 - q) - pull / 2 * (1 - 4 * q + 3 * q * q)
        assert rows.sum() > 5 and across[rows].mean() == pytest.approx(wanted, abs=0.04), deep
    assert not np.isclose(r[round_it], radius, atol=0.02).any(), "on the face itself nothing is asked"
