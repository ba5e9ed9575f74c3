"""The revision mark: what is sunk is the letters and nothing else, upright, on a face that can be read."""

import numpy as np
import pytest
import shapely
from shapes import box, mesh_of, rod
from test_adapting import rework
from test_random_bodies import body
from test_sizing import done, new_hanging, step

from hewel_engine.edits.lettering import lettered
from hewel_engine.edits.marks import DEPTH, text_of
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process

P = Process()


def marked(solid, centre=(0, 0, 0), **numbers):
    mesh = solid if hasattr(solid, "faces") else mesh_of(solid)
    return rework(mesh, [step("mark", "flat", centre, **numbers)])


def test_the_letters_are_sunk_into_the_smallest_upright_face_that_has_room():
    made = done(found := marked(box(40, 20, 30), revision_count=12), "mark")
    letters = lettered("R12", made.tool.numbers["letters_mm"], 2 * P.width)
    assert made.removed == pytest.approx(letters.area * DEPTH, rel=1e-3) and made.added == 0
    assert text_of(12.0) == "R12" and new_hanging(found) == []
    changed = found.mesh.triangles[found.marks > 0].reshape(-1, 3)
    assert np.abs(changed[:, 0]).min() > 20 - DEPTH - 1e-6, "a face of 20 × 30, not one of 40 × 30"
    assert changed[:, 1:].max(axis=0) == pytest.approx(changed[:, 1:].mean(axis=0), abs=12)


@pytest.mark.parametrize("way", range(4))
def test_the_mark_is_upright_and_never_mirrored(way):
    """Layers cut the strokes where the letters have them, from left to right as they are read."""
    at = [(0, -10, 15), (20, 0, 15), (0, 10, 15), (-20, 0, 15)][way]
    made = done(found := marked(box(40, 20, 30).translate((0, 0, 15)), at, revision_count=1, letters_mm=8), "mark")
    normal = np.array([(0, -1, 0), (1, 0, 0), (0, 1, 0), (-1, 0, 0)][way])
    right = np.cross((0, 0, 1), normal)
    letters = lettered("R1", 8, 2 * P.width)
    stack = LayerStack(found.mesh, np.array([0, 0, 1.0]), 0.1)
    for height in (12.0, 14.0, 17.0, 18.2):
        gone = shapely.box(-20, -10, 20, 10) - as_polygons(stack.plan(int(height / 0.1)))
        across = sorted(
            float(np.array(p.centroid.coords[0]) @ right[:2]) for p in getattr(gone, "geoms", [gone]) if p.area > 0.05
        )
        line = letters & shapely.LineString([(-99, height - 15), (99, height - 15)])
        wanted = sorted(p.centroid.x for p in getattr(line, "geoms", [line]))
        assert across == pytest.approx(wanted, abs=0.15), height
    assert made.tool.used["letters_mm"] == 8


def test_only_a_top_is_left_where_nothing_stands_upright():
    made = done(marked(rod(20, 25, 96), revision_count=3), "mark")
    assert made.centre is not None and "R3" in made.tool.words


@pytest.mark.parametrize(
    ("solid", "why"), [(box(3, 3, 3), "no room|no flat face"), (rod(40, 2, 64), "no room|no flat face")]
)
def test_what_has_no_room_is_left_as_it_is(solid, why):
    found = marked(solid)
    assert found.applied == [] and len(found.unfit) == 1
    assert any(w in found.unfit[0][1].lower() for w in why.split("|"))


@pytest.mark.parametrize("seed", range(30))
def test_bodies_made_by_chance_are_marked_or_told_why(seed):
    found = marked(body(seed), revision_count=seed + 1)
    if found.applied:
        (made,) = found.applied
        letters = lettered(text_of(seed + 1), made.tool.numbers["letters_mm"], 2 * P.width)
        assert made.removed == pytest.approx(letters.area * DEPTH, rel=0.02) and found.mesh.closed
        assert new_hanging(found) == []
    else:
        assert found.unfit[0][1]
