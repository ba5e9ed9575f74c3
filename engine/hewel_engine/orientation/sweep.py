"""Every build direction at once: one compiled pass over the facets, directions in blocks.

For direction b a facet with unit outward normal n, area A and centroid height z above the plate
* overhangs when asin(−n·b) > limit + OVERHANG_MARGIN and it does not lie on the plate,
* then adds A to the overhang area and A·(−n·b)·z to the support proxy (projected area × drop to the plate),
* adds A·|n·b| and A to the stair sum and its area unless it is level (within LEVEL), since a level face has no stairs,
* lies on the plate when it faces down and all its vertices are within CONTACT_BAND of the lowest point.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields

import numpy as np
from numba import njit
from scipy.spatial import ConvexHull, QhullError

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.overhangs.support import contact_facets
from hewel_engine.processes import Process
from hewel_engine.tolerances import CONTACT_BAND, overhang_threshold

LEVEL = np.float32(0.99985)
"""|n·b| from which a face lies within one layer (1°)."""
CHUNK = 1024  # facets that stay in the first-level cache while every direction passes over them
LANES = 64


@njit(cache=True, nogil=True)
def _lies(corners, f, ux, uy, uz, floor, band):
    for c in range(3):  # noqa: SIM110 (compiled code has no generators)
        if corners[f, c, 0] * ux + corners[f, c, 1] * uy + corners[f, c, 2] * uz - floor > band:
            return False
    return True


@njit(cache=True, nogil=True, fastmath=True)
def _sums(x, y, z, p, q, r, w, ux, uy, uz, floor, threshold, band, along):
    """Of some facets the overhang area, support proxy, stair sum and stair area, and how many come near the plate;
    n·b of each to ``along``. Sums alone, without a branch: a least value among them would keep this from vector
    instructions.
    """
    zero, one = np.float32(0), np.float32(1)
    hang, proxy, stair, slope, near = zero, zero, zero, zero, zero
    for i in range(len(x)):
        d = x[i] * ux + y[i] * uy + z[i] * uz
        drop = p[i] * ux + q[i] * uy + r[i] * uz - floor
        needs = w[i] if d < threshold else zero
        hang += needs
        proxy -= needs * d * drop
        sloping = w[i] if abs(d) < LEVEL else zero
        stair += sloping * abs(d)
        slope += sloping
        near += one if drop <= band else zero
        along[i] = d
    return hang, proxy, stair, slope, near


@njit(cache=True, nogil=True, fastmath=True)
def _least(values, lanes):
    """The least of ``values`` and 2, in as many ``lanes`` as vector instructions like."""
    lanes[:] = 2
    whole = len(values) // len(lanes) * len(lanes)
    for i in range(0, whole, len(lanes)):
        for k in range(len(lanes)):
            lanes[k] = values[i + k] if values[i + k] < lanes[k] else lanes[k]
    least = lanes[0]
    for k in range(len(lanes)):
        least = min(least, lanes[k])
    for i in range(whole, len(values)):
        least = min(least, values[i])
    return least


@njit(cache=True, nogil=True, fastmath=True)
def _pass(nx, ny, nz, cx, cy, cz, area, corners, ups, lowest, threshold, band, out, least):
    """Adds overhang area, support proxy, contact area, stair sum and stair area to ``out`` (d, 5); the least n·b off
    the plate to ``least``. A chunk that comes near the plate is done over with care.
    """
    along, lanes = np.empty(CHUNK, np.float32), np.empty(LANES, np.float32)
    for a in range(0, nx.shape[0], CHUNK):
        k = min(CHUNK, nx.shape[0] - a)
        x, y, z = nx[a : a + k], ny[a : a + k], nz[a : a + k]
        p, q, r, w = cx[a : a + k], cy[a : a + k], cz[a : a + k], area[a : a + k]
        for j in range(ups.shape[0]):
            ux, uy, uz, floor = ups[j, 0], ups[j, 1], ups[j, 2], lowest[j]
            hang, proxy, stair, slope, near = _sums(x, y, z, p, q, r, w, ux, uy, uz, floor, threshold, band, along)
            out[j, 3] += stair
            out[j, 4] += slope
            if near == 0:
                deepest = _least(along[:k], lanes)
            else:
                hang, proxy, deepest = np.float32(0), np.float32(0), np.float32(2)
                for i in range(k):
                    d = x[i] * ux + y[i] * uy + z[i] * uz
                    drop = p[i] * ux + q[i] * uy + r[i] * uz - floor
                    if drop <= band and d < 0 and _lies(corners, a + i, ux, uy, uz, floor, band):
                        out[j, 2] += w[i]
                        continue
                    deepest = min(deepest, d)
                    if d < threshold:
                        hang += w[i]
                        proxy -= w[i] * d * drop
            out[j, 0] += hang
            out[j, 1] += proxy
            least[j] = min(least[j], deepest)


@dataclass(frozen=True, eq=False)
class Sweep:
    """One row a direction; ``ups`` (d, 3) unit vectors, part frame; every other field (d,) float."""

    ups: Array
    overhang_area_mm2: Array
    worst_overhang_deg: Array
    support_volume_mm3: Array
    contact_area_mm2: Array
    height_mm: Array
    tipping_deg: Array
    drag_ratio: Array
    curl: Array
    scar_mm2: Array
    finish_mm: Array

    FIELDS = [
        "overhang_area_mm2",
        "worst_overhang_deg",
        "support_volume_mm3",
        "contact_area_mm2",
        "height_mm",
        "tipping_deg",
        "drag_ratio",
        "curl",
        "scar_mm2",
        "finish_mm",
    ]

    def rows(self, where: Array) -> "Sweep":
        return Sweep(*(getattr(self, f.name)[where] for f in fields(self)))


def facet_sums(mesh: Mesh, ups: Array, limit: float, workers: int = 2) -> tuple[Array, Array, Array, Array, Array]:
    """Overhang area, support proxy, contact area, worst angle and mean stair of each direction.

    The mean stair is the mean of |n·b| over faces that are not level: times the layer height it is the mean height of
    the steps, h·cos of a face's slope.
    """
    centre = mesh.box.mean(axis=0)
    single = lambda a: np.ascontiguousarray(a, np.float32)
    n, c = mesh.normals, mesh.centroids - centre
    columns = [single(n[:, i]) for i in range(3)] + [single(c[:, i]) for i in range(3)]
    args = (*columns, single(mesh.areas), single(mesh.triangles - centre))
    lowest = single(mesh.extents(ups)[0] - ups @ centre)
    out, least = np.zeros((len(ups), 5)), np.full(len(ups), 2.0, np.float32)
    threshold = np.float32(overhang_threshold(limit))
    u = single(ups)

    def part(rows):
        _pass(*args, u[rows], lowest[rows], threshold, np.float32(CONTACT_BAND), out[rows], least[rows])

    blocks = np.array_split(np.arange(len(ups)), max(1, workers))
    blocks = [slice(b[0], b[-1] + 1) for b in blocks if len(b)]
    if len(blocks) == 1:
        part(blocks[0])
    else:
        with ThreadPoolExecutor(len(blocks)) as pool:
            list(pool.map(part, blocks))
    worst = np.degrees(np.arcsin(np.clip(-least.astype(float), 0, 1))) + 0.0
    stairs = np.divide(out[:, 3], out[:, 4], out=np.zeros(len(ups)), where=out[:, 4] > 0)
    return out[:, 0], out[:, 1], out[:, 2], worst, stairs


def plan_hull(plan: Array) -> Array | None:
    """(k, 2) corners of the convex hull of plan points, counter-clockwise; None for a point or a line."""
    if len(plan) < 3 or np.linalg.svd(plan - plan.mean(axis=0), compute_uv=False)[-1] < 1e-9:
        return None
    try:
        return plan[ConvexHull(plan).vertices]
    except QhullError:
        return None


def signed_edge_distance(hull: Array, point: Array) -> float:
    """Least distance from a plan point to the hull's edges, negative outside."""
    a, b = hull, np.roll(hull, -1, axis=0)
    along = b - a
    t = np.clip(((point - a) * along).sum(axis=1) / (along**2).sum(axis=1), 0, 1)
    distance = np.linalg.norm(a + t[:, None] * along - point, axis=1).min()
    inside = (along[:, 0] * (point[1] - a[:, 1]) - along[:, 1] * (point[0] - a[:, 0]) >= 0).all()
    return float(distance if inside else -distance)


def tipping_angle(hull: Array | None, centre: Array, centre_height: float) -> float:
    """Degrees: atan(signed distance to the contact's edge ÷ height of the centre of gravity); 0 without a face.

    >>> square = np.array([[-5.0, -5.0], [5.0, -5.0], [5.0, 5.0], [-5.0, 5.0]])
    >>> round(tipping_angle(square, np.zeros(2), 5.0), 6), tipping_angle(None, np.zeros(2), 5.0)
    (45.0, 0.0)
    """
    if hull is None:
        return 0.0
    return float(np.degrees(np.arctan2(signed_edge_distance(hull, centre), centre_height)))


def least_section_modulus(area: float, centre: Array, second: Array, rim: Array) -> float:
    """mm³: the lesser W = I/c about the two principal axes of the patch.

    ``second`` (2, 2): central ∫(r − c)(r − c)ᵀ dA of the patch; ``rim`` (k, 2): its hull, which bounds c. Where
    both moments are equal every axis is principal; those of the least enclosing rectangle are then taken.
    """
    if area <= 0 or len(rim) == 0:
        return 0.0
    moments, axes = np.linalg.eigh(second)
    if moments[1] - moments[0] < 0.01 * moments[1]:
        side = np.roll(rim, -1, axis=0) - rim
        side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
        spans = [np.ptp(rim @ a) * np.ptp(rim @ (-a[1], a[0])) for a in side]
        a = side[int(np.argmin(spans))]
        axes = np.array([[a[0], -a[1]], [a[1], a[0]]])
        moments = np.array([v @ second @ v for v in axes.T])
    far = np.abs((rim - centre) @ axes).max(axis=0)
    return float((moments / far).min())


def drag_ratio(modulus: float, height: float, process: Process) -> float:
    """What the hot plate holds ÷ what the nozzle drags: σ_a·W_c / (F_d·H)."""
    return process.adhesion_hot * modulus / (process.nozzle_force * max(height, 1e-9))


def curl_number(area: float, length: float, volume: float, height: float, process: Process) -> float:
    """Ranking number: shrinkage × footprint length × mean section height over adhesion (mm²/MPa); 0 = no curl.

    The section height is the volume over the footprint, at most the part's height.
    """
    if area <= 0:
        return 0.0
    return process.stock.shrinkage * length * min(height, volume / area) / process.adhesion_hot


def patch_moments(triangles: Array) -> tuple[float, Array, Array]:
    """Area, centroid (2,) and central second moment (2, 2) of plan triangles (k, 3, 2)."""
    e, f = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    area = 0.5 * np.abs(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0])
    total = float(area.sum())
    middle = triangles.mean(axis=1)
    centre = (area[:, None] * middle).sum(axis=0) / total
    r = triangles - centre
    s = r.sum(axis=1)
    second = np.einsum("t,tij->ij", area / 12, np.einsum("tki,tkj->tij", r, r) + np.einsum("ti,tj->tij", s, s))
    return total, centre, second


def _sample(mesh: Mesh, count: int) -> np.ndarray:
    """Facet numbers of ``count`` points spread over the surface by area, evenly and without chance."""
    steps = np.cumsum(mesh.areas)
    return np.searchsorted(steps, (np.arange(count) + 0.5) / count * steps[-1])


SAMPLES = 1500


def landing(mesh: Mesh, rays: RayScene, ups: Array, limit: float) -> tuple[Array, Array]:
    """How support falls short of the plate, from points spread over the surface: for each direction
    the share of the support proxy that remains when a part below catches it, and the landing area per overhang area.
    """
    pick = _sample(mesh, SAMPLES)
    n, c = mesh.normals[pick], mesh.centroids[pick]
    lowest = mesh.extents(ups)[0]
    share, catch = np.ones(len(ups)), np.zeros(len(ups))
    threshold = overhang_threshold(limit)
    for rows in np.array_split(np.arange(len(ups)), max(1, len(ups) // 256)):
        d = n @ ups[rows].T
        z = c @ ups[rows].T - lowest[rows]
        point, col = np.nonzero((d < threshold) & (z > CONTACT_BAND))
        if len(point) == 0:
            continue
        down = -ups[rows][col]
        drop = rays.distances(c[point] + rays.step * down, down)
        weight, plate = -d[point, col], z[point, col]
        landed = drop < plate - 2 * CONTACT_BAND
        full = np.bincount(col, weight * plate, minlength=len(rows))
        ok = full > 0
        share[rows[ok]] = np.bincount(col, weight * np.minimum(drop, plate), minlength=len(rows))[ok] / full[ok]
        hits = np.maximum(np.bincount(col, minlength=len(rows)), 1)
        catch[rows] = np.bincount(col, weight * landed, minlength=len(rows)) / hits
    return share, catch


FOOTING_SHARE = 2e-4
"""Contact below this share of the surface is a point of a rounded face: the sweep leaves its tipping at 0."""


def sweep(mesh: Mesh, ups: Array, process: Process, rays: RayScene | None = None, workers: int = 2) -> Sweep:
    """All facet measures of every direction in ``ups`` (d, 3)."""
    hang, proxy, contact, worst, stairs = facet_sums(mesh, ups, process.limit, workers)
    share, catch = landing(mesh, rays or RayScene(mesh), ups, process.limit)
    lowest, highest = mesh.extents(ups)
    height = highest - lowest
    tipping, drag, curl = (np.zeros(len(ups)) for _ in range(3))
    for j in np.flatnonzero(contact > FOOTING_SHARE * mesh.areas.sum()):
        tipping[j], drag[j], curl[j] = footing(mesh, ups[j], float(height[j]), process)
    scar, finish = hang * (1 + catch), stairs * process.layer
    return Sweep(ups, hang, worst, proxy * share, contact, height, tipping, drag, curl, scar, finish)


def footing(mesh: Mesh, up: Array, height: float, process: Process) -> tuple[float, float, float]:
    """Tipping angle, drag ratio and curl number from the facets on the plate."""
    turn = upright(up)
    flat = mesh.triangles[contact_facets(mesh, up)] @ turn.T
    if len(flat) == 0:
        return 0.0, 0.0, 0.0
    area, centre, second = patch_moments(flat[:, :, :2])
    hull = plan_hull(flat[:, :, :2].reshape(-1, 2))
    cog = turn @ mesh.centre_of_mass
    tip = tipping_angle(hull, cog[:2], float(cog[2] - flat[:, :, 2].min()))
    if hull is None:
        return tip, 0.0, 0.0
    length = float(np.linalg.norm(hull[:, None] - hull[None], axis=2).max())
    modulus = least_section_modulus(area, centre, second, hull)
    return tip, drag_ratio(modulus, height, process), curl_number(area, length, abs(mesh.volume), height, process)
