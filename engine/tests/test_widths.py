"""What thickness is advised: by shape, by what a wall carries, by the written loads, by how it stands on the plate."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.advice.widths import ENOUGH, Advice, advised, burden_of
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.loaded_bodies import touched_by
from hewel_engine.strength.reserves import reserves
from hewel_engine.strength.stressing import COARSE, stressed
from hewel_engine.walls.lines import Comb, Plates
from hewel_engine.walls.thickness import thickness_of
from hewel_engine.walls.zones import Zone, walls_of

P = Process()
COMB = Comb.of(P)
UP = np.array([0.0, 0, 1])
NONE = np.zeros(0, np.int64)


def result(part: m3.Manifold | Mesh, up=None, loads=None, factor=1.0) -> list[tuple[Zone, Advice]]:
    """Every wall with what is advised for it, the largest first."""
    mesh = part if isinstance(part, Mesh) else mesh_of(part)
    found = thickness_of(mesh)
    zones = walls_of(found, COMB, None if up is None else Plates.of(P, up)).zones
    given = loads and read_loads(loads, len(mesh.faces))
    solved = given and stressed(mesh, None, given, P, voxel_count=COARSE)
    touched = touched_by(mesh, None, given) if given else NONE
    burden = burden_of(found, find_bores(mesh), [], touched, solved, P, UP if up is None else up, factor)
    return sorted(((z, advised(z, COMB, P, burden)) for z in zones), key=lambda row: -row[0].area)


def strip(thick: float, long=70.0, wide=24.0) -> m3.Manifold:
    """A flat arm lying along x, built on its edge: y is up through the strip's width."""
    return box(long, thick, wide)


def pulled(force: float, thick: float, long=70.0, wide=24.0) -> dict:
    """Held at its left end, pushed aside at the right one."""
    half, t, w = long / 2, thick / 2 + 0.1, wide / 2 + 0.1
    return {
        "fixed": [{"on": {"box": [[-half - 0.1, -t, -w], [-half + 0.05, t, w]]}}],
        "cases": [
            {
                "name": "aside",
                "loads": [{"on": {"box": [[half - 0.05, -t, -w], [half + 0.1, t, w]]}, "force_n": [0, force, 0]}],
            }
        ],
    }


# ------------------------------------------------------------------ shape


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize(
    "solid", [rod(60, 7), box(60, 9, 9), box(24, 20, 12), rod(30, 4, axis="x") + box(40, 30, 12).translate((34, 0, 0))]
)
def test_posts_arms_and_blocks_are_no_walls_and_are_left_as_they_are(solid, turned):
    part = solid.transform(np.c_[rotation(4), [5, 6, 7]]) if turned else solid
    for zone, advice in result(part):
        assert not zone.wide and advice.rows == [], zone
        assert zone.advice == zone.usual


def test_a_bar_that_leaves_a_slit_is_only_ever_made_thicker():
    thick = (COMB.width(4) + COMB.width(5)) / 2 - 0.08  # nearer to the thinner one
    ((zone, advice), *_) = result(rod(50, thick / 2, sides=96))
    assert zone.kind == "gap" and [row.size for row in advice.rows] == pytest.approx([COMB.width(5)])


@pytest.mark.parametrize("turned", [False, True])
def test_a_panel_over_empty_space_is_advised_the_usual_wall(turned):
    part = box(70, 50, 6)
    part = part.transform(np.c_[rotation(4), [5, 6, 7]]) if turned else part
    (zone, advice) = result(part)[0]
    assert zone.wide and zone.kind == "heavy" and advice.because is None
    (row,) = advice.rows
    usual = min(COMB.good, key=lambda w: abs(w - 2))
    assert row.advised and row.size == pytest.approx(usual)
    assert row.grams == pytest.approx((usual - 6) * zone.area * 1e-3 * P.stock.density, rel=1e-3)
    assert row.holds == pytest.approx(((usual / 6) ** 2, usual / 6), rel=1e-3)


def test_a_tube_is_a_wall_and_a_ring_of_wire_is_none():
    assert all(zone.wide for zone, _ in result(rod(60, 20, 96) - rod(80, 16, 96)))
    assert not any(zone.wide for zone, _ in result(rod(4, 20, 96) - rod(8, 16, 96)))


# ------------------------------------------------------------------ what it carries


def test_what_has_a_hole_in_it_waits_for_the_loads():
    (zone, advice) = result(box(70, 50, 6) - rod(20, 4).translate((20, 10, 0)))[0]
    assert zone.kind == "heavy" and (advice.rows, advice.because) == ([], "loads")


def test_what_holds_the_part_waits_for_the_loads_too():
    mesh = mesh_of(box(70, 6, 50))
    found = thickness_of(mesh)
    held = read_loads({"fixed": [{"on": {"box": [[-36, -4, -26], [-30, 4, 26]]}}], "cases": []}, len(mesh.faces))
    burden = burden_of(found, [], [], touched_by(mesh, None, held), None, P, UP)
    (zone,) = (z for z in walls_of(found, COMB).zones if z.kind == "heavy")
    assert advised(zone, COMB, P, burden).because == "loads"


def reserve_of(part: m3.Manifold, loads: dict) -> float:
    mesh = mesh_of(part)
    return min(
        r.reserve for r in reserves(stressed(mesh, None, read_loads(loads), P, voxel_count=60_000, up=UP), P.stock, UP)
    )


def test_thinner_is_advised_as_far_as_the_written_loads_allow():
    """Bent aside, a strip's reserve goes by the square of its thickness: the advised one must still hold."""
    at_one = reserve_of(strip(6), pulled(1.0, 6))
    usual = min(COMB.good, key=lambda w: abs(w - 2))
    light = at_one * (usual / 6) ** 2 / 1.6  # N at which the usual wall keeps 1.6
    (_, advice) = result(strip(6), loads=pulled(light, 6))[0]
    (row,) = advice.rows
    assert row.size == pytest.approx(usual) and advice.reserve == pytest.approx(at_one / light, rel=0.25)
    assert reserve_of(strip(row.size), pulled(light, row.size)) > 1

    heavy = at_one / 1.4  # only whole lines near its own thickness would do
    (_, advice) = result(strip(6), loads=pulled(heavy, 6))[0]
    assert (advice.rows, advice.because) == ([], "carries")

    (_zone, advice) = result(strip(6), loads=pulled(2 * at_one, 6))[0]
    assert (advice.rows, advice.because) == ([], "weak") and advice.reserve < 1


@pytest.mark.parametrize("seed", range(6))
def test_no_advice_lowers_a_reserve_below_the_required_factor(seed):
    """Strips by chance, bent by chance: what is advised is made, and solved again on finer cubes."""
    rng = np.random.default_rng(seed)
    thick, wide = rng.uniform(1.0, 7.0), rng.uniform(16, 30)
    shape = {"long": 60.0, "wide": wide}
    force = reserve_of(strip(thick, **shape), pulled(1.0, thick, **shape)) / rng.uniform(1.05, 8)
    rows = result(strip(thick, **shape), loads=pulled(force, thick, **shape))
    (zone, advice) = rows[0]
    for row in advice.rows:
        assert reserve_of(strip(row.size, **shape), pulled(force, row.size, **shape)) >= 1, (thick, row.size)
    assert advice.rows or advice.because or zone.kind == "sound"


def test_a_wall_with_a_slit_that_just_holds_is_only_made_thicker():
    thick = COMB.width(2) + 0.15
    force = reserve_of(strip(thick), pulled(1.0, thick)) / (0.9 * ENOUGH)
    (zone, advice) = result(strip(thick), loads=pulled(force, thick))[0]
    assert zone.kind == "gap" and [row.size for row in advice.rows] == pytest.approx([COMB.width(3)])
    assert advice.rows[0].advised and advice.because == "carries"


# ------------------------------------------------------------------ how it stands


@pytest.mark.parametrize("about", [0.0, 33.0, 90.0])
def test_a_plate_on_its_face_is_counted_in_layers(about):
    part = box(60, 40, 1.1).rotate((0, 0, about))
    (standing, _) = result(part, up=np.array([np.cos(np.radians(about)), np.sin(np.radians(about)), 0.0]))[0]
    assert standing.kind == "gap" and standing.layers is None
    (lying, advice) = result(part, up=UP)[0]
    assert (lying.kind, lying.layers, advice.rows) == ("sound", round(1.1 / P.layer), [])


def test_a_thick_plate_on_its_face_is_sparse_past_its_dense_layers():
    dense = 2 * P.top_bottom * P.layer
    kinds = {t: result(box(60, 40, t), up=UP)[0][0].kind for t in (dense, dense + 0.9 * P.layer, dense + 2 * P.layer)}
    assert list(kinds.values()) == ["sound", "sound", "heavy"]
    (_zone, advice) = result(box(60, 40, 6), up=UP)[0]
    (row,) = advice.rows
    assert row.size == pytest.approx(min(2.0, dense)) and row.size / P.layer == pytest.approx(round(row.size / P.layer))


def test_a_film_thinner_than_half_a_layer_vanishes():
    (zone, advice) = result(box(60, 40, 0.08) + box(3, 40, 4).translate((28, 0, 0)), up=UP)[0]
    assert zone.kind == "vanishing" and advice.rows[0].size == pytest.approx(2 * P.layer)
