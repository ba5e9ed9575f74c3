"""Duties of the part, direction by direction, against closed forms."""

import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.regions import catch
from hewel_engine.orientation.needs import landing_on_protected, needs_columns
from hewel_engine.overhangs.duties import Needs, how_it_lies, lying_chord

UPS = np.array([[0, 0, 1.0], [0, 0, -1], [1, 0, 0], unit([1, 0, 1])])
TABLE = mesh_of(box(60, 40, 4).translate((0, 0, 20)) + box(10, 10, 20).translate((0, 0, 8)) + box(60, 40, 4))
"""Two plates with a post between: the upper hangs over the lower."""


def top_of_lower():
    return catch(TABLE, None, {"plane": {"point": [0, 0, 2], "normal": [0, 0, 1], "tol": 0.05}})


def test_scar_and_plate_on_a_protected_face():
    under = catch(TABLE, None, {"plane": {"point": [0, 0, 18], "normal": [0, 0, 1], "tol": 0.05}})
    foot = catch(TABLE, None, {"plane": {"point": [0, 0, -2], "normal": [0, 0, 1], "tol": 0.05}})
    got = needs_columns(TABLE, Needs([under, foot]), UPS, 45.0)
    assert got["protected_scar_mm2"] == pytest.approx([2300, 0, 0, 0])
    assert got["protected_plate_mm2"] == pytest.approx([2400, 0, 0, 0])
    assert set(got) == {"protected_scar_mm2", "protected_plate_mm2"}


def test_support_that_stands_on_a_protected_face_counts():
    rays = RayScene(TABLE)
    assert landing_on_protected(TABLE, rays, Needs([top_of_lower()]), UPS[0], 45.0) == pytest.approx(2300, rel=0.01)
    other = catch(TABLE, None, {"plane": {"point": [0, 0, 22], "normal": [0, 0, 1], "tol": 0.05}})
    assert landing_on_protected(TABLE, rays, Needs([other]), UPS[0], 45.0) == 0
    assert landing_on_protected(TABLE, rays, Needs(), UPS[0], 45.0) == 0
    boxed = catch(TABLE, None, {"box": [[-30, -20, 1.9], [0, 20, 2.1]]})
    share = landing_on_protected(TABLE, rays, Needs([boxed]), UPS[0], 45.0)
    assert share == pytest.approx(1150, rel=0.1), "half of the face, the cut facets by their share"


def test_the_overhanging_chord_of_a_bore():
    assert lying_chord(12, 90, 45) == pytest.approx(12 * np.cos(np.radians(45)))
    assert lying_chord(12, 45, 45) == 0 and lying_chord(12, 10, 45) == 0
    # Against the facets of a tilted bore.
    block = mesh_of(box(60, 60, 60) - rod(90, 6, 720))
    tilt = np.radians(70)
    up = np.array([np.sin(tilt), 0, np.cos(tilt)])
    wall = catch(block, None, {"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": 6, "tol": 0.1}})
    roof = wall.normals @ up < -np.sin(np.radians(45))
    side = np.cross(up, [0, 0, 1])
    width = np.ptp(wall.triangles[roof].reshape(-1, 3) @ side / np.linalg.norm(side))
    assert width == pytest.approx(lying_chord(12, 70, 45), abs=0.1)


def test_bores_are_upright_tilted_or_lying():
    axis = np.array([0, 0, 1.0])
    say = lambda degrees: how_it_lies(axis, 12, unit([np.tan(np.radians(degrees)), 0, 1]), 45, 10)[0]
    assert [say(d) for d in (0, 4, 20, 44, 60, 89)] == ["upright", "upright", "tilted", "tilted", "lying", "lying"]
    got = needs_columns(TABLE, Needs(bores=[(axis, 12), (np.array([1.0, 0, 0]), 5)]), UPS, 50.0)
    assert list(got["bores_lying"]) == [1, 1, 1, 0]


def test_duties_turn_with_the_part():
    turn, shape = rotation(5), {"plane": {"point": [0, 0, 18], "normal": [0, 0, 1], "tol": 0.05}}
    body = shape["plane"]
    turned = {"plane": {"point": (turn @ body["point"]).tolist(), "normal": (turn @ body["normal"]).tolist()}}
    one = needs_columns(TABLE, Needs([catch(TABLE, None, shape)]), UPS, 45.0)
    moved = TABLE.moved(turn)
    two = needs_columns(moved, Needs([catch(moved, None, turned)]), UPS @ turn.T, 45.0)
    assert one["protected_scar_mm2"] == pytest.approx(two["protected_scar_mm2"])


def test_a_direction_of_any_length_is_one():
    for length in (1e-11, 1.0, 1e308):
        assert unit([0, length, -length]).tolist() == pytest.approx([0, 0.5**0.5, -(0.5**0.5)])
    with pytest.raises(InputError):
        unit([1e-13, 0, 0])
