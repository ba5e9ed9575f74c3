"""A space beside the part that stays free, and how one is written. Lengths mm, part frame.

One of: ``box`` [[low], [high]] · ``cylinder`` {point, axis, radius, from?, to?}, ends measured along the axis from the
point, through the whole part where they are left out · ``near`` {on: REGION, distance}, all within so far of a face ·
``front`` {on: REGION, length, wider?}, what lies before a flat or beyond the ends of a bore · ``body`` {vertices,
faces, way?, turn?}, a mating part where it sits, swept along ``way`` mm, or by ``turn`` {about, axis, degrees}.
"""

from dataclasses import dataclass
from itertools import pairwise
from math import ceil
from typing import Any

import numpy as np
from manifold3d import CrossSection, Manifold, OpType

from hewel_engine.edits.solids import solid_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.travel import Travel
from hewel_engine.loads.regions import Patch, catch, checked_shape

SIDES = 48
BALL = 12
"""Sides of the balls by which a face is grown; it falls up to 4 % of the distance short between them, so that much is
added.
"""
PIECES = 24
"""Pieces in which the straight way of a mating part that is no hull is followed."""
TURNS = 3.0
"""Degrees of a turn from one look at the mating part to the next; a tenth of a percent of the radius is left between
two, which its own size makes up for."""
MOST_FACETS = 4000
"""Of a face that is grown, and of a mating part."""
KINDS = ("box", "cylinder", "near", "front", "body")


@dataclass(frozen=True, eq=False)
class Space:
    """``solid`` in the frame of whoever asks. ``likely``: nobody wrote it down, but it looks used; what is taken out by
    hand may stand in it, and up to ``share`` of it may be filled.
    """

    name: str
    solid: Manifold
    likely: bool = False
    share: float = 0.0

    def placed(self, place: Array) -> "Space":
        """The same after the motion ``place`` (3, 4)."""
        return Space(self.name, self.solid.transform(place), self.likely, self.share)


def bad_space(message: str) -> InputError:
    return InputError("bad_options", message, f"Write a space as one of {', '.join(KINDS)}, in mm of the part's frame.")


def read_spaces(request: Any, mesh: Mesh, faces: Faces | None = None) -> list[Space]:
    """Spaces as a file or a job writes them. Raises InputError ``bad_options`` or ``bad_loads``, naming the row."""
    rows = request.get("keep_clear") if isinstance(request, dict) else request
    if not isinstance(rows, list):
        raise bad_space("The spaces that stay free must be a list.")
    return [space_of(row, mesh, faces, number) for number, row in enumerate(rows, start=1)]


def space_of(row: dict, mesh: Mesh, faces: Faces | None = None, number: int = 1) -> Space:
    kinds = [k for k in KINDS if isinstance(row, dict) and k in row]
    if len(kinds) != 1:
        raise bad_space(f"Space {number} must be one of {', '.join(KINDS)}.")
    kind = kinds[0]
    name = str(row.get("name") or f"{kind} {number}")
    make = {"box": _box, "cylinder": _cylinder, "near": _near, "front": _front, "body": _body}[kind]
    solid = make(row[kind], mesh, faces)
    if solid.is_empty() or solid.volume() <= 0:
        raise bad_space(f"“{name}” encloses nothing.")
    return Space(name, solid)


def _box(request, mesh: Mesh, faces) -> Manifold:
    low, high = np.array(checked_shape({"box": request})["box"])
    return Manifold.cube(tuple(high - low)).translate(tuple(low)) if (high > low).all() else Manifold()


def _cylinder(request, mesh: Mesh, faces) -> Manifold:
    body = checked_shape({"cylinder": request})["cylinder"]
    axis, point = np.array(body["axis"]), np.array(body["point"])
    along = (mesh.vertices[mesh.used] - point) @ axis
    low = body.get("from", float(along.min()) - 1)
    return rod(point, axis, body["radius"], low, body.get("to", float(along.max()) + 1))


def rod(point: Array, axis: Array, radius: float, low: float, high: float) -> Manifold:
    """A cylinder round ``axis`` from ``low`` to ``high`` mm along it, no point of which lies inside its radius."""
    if high <= low:
        return Manifold()
    outer = radius / np.cos(np.pi / SIDES)
    body = Manifold.cylinder(high - low, outer, outer, SIDES)
    return body.transform(np.c_[upright(axis).T, point + low * axis])


def _number(body: dict, key: str, start: float | None = None, least: float = 0.0) -> float:
    value = body.get(key, start)
    if isinstance(value, bool) or not isinstance(value, int | float) or not least <= value < 1e5:
        raise bad_space(f"“{key}” must be a length in mm, {least:g} or more.")
    return float(value)


def _face(request, mesh: Mesh, faces, key: str) -> Patch:
    if not isinstance(request, dict) or "on" not in request:
        raise bad_space(f"“{key}” must name the face it is for, as “on”.")
    return catch(mesh, faces, request["on"])


def _near(request, mesh: Mesh, faces) -> Manifold:
    patch, away = _face(request, mesh, faces, "near"), _number(request, "distance", least=1e-3)
    if len(patch.facets) > MOST_FACETS:
        raise bad_space(f"That face has more than {MOST_FACETS:,} facets; mark a smaller one, or write a box.")
    ball = Manifold.sphere(away / np.cos(np.pi / BALL), BALL)
    points = np.asarray(ball.to_mesh64().vert_properties)[:, :3]
    grown = [Manifold.hull_points((t[:, None] + points).reshape(-1, 3)) for t in patch.triangles]
    return Manifold.batch_boolean(grown, OpType.Add)


def _front(request, mesh: Mesh, faces) -> Manifold:
    patch, length = _face(request, mesh, faces, "front"), _number(request, "length", least=1e-3)
    wider = _number(request, "wider", 0.0)
    shape = checked_shape(request["on"])
    if "cylinder" in shape:
        body = shape["cylinder"]
        axis, point = np.array(body["axis"]), np.array(body["point"])
        along = (patch.triangles.reshape(-1, 3) - point) @ axis
        return rod(point, axis, body["radius"] + wider, float(along.min()) - length, float(along.max()) + length)
    normal = patch.normal
    if np.linalg.norm(normal) < 0.99:
        raise bad_space("Only a flat face or a bore has a front; write a box or a cylinder instead.")
    turn = upright(normal)
    flat = patch.triangles @ turn.T
    plan = CrossSection([t[:, :2] for t in flat]).offset(wider) if wider else CrossSection([t[:, :2] for t in flat])
    return Manifold.extrude(plan, length).translate((0, 0, float(flat[..., 2].max()))).transform(_back(turn))


def _back(turn: Array) -> Array:
    return np.c_[turn.T, np.zeros(3)]


def _body(request, mesh: Mesh, faces) -> Manifold:
    try:
        vertices, corners = np.array(request["vertices"], float), np.array(request["faces"], np.int32)
        way, turn = np.array(request.get("way", [0, 0, 0]), float), _turn(request.get("turn"))
        good = vertices.ndim == corners.ndim == 2 and vertices.shape[1] == corners.shape[1] == 3 and way.shape == (3,)
        good = good and np.isfinite(vertices).all() and np.isfinite(way).all() and len(corners) > 0
        good = good and corners.min() >= 0 and corners.max() < len(vertices)
    except (KeyError, TypeError, ValueError):
        good = False
    if not good:
        raise bad_space("A mating part has vertices and faces; a way, three numbers; a turn, about, axis and degrees.")
    if len(corners) > MOST_FACETS:
        raise bad_space(f"The mating part has more than {MOST_FACETS:,} facets; export it more coarsely.")
    solid = solid_of(Mesh(vertices, corners))
    if turn is not None:
        return swept(solid, turn, max(ceil(abs(turn.length) / TURNS), 1))
    return swept(solid, Travel(way, float(np.linalg.norm(way))), PIECES) if way.any() else solid


def _turn(request) -> Travel | None:
    """Raises KeyError, TypeError, ValueError where it is none."""
    if request is None:
        return None
    about, axis, degrees = (
        np.array(request["about"], float),
        np.array(request["axis"], float),
        float(request["degrees"]),
    )
    if about.shape != (3,) or axis.shape != (3,) or not np.isfinite([*about, *axis, degrees]).all() or not axis.any():
        raise ValueError
    return Travel(axis, float(np.clip(degrees, -360, 360)), about)


def swept(solid: Manifold, travel: Travel, pieces: int) -> Manifold:
    """All that a solid passes on its travel, looked at in ``pieces`` of it; what is convex is followed from look to
    look without a gap.
    """
    looks = [solid.transform(travel.at(share)) for share in np.linspace(0, 1, pieces + 1)]
    if abs(solid.hull().volume() - solid.volume()) < 1e-3 * solid.volume():
        if travel.about is None:
            return Manifold.batch_hull([looks[0], looks[-1]])
        looks = [Manifold.batch_hull([a, b]) for a, b in pairwise(looks)]
    return Manifold.batch_boolean(looks, OpType.Add)
