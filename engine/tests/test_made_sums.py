"""What a feature bears, as it is told before it is made: against hand's sums, standing and lying."""

from math import pi, radians, tan

import numpy as np
import pytest
from shapes import box, mesh_of, rod

from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.flexing.sums import allowed_strain
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.made.kinds import BY_KIND, KINDS
from hewel_engine.made.sums import made_of
from hewel_engine.processes import Process

Z, X = np.array([0.0, 0, 1]), np.array([1.0, 0, 0])
PETG = Process(material="petg", layer=0.2, width=0.45)
BLOCK = mesh_of(box(30, 40, 20).translate((0, 0, 10)))


def told(mesh: Mesh, key, at, normal, up=Z, end=None, **given):
    end = None if end is None else np.array(end, float)
    return made_of(
        mesh, find_faces(mesh), RayScene(mesh), PETG, up, key, np.array(at, float), np.array(normal, float), end, given
    )


def line(made, words) -> float:
    return next(row.value for row in made.lines if words in row.words)


def test_every_kind_says_what_it_is_asked_and_no_number_twice():
    for kind in KINDS:
        names = [p.name for p in (*kind.sizes, *kind.asks)]
        assert len(set(names)) == len(names) and kind.title
        for p in (*kind.sizes, *kind.asks):
            kind.check({p.name: p.low})
            with pytest.raises(InputError, match="is not between"):
                kind.check({p.name: p.high + 1})
        with pytest.raises(InputError, match="no number 'wings_mm'"):
            kind.check({"wings_mm": 1.0})


def test_a_snap_whose_length_nobody_typed_is_as_long_as_it_has_to_be():
    lying = told(BLOCK, "snap", (15, 0, 10), (1, 0, 0), thickness_mm=1.6, catch_mm=1.2)
    assert lying.reserve >= 1 and not any(row.fails for row in lying.lines)
    n = lying.numbers
    strain = 1.5 * 1.6 * 1.2 / n["length_mm"] ** 2
    assert line(lying, "strain at its root") == pytest.approx(100 * strain, rel=1e-6)
    assert line(lying, "allowed") == pytest.approx(100 * 0.6 * 0.04), "0.6 of PETG's yield strain, once"
    short = told(BLOCK, "snap", (15, 0, 10), (1, 0, 0), thickness_mm=1.6, catch_mm=1.2, length_mm=6)
    assert short.reserve < 1 and "would hold" in short.says[-1]


def test_the_same_snap_fails_standing():
    same = {"length_mm": 14, "thickness_mm": 1.6, "catch_mm": 1.0}
    lying = told(BLOCK, "snap", (15, 0, 10), (1, 0, 0), **same)
    standing = told(BLOCK, "snap", (0, 0, 20), (0, 0, 1), **same)
    assert lying.reserve > 1 > standing.reserve
    assert any("stands across its layers" in s for s in standing.says)
    turned = told(BLOCK, "snap", (0, 0, 20), (0, 0, 1), up=X, **same)
    assert turned.reserve == pytest.approx(lying.reserve), "what counts is how it stands to the layers"


def test_a_thread_bears_by_its_first_tooth_and_says_its_mate():
    pin = mesh_of(box(40, 40, 4).translate((0, 0, 2)) + rod(20, 10, 96).translate((0, 0, 14)))
    made = told(pin, "thread", (10, 0, 15), (1, 0, 0), pitch_mm=4, deep_mm=1.2, gap_mm=0.2, force_n=400)
    core, first = 20 - 0.4 - 2.4, 400 * 0.35
    run = 1.2 * tan(radians(made.numbers["flank_deg"]))
    wide = (4 - 2 * run) / 2 + 2 * run
    assert line(made, "bending of the first tooth") == pytest.approx(3 * first * 1.2 / (pi * core * wide**2))
    assert line(made, "pull in its core") == pytest.approx(400 / (pi * core**2 / 4))
    assert "bore ⌀ 17.60 mm" in made.says[0] and any("parts its layers" in s for s in made.says)
    lying = told(pin, "thread", (10, 0, 15), (1, 0, 0), up=X, pitch_mm=4, deep_mm=1.2, force_n=400)
    assert lying.reserve >= made.reserve and not any("parts its layers" in s for s in lying.says)
    nut = mesh_of(box(40, 40, 20).translate((0, 0, 10)) - rod(60, 8.8, 96))
    assert "pin ⌀ 20.00 mm" in told(nut, "thread", (8.8, 0, 15), (-1, 0, 0), pitch_mm=4, deep_mm=1.2).says[0]


def test_a_clamp_has_a_window_that_months_narrow():
    hub = mesh_of(rod(12, 14, 180).translate((0, 0, 6)) - rod(60, 10, 180))
    ask = {"slit_mm": 2, "bore_mm": 4.5, "ear_mm": 8, "screw_mm": 4, "friction": 0.25}
    made = told(hub, "clamp", (10, 0, 6), (-1, 0, 0), end=(14, 0, 6), pull_n=30, **ask)
    assert line(made, "strain of its ring") == pytest.approx(100 * 2 * 4 / (3 * pi * 12**2), rel=1e-2)
    least = 1.5 * 30 / (2 * 0.25)
    assert line(made, "it has to press with") == pytest.approx(least)
    assert line(made, "left after months") == pytest.approx(least / 0.4), "PETG keeps four tenths"
    ear = 45 * 12 * 8**2 / (6 * 18 / 2)
    assert line(made, "its ear bears") == pytest.approx(ear, rel=1e-2)
    much = told(hub, "clamp", (10, 0, 6), (-1, 0, 0), end=(14, 0, 6), pull_n=900, **ask)
    assert much.reserve < 1 < made.reserve and "window is closed" in much.says[-1]


def test_a_spring_is_held_against_its_layers_and_its_gaps():
    fork = mesh_of(
        box(5, 40, 20).translate((-20, 0, 10)) + box(5, 40, 20).translate((20, 0, 10))
        + box(45, 5, 20).translate((0, 25, 10))
    )  # fmt: skip
    size = {"leaves_count": 3, "thickness_mm": 1.2, "length_mm": 20, "width_mm": 8}
    made = told(fork, "serpentine", (-17.5, 0, 10), (1, 0, 0), end=(17.5, 0, 10), travel_mm=4, **size)
    assert line(made, "strain of a leaf") == pytest.approx(100 * 3 * 1.2 * 4 / (3 * 20**2))
    assert line(made, "between its leaves") == pytest.approx(35 / 4 - 1.2)
    start = 2000 * 8 * 1.2**3 / (3 * 20**3)
    assert 0.6 * start < line(made, "rate") < start, "a secant is softer than the start"
    assert made.reserve == pytest.approx(allowed_strain(PETG.stock, 0, True) / 0.012)
    far = told(fork, "serpentine", (-17.5, 0, 10), (1, 0, 0), end=(17.5, 0, 10), travel_mm=40, **size)
    assert far.reserve < 1 and "solid before" in far.says[0]
    assert "other one" in told(fork, "serpentine", (-17.5, 0, 10), (1, 0, 0)).says[0]


@pytest.mark.parametrize("stands", [True, False])
def test_an_annular_snap_is_held_across_its_lines_or_its_layers(stands):
    tube = mesh_of(rod(20, 11, 128).translate((0, 0, 10)) - rod(60, 10, 128))
    made = told(tube, "bead", (10, 0, 14), (-1, 0, 0), up=Z if stands else X, undercut_mm=0.2)
    assert line(made, "strain of the hub's hoop") == pytest.approx(1.0, rel=1e-3)
    stock = PETG.stock
    strength = stock.x_a if stands else stock.z_t
    assert made.reserve == pytest.approx(strength / (stock.e_xy * 0.01), rel=1e-3)
    assert any("crosses the layers" in s for s in made.says) != stands
    pin = mesh_of(box(40, 40, 4).translate((0, 0, 2)) + rod(20, 10, 96).translate((0, 0, 14)))
    assert "type the hub" in told(pin, "bead", (10, 0, 15), (1, 0, 0)).says[0]
    assert told(pin, "bead", (10, 0, 15), (1, 0, 0), hub_mm=24).reserve > 0


def test_what_is_not_there_says_so():
    with pytest.raises(Impossible, match="neither a bore nor a pin"):
        told(BLOCK, "thread", (15, 0, 10), (1, 0, 0))
    with pytest.raises(Impossible, match="No face"):
        told(BLOCK, "bead", (25, 0, 10), (1, 0, 0))
    assert BY_KIND["texture"].second is None and told(BLOCK, "texture", (15, 0, 10), (1, 0, 0)).reserve is None
