"""Regions of the surface: what a load acts on, what is held, what must not be touched.

A region is written as people and files write it (a dict, see ``checked_shape``); ``catch`` finds the surface inside,
with facets cut where the region ends, so that coarse facets are no obstacle.
"""

from dataclasses import dataclass
from math import cos, radians

import numpy as np
from numba import njit
from scipy.spatial import cKDTree

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, round_of

PLANE_TURN = 10.0
"""Degrees: a facet of a plane region looks along the plane's normal, or against it, within this."""
COARSEST = 8
"""Sides of the coarsest cylinder whose facets are known as such."""
MOST_PIECES = 200_000  # of one face: what is large beside the pieces asked for is taken in larger ones
DEEPEST = 128  # times that a side is halved: a kilometre is then less than an atom
ENOUGH_AREA = 1e-9  # mm²: less is rounding


@dataclass(frozen=True, eq=False)
class Patch:
    """Pieces of surface: ``triangles`` (k, 3, 3) mm, ``normals`` (k, 3) outward, ``facets`` (k,) where each is from."""

    triangles: Array
    normals: Array
    facets: np.ndarray

    @property
    def areas(self) -> Array:
        t = self.triangles
        return 0.5 * np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)

    @property
    def middles(self) -> Array:
        t = self.triangles
        return (t[:, 0] + t[:, 1] + t[:, 2]) / 3

    @property
    def area(self) -> float:
        return float(self.areas.sum())

    @property
    def centre(self) -> Array:
        return np.average(self.middles, axis=0, weights=self.areas)

    @property
    def normal(self) -> Array:
        """(3,) mean outward normal; its length tells how flat the patch is (1 = plane, 0 = all round)."""
        return np.average(self.normals, axis=0, weights=self.areas)

    def within(self, keep: np.ndarray) -> "Patch":
        return Patch(self.triangles[keep], self.normals[keep], self.facets[keep])


def cut(patch: Patch, normal: Array, offset: float) -> Patch:
    """The part of ``patch`` where ``normal``·x ≤ ``offset``."""
    side = patch.triangles @ normal - offset
    inside = side <= 0
    count = inside.sum(axis=1)
    out = [patch.within(count == 3)]
    for wanted in (1, 2):
        rows = np.flatnonzero(count == wanted)
        if len(rows) == 0:
            continue
        alone = inside[rows] if wanted == 1 else ~inside[rows]
        first = np.argmax(alone, axis=1)
        turn = (first[:, None] + np.arange(3)) % 3  # the corner that is alone on its side comes first
        t = np.take_along_axis(patch.triangles[rows], turn[:, :, None], axis=1)
        s = np.take_along_axis(side[rows], turn, axis=1)
        share = s[:, :1] / (s[:, :1] - s[:, 1:])
        ab, ca = (t[:, 0] + share[:, i, None] * (t[:, i + 1] - t[:, 0]) for i in (0, 1))
        pieces = (
            [np.stack([t[:, 0], ab, ca], axis=1)]
            if wanted == 1
            else [np.stack([ab, t[:, 1], t[:, 2]], axis=1), np.stack([ab, t[:, 2], ca], axis=1)]
        )
        out += [Patch(p, patch.normals[rows], patch.facets[rows]) for p in pieces]
    return Patch(*(np.concatenate([getattr(p, n) for p in out]) for n in ("triangles", "normals", "facets")))


def finely(patch: Patch, size: float) -> Patch:
    """The same surface in pieces whose sides are no longer than ``size`` mm: the longest side is halved until then."""
    count = _halved(patch.triangles, size, np.zeros((0, 3, 3)), np.zeros(0, np.int64))
    triangles, piece_of = np.empty((count, 3, 3)), np.empty(count, np.int64)
    _halved(patch.triangles, size, triangles, piece_of)
    return Patch(triangles, patch.normals[piece_of], patch.facets[piece_of])


@njit(cache=True, nogil=True)
def _halved(triangles, size, out, piece_of):
    """Writes the pieces to ``out`` (k, 3, 3), and which triangle each is of, as far as there is room; returns k."""
    count = 0
    stack = np.empty((DEEPEST, 3, 3))
    for t in range(len(triangles)):
        stack[0] = triangles[t]
        top = 1
        while top > 0:
            piece = stack[top - 1]
            longest, side = 0.0, 0
            for k in range(3):
                m = (k + 1) % 3
                square = 0.0
                for d in range(3):
                    square += (piece[k, d] - piece[m, d]) ** 2
                if square > longest:
                    longest, side = square, k
            if longest <= size * size or top == DEEPEST:
                if count < len(out):
                    out[count] = piece
                    piece_of[count] = t
                count += 1
                top -= 1
                continue
            a, b = side, (side + 1) % 3
            for d in range(3):
                middle = (piece[a, d] + piece[b, d]) / 2
                for k in range(3):
                    stack[top, k, d] = piece[k, d]
                stack[top, a, d] = middle
                piece[b, d] = middle
            top += 1
    return count


def in_pieces(patch: Patch, size: float) -> Patch:
    """``finely``, in larger pieces where there would be more than about MOST_PIECES."""
    return finely(patch, max(size, float(np.sqrt(patch.area / MOST_PIECES))))


def whole(mesh: Mesh, facets: np.ndarray) -> Patch:
    return Patch(mesh.triangles[facets], mesh.normals[facets], facets)


# --------------------------------------------------------------------------- how a region is written


def bad_loads(message: str, hint: str) -> InputError:
    return InputError("bad_loads", message, hint)


def _numbers(value, count: int | None, what: str) -> Array:
    try:
        out = np.array(value, float)
    except (TypeError, ValueError):
        out = np.zeros(0)
    if out.shape != (() if count is None else (count,)) or not np.isfinite(out).all() or np.abs(out).max() > 1e9:
        wanted = "a number" if count is None else f"{count} numbers"
        raise bad_loads(f"{what} must be {wanted}.", "Write lengths in mm, like 12.5.")
    return out


def _axis(value, what: str) -> list[float]:
    v = _numbers(value, 3, what)
    length = float(np.linalg.norm(v))
    if length < 1e-12:
        raise bad_loads(f"{what} has no direction.", "Give three numbers that are not all 0.")
    return (v / length).tolist()


def _positive(value, what: str) -> float:
    v = float(_numbers(value, None, what))
    if v <= 0:
        raise bad_loads(f"{what} must be greater than 0.", "Give it in mm.")
    return v


def checked_shape(request: dict, facet_count: int | None = None) -> dict:
    """A region in its full form, or InputError ``bad_loads``. One of

    ``box`` [[low], [high]] · ``plane`` {point, normal, tol} · ``cylinder`` {point, axis, radius, tol, from?, to?} with
    the ends measured along the axis from the point · ``facets`` [numbers] · ``patch`` {facet, wide}: the face round
    a facet. Lengths mm, part frame.
    """
    kinds = [k for k in ("box", "plane", "cylinder", "facets", "patch") if isinstance(request, dict) and k in request]
    if len(kinds) != 1:
        raise bad_loads(
            "A region must be one of box, plane, cylinder, facets or patch.", "Point at a face of the part."
        )
    kind = kinds[0]
    body = request[kind]
    if kind == "box":
        if not isinstance(body, list) or len(body) != 2:
            raise bad_loads("A box needs two corners.", "Write it as [[x0,y0,z0],[x1,y1,z1]].")
        a, b = (_numbers(corner, 3, "A corner of the box") for corner in body)
        return {"box": [np.minimum(a, b).tolist(), np.maximum(a, b).tolist()]}
    if kind == "facets":
        whole_numbers = isinstance(body, list) and all(isinstance(i, int) and not isinstance(i, bool) for i in body)
        if not whole_numbers or not body:
            raise bad_loads("Facets must be a list of facet numbers.", "Give at least one, counted from 0.")
        if min(body) < 0 or (facet_count is not None and max(body) >= facet_count):
            raise bad_loads(f"A facet number lies outside 0 to {(facet_count or 1) - 1}.", "Was the part changed?")
        return {"facets": sorted(set(body))}
    if not isinstance(body, dict):
        raise bad_loads(f"A {kind} region must name its numbers.", "Point at a face of the part.")
    if kind == "plane":
        point = _numbers(body.get("point"), 3, "The plane's point").tolist()
        tol = _positive(body.get("tol", 0.05), "The plane's tolerance")
        return {"plane": {"point": point, "normal": _axis(body.get("normal"), "The plane's normal"), "tol": tol}}
    if kind == "patch":
        facet = body.get("facet")
        if not isinstance(facet, int) or facet < 0 or (facet_count is not None and facet >= facet_count):
            raise bad_loads("This face is not on the part.", "Point at a face of the part.")
        return {"patch": {"facet": facet, "wide": bool(body.get("wide", False))}}
    out = {
        "point": _numbers(body.get("point"), 3, "The cylinder's point").tolist(),
        "axis": _axis(body.get("axis"), "The cylinder's axis"),
        "radius": _positive(body.get("radius"), "The cylinder's radius"),
        "tol": _positive(body.get("tol", 0.1), "The cylinder's tolerance"),
    }
    for end in ("from", "to"):
        if body.get(end) is not None:
            out[end] = float(_numbers(body[end], None, "An end of the cylinder"))
    return {"cylinder": out}


def catch(mesh: Mesh, faces: Faces | None, shape: dict, name: str = "") -> Patch:
    """The surface inside a region. Raises ``bad_loads``, with the region's name, where there is none."""
    shape = checked_shape(shape, len(mesh.faces))
    kind, body = next(iter(shape.items()))
    if kind == "facets":
        found = whole(mesh, np.array(body))
    elif kind == "patch":
        if faces is None:
            raise bad_loads("The faces of the part are not known here.", "Use a box, plane, cylinder or facets.")
        found = whole(mesh, faces.around(body["facet"], body["wide"]))
    elif kind == "box":
        found = _in_box(mesh, np.array(body))
    elif kind == "plane":
        found = _on_plane(mesh, np.array(body["point"]), np.array(body["normal"]), body["tol"])
    else:
        found = _on_cylinder(mesh, body)
    if len(found.facets) == 0 or found.area < ENOUGH_AREA:
        low, high = mesh.box
        label = f"“{name}” " if name else ""
        extent = " × ".join(f"{a:.4g} to {b:.4g}" for a, b in zip(low, high, strict=True))
        raise bad_loads(
            f"The {kind} {label}catches nothing of the part.",
            f"The part reaches from {extent} mm (x, y, z); move the region onto its surface.",
        )
    return found


def _in_box(mesh: Mesh, box: Array) -> Patch:
    t = mesh.triangles
    near = np.flatnonzero((t.min(axis=1) <= box[1]).all(axis=1) & (t.max(axis=1) >= box[0]).all(axis=1))
    found = whole(mesh, near)
    for i, axis in enumerate(np.eye(3)):
        found = cut(cut(found, axis, box[1][i]), -axis, -box[0][i])
    return found


def _on_plane(mesh: Mesh, point: Array, normal: Array, tol: float) -> Patch:
    along = np.flatnonzero(np.abs(mesh.normals @ normal) > cos(radians(PLANE_TURN)))
    at = float(point @ normal)
    return cut(cut(whole(mesh, along), normal, at + tol), -normal, tol - at)


def _on_cylinder(mesh: Mesh, body: dict) -> Patch:
    axis, radius, tol = np.array(body["axis"]), body["radius"], body["tol"]
    frame = upright(axis)
    plan = mesh.vertices @ frame.T - frame @ np.array(body["point"])
    farthest = np.linalg.norm(plan[:, :2], axis=1)[mesh.faces].max(axis=1)
    along = np.flatnonzero((np.abs(farthest - radius) <= tol) & (np.abs(mesh.normals @ axis) < 0.05))
    plan, n = plan[mesh.faces[along]], mesh.normals[along] @ frame.T
    off = np.abs((plan[:, 0, :2] * n[:, :2]).sum(axis=1))  # the facet's plane from the axis: a chord lies inside R
    middle = plan.mean(axis=1)[:, :2]
    radial = np.abs((middle * n[:, :2]).sum(axis=1)) / np.maximum(np.linalg.norm(middle, axis=1), 1e-12)
    flattest = radius * cos(np.pi / COARSEST)
    on = (off >= flattest - tol) & (radial > cos(radians(25)))
    found = whole(mesh, along[on])
    at = float(axis @ np.array(body["point"]))
    if "to" in body:
        found = cut(found, axis, at + body["to"])
    if "from" in body:
        found = cut(found, -axis, -at - body["from"])
    return found


# --------------------------------------------------------------------------- pointing


def pointed(mesh: Mesh, faces: Faces, facet: int, wide: bool = False) -> dict:
    """What pointing at a facet means: the region's shape, how to call it, its area (mm²), and its direction.

    A bore or a pin becomes a cylinder with its two ends (``wide``: without, so that bores in line are one), anything
    else the face (``wide``: with tangent faces smoothly). ``axis`` is a bore's axis or a flat's outward normal;
    None where the face has no one direction.
    """
    shape = checked_shape({"patch": {"facet": facet, "wide": wide}}, len(mesh.faces))
    facets = faces.around(facet, wide)
    near = faces.around(facet) if wide else facets
    found = round_of(mesh, near)
    a = mesh.areas[facets]
    area = float(a.sum())
    centre, normal = (a @ rows[facets] / area for rows in (mesh.centroids, mesh.normals))
    if found:
        reach = found.half + 0.01
        body = {"point": found.point.tolist(), "axis": found.axis.tolist(), "radius": found.radius, "tol": 0.1}
        exact = {"cylinder": body if wide else body | {"from": -reach, "to": reach}}
        same = catch(mesh, faces, exact)
        if np.isin(near, same.facets).all():
            shape, area, centre = exact, same.area, same.centre
        kind, axis = ("bore" if found.bore else "pin"), found.axis
        called = f"{kind} {2 * found.radius:.4g}"
    elif np.linalg.norm(normal) > 0.9999:
        kind, axis = "flat", normal / np.linalg.norm(normal)
        called = "flat"
    else:
        kind, axis, called = "face", None, "face"
    return {
        "shape": shape,
        "kind": kind,
        "called": called,
        "area_mm2": area,
        "centre_mm": centre.tolist(),
        "axis": None if axis is None else (axis + 0.0).tolist(),
        "diameter_mm": 2 * found.radius if found else None,
    }


# --------------------------------------------------------------------------- another revision of the part

NEAR_ENOUGH = 0.02
"""Share of the part's diagonal that a face may have moved between two revisions and still be the same one."""
ASKED = 60


def found_again(old: Mesh, old_faces: Faces, new: Mesh, new_faces: Faces, shape: dict) -> dict | None:
    """A region of one revision of a part on the next: boxes, planes and cylinders stay where they are in space, a face
    is the one that most of its middles lie on now. None where nothing of it is found.
    """
    shape = checked_shape(shape)
    kind = next(iter(shape))
    if kind not in ("patch", "facets"):
        found = shape
    else:
        patch = catch(old, old_faces, shape)
        rows = np.argsort(-patch.areas, kind="stable")[:ASKED]
        tree = cKDTree(new.centroids)
        reach = NEAR_ENOUGH * old.diagonal
        votes: dict[int, float] = {}
        for middle, normal, area in zip(patch.middles[rows], patch.normals[rows], patch.areas[rows], strict=True):
            near = np.array(tree.query_ball_point(middle, max(reach, np.sqrt(area))), int)
            near = near[new.normals[near] @ normal > 0.95]
            off = np.abs(((new.centroids[near] - middle) * normal).sum(axis=1))
            if len(near) and off.min() <= reach:
                face = int(new_faces.face[near[int(np.argmin(off))]])
                votes[face] = votes.get(face, 0.0) + float(area)
        if not votes:
            return None
        best = max(votes, key=lambda f: (votes[f], -f))
        facet = int(np.flatnonzero(new_faces.face == best)[0])
        found = {"patch": {"facet": facet, "wide": bool(shape.get("patch", {}).get("wide", False))}}
    try:
        catch(new, new_faces, found)
    except InputError:
        return None
    return found


def loads_again(loads: dict, old: Mesh, old_faces: Faces, new: Mesh, new_faces: Faces) -> dict | None:
    """A loads file on a changed part; None where a face it names is found no more."""

    def again(row: dict) -> dict:
        if not row.get("on"):
            return row
        shape = {k: v for k, v in row["on"].items() if k != "name"}
        there = found_again(old, old_faces, new, new_faces, shape)
        if there is None:
            raise LookupError
        return row | {"on": there | {k: v for k, v in row["on"].items() if k == "name"}}

    try:
        return loads | {
            "fixed": [again(r) for r in loads["fixed"]],
            "cases": [c | {"loads": [again(r) for r in c["loads"]]} for c in loads["cases"]],
        }
    except LookupError:
        return None
