"""Bores and flats of a mesh, found from its facets.

A bore is a full inner cylinder of at least eight sides that a pin of its diameter can enter, with no material
inside its radius. Axes are proposed by edges whose facets meet at a slight angle (n_i × n_j runs along the axis of
the cylinder that both belong to); a patch of connected facets along an axis is accepted when its *vertices* lie on
one circle (chords do not) and its rims run all the way round. Where the file names exact surfaces, its own
cylinders and planes are taken instead.
"""

from dataclasses import dataclass, field

import numpy as np

from hewel_engine.geometry.distinct import distinct
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.surfaces import Surfaces
from hewel_engine.tolerances import CIRCLE_RESIDUAL, CIRCLE_RESIDUAL_SHARE, FLAT_EDGE, SMOOTH_EDGE

MAX_AXES = 60
LEAST_TURN = 0.15  # degrees between facets of one cylinder: finer ones are flat to single precision
ALONG = 0.01  # |n·a| of a facet that runs along axis a


@dataclass
class Bore:
    centre: Array
    axis: Array
    diameter: float
    depth: float
    through: bool
    facets: np.ndarray = field(repr=False)


@dataclass
class Flat:
    normal: Array
    area: float
    centre: Array
    facets: np.ndarray = field(repr=False)


@dataclass
class _Rim:
    """A loop that runs once round the axis: where along it, how far it strays, and whether it opens outwards."""

    at: float
    stray: float
    opens: bool


@dataclass
class _Piece:
    axis: Array
    foot: Array  # the point of the axis line nearest the part frame's origin
    radius: float
    low: _Rim
    high: _Rim
    facets: np.ndarray


def edge_geometry(mesh: Mesh):
    pairs = mesh.edges.shared
    a, b = mesh.normals[pairs[:, 0]], mesh.normals[pairs[:, 1]]
    cross = np.cross(a, b)
    sine = np.linalg.norm(cross, axis=1)
    angle = np.degrees(np.arctan2(sine, (a * b).sum(axis=1)))
    return pairs, cross, sine, angle


def ends_of(mesh: Mesh, pairs: np.ndarray) -> np.ndarray:
    """(k, 2) vertices at the ends of the edge that each pair (k, 2) of facets shares."""
    return np.array([np.intersect1d(mesh.faces[a], mesh.faces[b])[:2] for a, b in pairs]).reshape(-1, 2)


def rises(mesh: Mesh, pairs: np.ndarray) -> Array:
    """(k,) mm by which the second facet of each pair rises over the plane of the first: positive where the edge between
    them is hollow seen from outside, negative where it is a ridge.
    """
    beyond = mesh.centroids[pairs[:, 1]] - mesh.centroids[pairs[:, 0]]
    return (beyond * mesh.normals[pairs[:, 0]]).sum(axis=1)


def find_flats(mesh: Mesh, least_area: float | None = None, surfaces: Surfaces | None = None) -> list[Flat]:
    """Plane faces with at least ``least_area`` (default 1 % of the surface), largest first."""
    pairs, _, _, angle = edge_geometry(mesh)
    plane = np.ones(len(mesh.faces), bool) if surfaces is None else surfaces.facets_of("plane") | ~surfaces.named
    link = pairs[(angle < FLAT_EDGE) & plane[pairs].all(axis=1)]
    n, label = components(len(mesh.faces), link)
    area = np.bincount(label, np.where(plane, mesh.areas, 0.0), minlength=n)
    least = 0.01 * area.sum() if least_area is None else least_area
    flats = []
    for i in np.argsort(-area, kind="stable"):
        if area[i] < least or area[i] == 0:
            break
        rows = np.flatnonzero(label == i)
        normal = (mesh.normals[rows] * mesh.areas[rows, None]).sum(axis=0)
        normal /= np.linalg.norm(normal)
        if (mesh.normals[rows] @ normal).min() < np.cos(np.radians(FLAT_EDGE * 2)):
            continue  # a strip of facets that creeps round a large cylinder
        centre = np.average(mesh.centroids[rows], axis=0, weights=mesh.areas[rows])
        flats.append(Flat(normal, float(area[i]), centre, rows))
    return flats


def _proposed_axes(mesh: Mesh, pairs, cross, sine, angle) -> Array:
    smooth = (angle > LEAST_TURN) & (angle < SMOOTH_EDGE)
    if not smooth.any():
        return np.zeros((0, 3))
    axes = cross[smooth] / sine[smooth, None]
    weight = np.minimum(mesh.areas[pairs[smooth, 0]], mesh.areas[pairs[smooth, 1]])
    axes *= np.where((axes @ [1.0, 1e-3, 1e-6]) < 0, -1, 1)[:, None]
    _, where = distinct(np.round(axes * 80))
    votes = np.bincount(where, weight)
    means = np.stack([np.bincount(where, weight * axes[:, i]) for i in range(3)], axis=1)
    means /= np.maximum(np.linalg.norm(means, axis=1, keepdims=True), 1e-300)
    found: list[Array] = []
    for i in np.argsort(-votes, kind="stable")[:2000]:
        if all(abs(means[i] @ a) < 0.9995 for a in found):
            near = np.abs(axes @ means[i]) > 0.9998
            sign = np.sign(axes[near] @ means[i])
            mean = (axes[near] * (weight[near] * sign)[:, None]).sum(axis=0)
            found.append(mean / np.linalg.norm(mean))
        if len(found) == MAX_AXES:
            break
    return np.array(found).reshape(-1, 3)


def fit_circle(plan: Array) -> tuple[Array, float, float]:
    """Algebraic least squares circle: centre (2,), radius, greatest residual."""
    middle = plan.mean(axis=0)
    x, y = (plan - middle).T
    a = np.c_[2 * x, 2 * y, np.ones(len(x))]
    (cx, cy, c), *_ = np.linalg.lstsq(a, x * x + y * y, rcond=None)
    radius = float(np.sqrt(max(c + cx * cx + cy * cy, 0)))
    residual = np.abs(np.hypot(x - cx, y - cy) - radius).max()
    return middle + np.array([cx, cy]), radius, float(residual)


def on_a_circle(stray: float, radius: float) -> bool:
    """Whether points that stray so far (mm) from their best circle lie on it."""
    return stray <= max(CIRCLE_RESIDUAL, CIRCLE_RESIDUAL_SHARE * radius)


def _rims(mesh: Mesh, rows, frame, centre, radius) -> list[_Rim]:
    """Loops of the patch's border that run round the axis."""
    inside = np.zeros(len(mesh.faces), bool)
    inside[rows] = True
    ids = mesh.edges.ids[rows]
    pair = mesh.edges.pairs[ids]
    other = np.where(pair[..., 0] == rows[:, None], pair[..., 1], pair[..., 0])
    border = (other < 0) | ~inside[other]
    row, side = np.nonzero(border)
    start = mesh.faces[rows[row], side]
    end = mesh.faces[rows[row], (side + 1) % 3]
    neighbour = other[row, side]
    follow: dict[int, list[int]] = {}
    for e, v in enumerate(start):
        follow.setdefault(int(v), []).append(e)
    rims, left = [], set(range(len(start)))
    for first in range(len(start)):
        loop, e = [], first
        while e in left:
            left.discard(e)
            loop.append(e)
            e = next((x for x in follow.get(int(end[e]), []) if x in left), -1)
        if not loop:
            continue
        a = mesh.vertices[start[loop]] @ frame.T - np.r_[centre, 0]
        b = mesh.vertices[end[loop]] @ frame.T - np.r_[centre, 0]
        swept = np.arctan2(b[:, 1], b[:, 0]) - np.arctan2(a[:, 1], a[:, 0])
        swept = (swept + np.pi) % (2 * np.pi) - np.pi
        if abs(abs(swept.sum()) - 2 * np.pi) > np.radians(10):
            continue
        z = a[:, 2]
        middle = 0.5 * (a + b)
        outward = middle[:, :2] / np.maximum(np.linalg.norm(middle[:, :2], axis=1, keepdims=True), 1e-12)
        near = neighbour[loop]
        ok = near >= 0
        along = mesh.vertices[end[loop]] - mesh.vertices[start[loop]]
        # In the neighbouring facet, walk away from the shared side: n × reversed side points into it.
        into = np.cross(mesh.normals[np.maximum(near, 0)], -along) @ frame.T
        away = np.where(ok, (into[:, :2] * outward).sum(axis=1), 0.0)
        rims.append(_Rim(float((z.min() + z.max()) / 2), float(np.ptp(z)), bool(away.sum() > 0)))
    return rims


def _pieces(mesh: Mesh, surfaces: Surfaces | None) -> list[_Piece]:
    pairs, cross, sine, angle = edge_geometry(mesh)
    smooth_pairs = pairs[angle < SMOOTH_EDGE]
    taken = np.zeros(len(mesh.faces), bool) if surfaces is None else surfaces.named.copy()
    pieces = [] if surfaces is None else _named_pieces(mesh, surfaces)
    if taken.all():
        return pieces
    for axis in _proposed_axes(mesh, pairs, cross, sine, angle):
        frame = upright(axis)
        along = (np.abs(mesh.normals @ axis) < ALONG) & (mesh.areas > 0) & ~taken
        for group in _connected(smooth_pairs, along):
            if len(group) < 8:
                continue
            plan = mesh.vertices[np.unique(mesh.faces[group])] @ frame.T
            centre, radius, residual = fit_circle(plan[:, :2])
            if not radius > 0 or not on_a_circle(residual, radius):
                continue
            if residual > 0.05 * radius:
                continue
            piece = _piece(mesh, group, frame, centre, radius)
            if piece:
                taken[group] = True
                pieces.append(piece)
    return pieces


def _connected(links, chosen) -> list[np.ndarray]:
    """Facets of ``chosen`` (m,) bool in groups joined by ``links`` (k, 2)."""
    rows = np.flatnonzero(chosen)
    if len(rows) == 0:
        return []
    place = np.full(len(chosen), -1)
    place[rows] = np.arange(len(rows))
    inner = links[chosen[links[:, 0]] & chosen[links[:, 1]]]
    _, label = components(len(rows), place[inner])
    order = np.argsort(label, kind="stable")
    return np.split(rows[order], np.flatnonzero(np.diff(label[order])) + 1)


def _named_pieces(mesh: Mesh, surfaces: Surfaces) -> list[_Piece]:
    """Cylinders that the file names. One wall may be several faces (programs like to halve it): they are joined."""
    cylinders: dict[tuple, list[int]] = {}
    for i, s in enumerate(surfaces.list):
        if s.kind == "cylinder":
            axis = np.array(s.axis)
            axis = axis * np.where(axis @ [1.0, 1e-3, 1e-6] < 0, -1, 1)
            foot = np.array(s.origin) - (np.array(s.origin) @ axis) * axis
            key = (*np.round(axis, 5), *np.round(foot, 3), round(s.radius, 4))
            cylinders.setdefault(tuple(k + 0.0 for k in key), []).append(i)
    pieces = []
    for numbers in cylinders.values():
        s = surfaces.list[numbers[0]]
        frame = upright(np.array(s.axis))
        for group in _connected(mesh.edges.shared, np.isin(surfaces.of_facet, numbers)):
            piece = _piece(mesh, group, frame, (frame @ s.origin)[:2], s.radius)
            if piece:
                pieces.append(piece)
    return pieces


def _piece(mesh: Mesh, group, frame, centre, radius: float) -> _Piece | None:
    """The facets of a cylinder as a piece of a bore; None when it faces outwards or does not run all the way round."""
    outward = (mesh.centroids[group] @ frame.T)[:, :2] - centre
    if ((mesh.normals[group] @ frame.T)[:, :2] * outward).sum() >= 0:
        return None  # normals away from the axis: a pin or a boss
    rims = sorted(_rims(mesh, group, frame, centre, radius), key=lambda r: r.at)
    if len(rims) < 2:
        return None
    return _Piece(frame[2], frame[:2].T @ centre, radius, rims[0], rims[-1], group)


def _joined(pieces: list[_Piece]) -> list[_Piece]:
    """Pieces of one bore parted by a crossing hole: same axis, same radius, and facing rims that are not plane."""
    pieces = sorted(pieces, key=lambda p: (tuple(np.round(p.axis, 3)), round(p.radius, 2), p.low.at))
    out: list[_Piece] = []
    for p in pieces:
        for i, q in enumerate(out):
            if abs(q.axis @ p.axis) < 0.9999 or abs(q.radius - p.radius) > max(0.02, 0.005 * p.radius):
                continue
            apart = (q.foot - p.foot) - ((q.foot - p.foot) @ p.axis) * p.axis
            if np.linalg.norm(apart) > max(0.02, 0.01 * p.radius) or p.low.at < q.high.at - q.high.stray:
                continue
            if min(q.high.stray, p.low.stray) > 0.02 * p.radius:
                out[i] = _Piece(q.axis, q.foot, q.radius, q.low, p.high, np.concatenate([q.facets, p.facets]))
                break
        else:
            out.append(p)
    return out


def find_bores(mesh: Mesh, rays: RayScene | None = None, surfaces: Surfaces | None = None) -> list[Bore]:
    """Every bore of a closed or open mesh, widest first."""
    rays = rays or RayScene(mesh)
    bores = []
    for p in _joined(_pieces(mesh, surfaces)):
        if not (p.low.opens or p.high.opens):
            continue
        depth = p.high.at - p.low.at
        if depth <= 0 or not _clear(rays, p, depth):
            continue
        centre = p.foot + p.axis * (p.low.at + depth / 2)
        bores.append(Bore(centre, p.axis, 2 * p.radius, depth, p.low.opens and p.high.opens, p.facets))
    return sorted(bores, key=lambda b: (-round(b.diameter, 3), *np.round(b.centre, 3)))


def _clear(rays: RayScene, p: _Piece, depth: float) -> bool:
    """No material inside the radius: lines along the axis meet nothing, lines from the axis meet the wall first."""
    angle = np.radians(np.arange(0, 360, 22.5) + 7)
    round_about = np.c_[np.cos(angle), np.sin(angle)]
    frame = upright(p.axis)
    inset = min(0.02 * depth, 0.05)
    start = p.foot + p.axis * (p.low.at + inset)
    spots = (
        start
        + np.concatenate([np.zeros((1, 2)), 0.4 * p.radius * round_about, 0.85 * p.radius * round_about]) @ frame[:2]
    )
    if (rays.distances(spots, p.axis) < depth - 2 * inset - 1e-6 * depth).any():
        return False
    heights = start + np.linspace(0.05, 0.95, 5)[:, None] * (depth - 2 * inset) * p.axis
    outward = np.tile(round_about @ frame[:2], (len(heights), 1))
    return bool((rays.distances(heights.repeat(len(angle), axis=0), outward) > 0.85 * p.radius).all())
