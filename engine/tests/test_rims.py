"""An annular snap that a part has already: measured from its round wall, reckoned as its hoop lies."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rotation

from hewel_engine.errors import InputError
from hewel_engine.flexing.rims import hoop, ringed
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.rims import Rim, rim_at
from hewel_engine.processes import Process

PETG = Process(material="petg", layer=0.2, width=0.45)
SIDES = 96


def ring(radius: float, tall: float, low: float, top: float | None = None) -> m3.Manifold:
    return m3.Manifold.cylinder(tall, radius, radius if top is None else top, SIDES).translate((0, 0, low))


def tube(inner: float, outer: float, tall: float, rise: float, crest: float, run_in: float, run_out: float, inside):
    """A tube on a base; its bead ``crest`` mm above that, ``rise`` high, falling over ``run_in`` to the free end."""
    body = ring(outer, tall, 0) - ring(inner, tall + 1, 2)
    if inside:
        cut = ring(inner, run_out, crest - run_out, inner - rise) + ring(inner - rise, run_in, crest, inner)
        body += ring(inner + 0.2, run_in + run_out, crest - run_out) - cut
    else:
        body += ring(outer, run_out, crest - run_out, outer + rise) + ring(outer + rise, run_in, crest, outer)
    return body + box(60, 60, 3).translate((0, 0, -1.5))


def rim_of(mesh: Mesh, at, normal) -> Rim:
    rays, faces = RayScene(mesh), find_faces(mesh)
    facet = int(rays.facets((np.array(at) + 0.2 * np.array(normal))[None], -np.array(normal, float)[None])[0])
    return rim_at(mesh, faces, rays, facet)


@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("seed", by_chance(0, 12))
def test_a_rim_is_measured_however_it_lies(seed, inside):
    chance = np.random.default_rng(seed)
    inner, wall = chance.uniform(6, 20), chance.uniform(1.0, 1.8)
    rise, run_in, run_out = chance.uniform(0.3, 0.9), chance.uniform(1.2, 2.5), chance.uniform(0.6, 1.2)
    tall = chance.uniform(14, 25)
    crest = tall - run_in - chance.uniform(0.3, 3)
    turn, shift = rotation(seed), chance.normal(size=3) * 30
    body = tube(inner, inner + wall, tall, rise, crest, run_in, run_out, inside)
    angle = np.pi / SIDES
    way = np.array([np.cos(angle), np.sin(angle), 0])
    at, normal = ((inner - 1e-3) * way, -way) if inside else ((inner + wall) * way, way)
    at = at * np.cos(angle) + [0, 0, 5.0]
    mesh = mesh_of(body.transform(np.c_[turn, shift]))
    rim = rim_of(mesh, turn @ at + shift, turn @ normal)
    assert rim.inside == inside and rim.undercut == pytest.approx(2 * rise, abs=0.08)
    assert rim.wall == pytest.approx(wall, abs=0.03) and rim.from_end == pytest.approx(tall - crest, abs=0.15)
    assert rim.angle_in == pytest.approx(np.degrees(np.arctan2(rise, run_in)), abs=4)
    assert rim.angle_out == pytest.approx(np.degrees(np.arctan2(rise, run_out)), abs=6)


def test_a_hoop_is_strained_by_its_undercut_over_its_diameter_and_told_by_its_layers():
    found = hoop(20, 23, 0.6, PETG, True, 0.3, (30, 45), False)
    stock = PETG.stock
    assert found.strain == pytest.approx(0.6 / 20) and found.allowed == pytest.approx(stock.x_a / stock.e_xy)
    far = hoop(20, 23, 0.6, PETG, True, 0.3, (30, 45), True)
    assert far.mating == pytest.approx(4 * found.mating) and found.holding > found.mating
    assert hoop(20, 23, 0.6, PETG, False, 0.3, (30, 45), False).allowed == pytest.approx(stock.z_t / stock.e_xy)


def test_it_says_the_undercut_that_holds_and_what_standing_it_up_would_give():
    mesh = mesh_of(tube(10, 11.5, 16, 0.5, 13, 1.5, 0.8, False))
    rim = rim_of(mesh, (11.5, 0, 5), (1, 0, 0))
    lying = ringed(rim, None, 0.3, PETG, np.array([1.0, 0, 0]))
    upright = ringed(rim, None, 0.3, PETG, np.array([0, 0, 1.0]))
    assert lying.reserve <= upright.reserve and lying.turned == pytest.approx(upright.reserve)
    assert upright.verdict == "fails" and upright.least < rim.undercut
    again = ringed(rim, upright.least, 0.3, PETG, np.array([0, 0, 1.0]))
    assert again.reserve == pytest.approx(1)


@pytest.mark.parametrize(("body", "at", "normal", "says"), [
    (ring(10, 20, 0), (10, 0, 10), (1, 0, 0), "no bead"),
    (ring(10, 20, 0) + ring(10, 1, 17, 10.5) + ring(10.5, 1, 18, 10), (10, 0, 8), (1, 0, 0), "stout"),
    (box(20, 20, 20), (10, 0, 0), (1, 0, 0), "no round"),
])  # fmt: skip
def test_what_is_no_rim_is_said(body, at, normal, says):
    with pytest.raises(InputError, match=f"(?i){says}"):
        rim_of(mesh_of(body), at, normal)
