"""Torsion of any section, open, closed or branched: Saint-Venant's warping on a fine raster of it. Lengths mm.

With the warping ω of a unit twist, ∇²ω = 0 and ∂ω/∂n = y·n_x − x·n_y on every outline, holes need no constants of
their own: J = ∫ (ω_x − y)² + (ω_y + x)² = ∫ r² − ∫ (y·ω_x − x·ω_y), τ = T/J·√((ω_x − y)² + (ω_y + x)²). The same
problem as Prandtl's, whose stress function is its conjugate. Squares of bilinear elements, of which only what lies
within the outlines is integrated, by samples; the greatest stress is carried on to the outlines from within, a line's
width away from sharp inner corners, where it has no limit.
"""

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection
from scipy.ndimage import map_coordinates, median_filter
from scipy.sparse import coo_matrix, diags
from scipy.sparse.linalg import splu
from scipy.spatial import cKDTree

from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.material_field import painted

SQUARES = 6_000
"""Of a section's material, about."""
MOST_SQUARES = 400_000
"""Of the box round it."""
FINER = 8
"""Samples a side of a square; what lies outside takes no part in its integrals."""
FULL = 0.5
"""Share of a square from which on its stress is read."""
EVENED = 7
"""Neighbours along an outline of which the middle one counts: the raster makes single ones stray."""
DEPTHS = (1.5, 3.0)
"""Squares below an outline at which stress is read, to be carried on to it straight."""
INNER = 20.0
"""Degrees by which an outline turns inward at a sharp inner corner."""
BESIDE = 0.45
"""mm round such a corner within which stress is not read: one line."""
AT = np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]])
"""The corners of a square, in the order of its nodes."""


def _slopes(u: float, v: float) -> Array:
    """(2, 4) of the four nodes' weights at a place of a unit square."""
    return np.array([[-(1 - v), 1 - v, v, -v], [-(1 - u), -u, u, 1 - u]])


SPOTS = (np.stack(np.meshgrid(*[np.arange(FINER)] * 2), axis=2).reshape(-1, 2) + 0.5) / FINER
"""(s, 2) samples of a unit square, row by row."""
SLOPES = np.array([_slopes(u, v) for u, v in SPOTS])
"""(s, 2, 4)"""
STIFF = np.einsum("sdi,sdj->sij", SLOPES, SLOPES).reshape(-1, 16)
"""(s, 16) stiffness of each sample."""
PUSH = np.concatenate([SLOPES[:, 0], -SLOPES[:, 1], SPOTS[:, 1:] * SLOPES[:, 0] - SPOTS[:, :1] * SLOPES[:, 1]], axis=1)
"""(s, 12) what a sample drives the nodes with: times y and x of the square's corner, and from its own place in it."""
REACH = np.c_[np.ones(len(SPOTS)), 2 * SPOTS, (SPOTS**2).sum(axis=1)]
"""(s, 4) r² of a sample: times r² of the corner, its x and y, and from its own place in it."""


@dataclass(frozen=True)
class Torsion:
    """``constant`` J mm⁴ and ``twist`` mm: the greatest shear stress of a torque is T·twist/J."""

    constant: float
    twist: float

    def scaled(self, area: float, was: float) -> "Torsion":
        """Of a like section of another ``area``: J grows with its square, the twist with its root."""
        share = area / was
        return Torsion(self.constant * share**2, self.twist * share**0.5)


def torsion_of(plan: CrossSection, squares: int = SQUARES) -> Torsion:
    """Of a section with any outlines; of several pieces side by side the sum."""
    loops = [loop for loop in plan.to_polygons() if len(loop) > 2]
    area = plan.area()
    if not loops or area <= 1e-9:
        return Torsion(1e-9, 0.0)
    points = np.concatenate(loops)
    low, high = points.min(axis=0), points.max(axis=0)
    size = max(float(np.sqrt(area / squares)), float(np.sqrt(np.prod(high - low) / MOST_SQUARES)))
    within, origin = _within(loops, low, high, size)
    rows, columns = np.nonzero(within.any(axis=2))
    weight, stiff, push, reach = _integrals(within[rows, columns])
    nodes = (rows[:, None] + AT[:, 1].astype(int)) * (within.shape[1] + 1) + columns[:, None] + AT[:, 0].astype(int)
    used, number = np.unique(nodes, return_inverse=True)
    number = number.reshape(-1, 4)
    corner = origin + size * np.c_[columns, rows]
    middle = np.average(corner, axis=0, weights=weight)  # any axis does; a near one keeps numbers small
    corner = corner - middle
    x, y = corner.T[..., None]
    force = (y * push[:, :4] + x * push[:, 4:8] + size * push[:, 8:]) * size
    i, j = np.repeat(number, 4, axis=1).ravel(), np.tile(number, (1, 4)).ravel()
    matrix = coo_matrix((stiff.ravel(), (i, j)), shape=(len(used),) * 2).tocsc()
    matrix = matrix + diags(np.full(len(used), 1e-9))  # each piece may shift freely
    load = np.bincount(number.ravel(), force.ravel(), len(used))
    warp = splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}).solve(load)
    polar = ((corner**2).sum(axis=1) * reach[:, 0] + size * (corner * reach[:, 1:3]).sum(axis=1)).sum()
    constant = float(polar + size**2 * reach[:, 3].sum()) * size**2 - float(load @ warp)
    warp = warp[number]
    field = np.full((*within.shape[:2], 2), np.nan)
    full = weight >= FULL
    slope = warp[full] @ _slopes(0.5, 0.5).T / size
    at = corner[full] + size / 2
    field[rows[full], columns[full]] = np.c_[slope[:, 0] - at[:, 1], slope[:, 1] + at[:, 0]]
    return Torsion(max(constant, 1e-9), _greatest(loops, field, origin, size))


def _integrals(within: np.ndarray) -> tuple[Array, Array, Array, Array]:
    """Of squares with the samples ``within`` (k, s): their share of material, STIFF, PUSH and REACH over it. Most
    squares are full, and alike.
    """
    table = np.c_[np.ones(len(SPOTS)), STIFF, PUSH, REACH] / FINER**2
    cut = ~within.all(axis=1)
    out = np.repeat(table.sum(axis=0)[None], len(within), axis=0)
    out[cut] = within[cut] @ table
    return out[:, 0], out[:, 1:17], out[:, 17:29], out[:, 29:]


def _greatest(loops: list[Array], field: Array, origin: Array, size: float) -> float:
    """The greatest stress of a unit twist: along every outline, from two depths below it straight on to it. ``field``
    (rows, columns, 2): the stress in the middles of squares, NaN where an outline cuts them.
    """
    inner = _inner_corners(loops)
    spots, inward = _along(loops, 2 * size)
    if len(inner):
        away = cKDTree(inner).query(spots)[0] > max(BESIDE, 2 * size)
        spots, inward = spots[away], inward[away]
    reads = []
    for depth in DEPTHS:
        at = (spots + depth * size * inward - origin) / size - 0.5
        found = [map_coordinates(field[..., d], at[:, ::-1].T, order=1, mode="nearest") for d in range(2)]
        reads.append(np.hypot(*found))
    near, far = reads
    on = near + (near - far) * DEPTHS[0] / (DEPTHS[1] - DEPTHS[0])
    on = on[np.isfinite(on)]
    most = median_filter(on, EVENED, mode="nearest").max(initial=0.0) if len(on) else 0.0
    return float(max(most, np.nanmax(np.hypot(field[..., 0], field[..., 1]), initial=0.0) if most == 0 else most))


def _along(loops: list[Array], step: float) -> tuple[Array, Array]:
    """Points (n, 2) along the outlines, material on their left, and the way into the material there."""
    spots, ways = [np.zeros((0, 2))], [np.zeros((0, 2))]
    for loop in loops:
        along = np.roll(loop, -1, axis=0) - loop
        length = np.linalg.norm(along, axis=1)
        parts = np.maximum(1, np.ceil(length / step)).astype(int)
        edge = np.repeat(np.arange(len(loop)), parts)
        share = (np.arange(len(edge)) - np.repeat(np.cumsum(parts) - parts, parts) + 0.5) / parts[edge]
        spots.append(loop[edge] + share[:, None] * along[edge])
        unit = along[edge] / np.maximum(length[edge], 1e-12)[:, None]
        ways.append(np.c_[-unit[:, 1], unit[:, 0]])
    return np.concatenate(spots), np.concatenate(ways)


def _inner_corners(loops: list[Array]) -> Array:
    """(n, 2) where an outline, material on its left, turns to the right sharply."""
    out = [np.zeros((0, 2))]
    for loop in loops:
        before, after = loop - np.roll(loop, 1, axis=0), np.roll(loop, -1, axis=0) - loop
        turn = np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1))
        out.append(loop[np.degrees(turn) < -INNER])
    return np.concatenate(out)


def _within(loops: list[Array], low: Array, high: Array, size: float) -> tuple[np.ndarray, Array]:
    """(rows, columns, s) which samples of every square lie in the material, and the least corner of the raster."""
    count = np.maximum(np.ceil((high - low) / size - 1e-9).astype(int), 1)
    origin = (low + high - count * size) / 2
    starts = np.r_[0, np.cumsum([len(loop) for loop in loops])]
    fine = painted(
        np.concatenate(loops).astype(float), starts, origin, size / FINER, int(FINER * count[1]), int(FINER * count[0])
    )
    shape = (count[1], FINER, count[0], FINER)
    return fine.astype(bool).reshape(shape).transpose(0, 2, 1, 3).reshape(count[1], count[0], FINER**2), origin
