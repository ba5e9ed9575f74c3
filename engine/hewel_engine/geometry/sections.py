"""Cutting a closed mesh into layers: integrals of each section, and its closed outlines.

Both run straight over the facets. A vertex is *below* a plane when s < 0 and *above* otherwise (half open), so
a plane through a vertex or a flat face needs no special case; the crossing of an edge is always interpolated
from its lower-numbered vertex, so two facets agree on it to the last bit.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from manifold3d import CrossSection
from numba import njit

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import enclosed, grown, sharpest
from hewel_engine.processes import layers_below

LEVEL = 1e-5
"""mm within which a vertex stands at the very height at which a layer is cut: files keep coordinates to that."""
STRAIGHT = 1e-4
"""mm: points that stand off a straight outline by less say nothing; a flat face has one at every facet's edge."""
INTEGRALS = ("area", "sx", "sy", "sxx", "syy", "sxy", "perimeter")


@njit(cache=True, nogil=True)
def _layer_range(low, high, first, pitch, count):
    """Layers k with low < first + k·pitch ≤ high, as a half-open range (matches ``s < 0`` is below)."""
    k0 = int(np.floor((low - first) / pitch)) - 1
    k1 = int(np.floor((high - first) / pitch)) + 2
    while k0 < count and (k0 < 0 or not low < first + k0 * pitch):
        k0 += 1
    while k1 > k0 and (k1 > count or not first + (k1 - 1) * pitch <= high):
        k1 -= 1
    return k0, k1


@njit(cache=True, nogil=True)
def _cross(points, i, j, z):
    """Plan point where the edge between vertices i and j meets height z."""
    if j < i:
        i, j = j, i
    t = (z - points[i, 2]) / (points[j, 2] - points[i, 2])
    return (
        points[i, 0] + t * (points[j, 0] - points[i, 0]),
        points[i, 1] + t * (points[j, 1] - points[i, 1]),
    )


@njit(cache=True, nogil=True)
def _sides(points, faces, f, z):
    """Sides of facet f where its cut at z begins and ends; walking it keeps the material on the left."""
    below0 = points[faces[f, 0], 2] < z
    below1 = points[faces[f, 1], 2] < z
    below2 = points[faces[f, 2], 2] < z
    # The cut enters where the facet's boundary goes from above to below, and leaves where it comes back up.
    begin = 0 if (not below0 and below1) else (1 if (not below1 and below2) else 2)
    end = 0 if (below0 and not below1) else (1 if (below1 and not below2) else 2)
    return begin, end


@njit(cache=True, nogil=True)
def _integrals(points, faces, first, pitch, count):
    """(count, 7): area, first and second moments about the plan's origin, perimeter. Green's theorem."""
    out = np.zeros((count, 7))
    for f in range(faces.shape[0]):
        z0, z1, z2 = points[faces[f, 0], 2], points[faces[f, 1], 2], points[faces[f, 2], 2]
        k0, k1 = _layer_range(min(z0, z1, z2), max(z0, z1, z2), first, pitch, count)
        for k in range(k0, k1):
            z = first + k * pitch
            begin, end = _sides(points, faces, f, z)
            x0, y0 = _cross(points, faces[f, begin], faces[f, (begin + 1) % 3], z)
            x1, y1 = _cross(points, faces[f, end], faces[f, (end + 1) % 3], z)
            c = x0 * y1 - x1 * y0
            out[k, 0] += c / 2
            out[k, 1] += c * (x0 + x1) / 6
            out[k, 2] += c * (y0 + y1) / 6
            out[k, 3] += c * (x0 * x0 + x0 * x1 + x1 * x1) / 12
            out[k, 4] += c * (y0 * y0 + y0 * y1 + y1 * y1) / 12
            out[k, 5] += c * (x0 * y1 + 2 * x0 * y0 + 2 * x1 * y1 + x1 * y0) / 24
            out[k, 6] += np.sqrt((x1 - x0) ** 2 + (y1 - y0) ** 2)
    return out


@njit(cache=True, nogil=True)
def _outlines(points, faces, edge_ids, n_edges, first, pitch, wanted):
    """Closed loops of the layers where ``wanted`` is true, linked by the edges that each cut runs through.

    Returns plan points (p, 2), loop starts (l + 1,), layer of each loop (l,), loops that never closed.
    """
    count = wanted.shape[0]
    per_layer = np.zeros(count + 1, np.int64)
    for f in range(faces.shape[0]):
        z0, z1, z2 = points[faces[f, 0], 2], points[faces[f, 1], 2], points[faces[f, 2], 2]
        k0, k1 = _layer_range(min(z0, z1, z2), max(z0, z1, z2), first, pitch, count)
        for k in range(k0, k1):
            if wanted[k]:
                per_layer[k + 1] += 1
    for k in range(count):
        per_layer[k + 1] += per_layer[k]
    total = per_layer[count]
    fill = per_layer[:count].copy()
    seg_face = np.empty(total, np.int32)
    for f in range(faces.shape[0]):
        z0, z1, z2 = points[faces[f, 0], 2], points[faces[f, 1], 2], points[faces[f, 2], 2]
        k0, k1 = _layer_range(min(z0, z1, z2), max(z0, z1, z2), first, pitch, count)
        for k in range(k0, k1):
            if wanted[k]:
                seg_face[fill[k]] = f
                fill[k] += 1
    xy = np.empty((total, 2))
    starts = np.empty(total + 1, np.int64)
    loop_layer = np.empty(total, np.int32)
    n_points, n_loops, broken = 0, 0, 0
    at_edge = np.full(n_edges, -1, np.int64)
    used = np.zeros(total, np.bool_)
    for k in range(count):
        z = first + k * pitch
        a, b = per_layer[k], per_layer[k + 1]
        for s in range(a, b):
            begin, _ = _sides(points, faces, seg_face[s], z)
            at_edge[edge_ids[seg_face[s], begin]] = s
        for s in range(a, b):
            if used[s]:
                continue
            start_point = n_points
            here = s
            while here >= 0 and not used[here]:
                used[here] = True
                f = seg_face[here]
                begin, end = _sides(points, faces, f, z)
                x, y = _cross(points, faces[f, begin], faces[f, (begin + 1) % 3], z)
                xy[n_points, 0], xy[n_points, 1] = x, y
                n_points += 1
                here = at_edge[edge_ids[f, end]]
                if here >= 0 and (here < a or here >= b):
                    here = -1
            if here != s:
                broken += 1
                n_points = start_point
                continue
            starts[n_loops] = start_point
            loop_layer[n_loops] = k
            n_loops += 1
    starts[n_loops] = n_points
    return xy[:n_points].copy(), starts[: n_loops + 1].copy(), loop_layer[:n_loops].copy(), broken


@njit(cache=True, nogil=True)
def _straightened(xy, starts, stray):
    """Loops without the points that stand off the line through their neighbours by less than ``stray``, each begun at
    its leftmost (then lowest) point, so that a straight wall has the very same loop in every layer.
    """
    out, begins = np.empty_like(xy), np.empty_like(starts)
    n = 0
    for loop in range(len(starts) - 1):
        a, m = starts[loop], starts[loop + 1] - starts[loop]
        begins[loop] = n
        first = 0
        for i in range(1, m):
            dx = xy[a + i, 0] - xy[a + first, 0]
            if dx < -1e-7 or (dx < 1e-7 and xy[a + i, 1] < xy[a + first, 1]):
                first = i
        kept = n
        out[n] = xy[a + first]
        n += 1
        for step in range(1, m):
            i, j = a + (first + step) % m, a + (first + step + 1) % m
            ux, uy = xy[j, 0] - out[n - 1, 0], xy[j, 1] - out[n - 1, 1]
            vx, vy = xy[i, 0] - out[n - 1, 0], xy[i, 1] - out[n - 1, 1]
            length = np.sqrt(ux * ux + uy * uy)
            off = abs(ux * vy - uy * vx) / length if length > 0 else np.sqrt(vx * vx + vy * vy)
            if off > stray or ux * vx + uy * vy < 0:
                out[n] = xy[i]
                n += 1
        if n - kept < 3:
            n = kept
    begins[-1] = n
    return out[:n].copy(), begins


@njit(cache=True, nogil=True)
def _smoothed(xy, starts, stray):
    """Loops of some of their own points, off which none of the others is farther than ``stray``.

    From each point that is kept a line goes on as long as one direction leads past all points so far within ``stray``
    of them, and none goes back.
    """
    out, begins = np.empty_like(xy), np.empty_like(starts)
    n = 0
    for loop in range(len(starts) - 1):
        a, m = starts[loop], starts[loop + 1] - starts[loop]
        begins[loop] = n
        kept = n
        out[n] = xy[a]
        n += 1
        left, right, far = np.pi, -np.pi, 0.0  # turns from ``along`` between which all points are passed; how far it is
        along = 0.0
        for step in range(1, m + 1):
            fx, fy = out[n - 1, 0], out[n - 1, 1]
            dx, dy = xy[a + step % m, 0] - fx, xy[a + step % m, 1] - fy
            away = np.sqrt(dx * dx + dy * dy)
            turn = 0.0 if far == 0.0 else (np.arctan2(dy, dx) - along + np.pi) % (2 * np.pi) - np.pi
            if far > 0.0 and (turn > left or turn < right or away < far):
                last = a + step - 1
                out[n] = xy[last]
                n += 1
                dx, dy = xy[a + step % m, 0] - xy[last, 0], xy[a + step % m, 1] - xy[last, 1]
                away = np.sqrt(dx * dx + dy * dy)
                left, right, far, turn = np.pi, -np.pi, 0.0, 0.0
            if away > stray:
                if far == 0.0:
                    along = np.arctan2(dy, dx)
                width = np.arcsin(stray / away)
                left, right, far = min(left, turn + width), max(right, turn - width), away
        if n - kept < 3:
            n = kept
    begins[-1] = n
    return out[:n].copy(), begins


@njit(cache=True, nogil=True)
def _alike(xy, starts, before, here, after):
    """Whether the loops ``here`` to ``after`` are those from ``before`` to ``here`` again, to a ten-millionth."""
    if after - here != here - before:
        return False
    for i in range(after - here):
        a, b = starts[before + i], starts[here + i]
        if starts[before + i + 1] - a != starts[here + i + 1] - b:
            return False
        for k in range(starts[here + i + 1] - b):
            if abs(xy[a + k, 0] - xy[b + k, 0]) > 1e-7 or abs(xy[a + k, 1] - xy[b + k, 1]) > 1e-7:
                return False
    return True


@njit(cache=True, nogil=True)
def _like(xy, starts, layers):
    """Of every layer the lowest one from which on all have the same loops."""
    out = np.arange(len(layers) - 1)
    for k in range(1, len(out)):
        if _alike(xy, starts, layers[k - 1], layers[k], layers[k + 1]):
            out[k] = out[k - 1]
    return out


@dataclass(frozen=True, eq=False)
class LayerStack:
    """A part standing with ``up`` vertical, cut at the middle of every layer: heights (k + ½)·pitch above z0.

    Plan coordinates are the first two rows of ``turn``; heights are mm above the plate.
    """

    mesh: Mesh
    up: Array
    pitch: float

    @cached_property
    def turn(self) -> Array:
        return upright(self.up)

    @cached_property
    def points(self) -> Array:
        """(n, 3) mm: the part standing on the plate, its centre over the origin."""
        p = (self.mesh.vertices - self.mesh.box.mean(axis=0)) @ self.turn.T
        p[:, 2] -= p[self.mesh.used, 2].min()
        # A level face at the height of a cut lies below it, all of it, whatever rounding has made of its corners.
        middle = (np.round(p[:, 2] / self.pitch - 0.5) + 0.5) * self.pitch
        p[:, 2] = np.where(np.abs(p[:, 2] - middle) < LEVEL, middle - LEVEL, p[:, 2])
        return np.ascontiguousarray(p)

    @cached_property
    def height(self) -> float:
        return float(self.points[self.mesh.used, 2].max())

    @cached_property
    def count(self) -> int:
        """Layers whose middle lies inside the part."""
        return max(1, layers_below(self.height, self.pitch))

    @property
    def first(self) -> float:
        return min(self.pitch / 2, self.height / 2)

    @cached_property
    def integrals(self) -> Array:
        """(count, 7), columns INTEGRALS, mm and powers of it."""
        return _integrals(self.points, self.mesh.faces, self.first, self.pitch, self.count)

    @cached_property
    def loops(self) -> tuple[Array, np.ndarray, np.ndarray]:
        """Closed outlines of every layer: points (p, 2); where each loop starts (l + 1,); where each layer's loops
        start (count + 1,). Material lies on the left.
        """
        edges = self.mesh.edges
        every = np.ones(self.count, bool)
        xy, starts, layer, _ = _outlines(
            self.points, self.mesh.faces, edges.ids, len(edges.pairs), self.first, self.pitch, every
        )
        return xy, starts, np.searchsorted(layer, np.arange(self.count + 1))

    def outline(self, k: int) -> list[Array]:
        """The closed loops (n, 2) of layer ``k``."""
        xy, starts, layers = self.loops
        return [xy[a:b] for a, b in pairwise(starts[layers[k] : layers[k + 1] + 1])]

    @cached_property
    def _straight(self) -> tuple[Array, np.ndarray]:
        """Loops without the points on straight lines."""
        xy, starts, _ = self.loops
        return _straightened(xy, starts, STRAIGHT)

    @cached_property
    def like(self) -> np.ndarray:
        """(count,) of every layer the lowest one from which on all are alike."""
        return _like(*self._straight, self.loops[2])

    @cached_property
    def _plans(self) -> "Plans":
        return Plans(*self._straight, self.loops[2], self.like)

    def plan(self, k: int) -> CrossSection:
        """The region of layer ``k``; the very same object as the layer below where the two are alike."""
        return self._plans[k]

    def smoothed(self, stray: float) -> "Plans":
        """The plan of every layer without corners that stray by less than ``stray`` mm from a straight line."""
        if stray not in self._thinned:
            xy, starts = _smoothed(*self._straight, stray)
            self._thinned[stray] = Plans(xy, starts, self.loops[2], self.like)
        return self._thinned[stray]

    @cached_property
    def _thinned(self) -> dict[float, "Plans"]:
        return {}


class Plans(Sequence[CrossSection]):
    """The regions of all layers, each made when it is first asked for; of layers that are alike there is one.

    ``xy`` (p, 2) mm and ``starts`` (l + 1,): loops with the material on their left; ``layers`` (count + 1,): where each
    layer's loops start; ``like`` (count,).
    """

    def __init__(self, xy: Array, starts: np.ndarray, layers: np.ndarray, like: np.ndarray):
        self._xy, self._starts, self._layers, self._like = xy, starts, layers, like
        self._made: dict[int, CrossSection] = {}

    def __len__(self) -> int:
        return len(self._like)

    def __getitem__(self, k: int) -> CrossSection:  # type: ignore[override]  # one layer at a time
        first = int(self._like[k])
        if first not in self._made:
            at = self._starts[self._layers[first] : self._layers[first + 1] + 1]
            self._made[first] = enclosed([self._xy[i:j] for i, j in pairwise(at)])
        return self._made[first]

    def grown(self, k: int, by: float) -> CrossSection:
        """A layer's region as :func:`plans.grown` has it; how sharp corners are is looked at for all layers at once."""
        return grown(self[k], by, self._sharpest[int(by < 0), self._like[k]])

    @cached_property
    def _sharpest(self) -> Array:
        """(2, count) radians."""
        return sharpest(self._xy, self._starts, self._layers)


@dataclass(frozen=True, eq=False)
class Pose:
    """Where a part stands: ``turn`` @ point + ``shift`` is over the plate, z up, the plate at 0."""

    turn: Array
    shift: Array

    @classmethod
    def of(cls, stack: LayerStack) -> "Pose":
        middle = stack.mesh.box.mean(axis=0)
        floor = float(((stack.mesh.vertices[stack.mesh.used] - middle) @ stack.turn[2]).min())
        return cls(stack.turn, -stack.turn @ middle - np.array([0, 0, floor]))

    def over_plate(self, points: Array) -> Array:
        return points @ self.turn.T + self.shift

    def in_part(self, points: Array) -> Array:
        return (points - self.shift) @ self.turn

    @property
    def there(self) -> Array:
        """(3, 4) the motion from the part's own frame to over the plate."""
        return np.c_[self.turn, self.shift]

    @property
    def back(self) -> tuple[Array, Array]:
        """Turn (3, 3) and shift (3,) from over the plate into the part's own frame."""
        return self.turn.T, -self.turn.T @ self.shift

    def standing(self, mesh: Mesh) -> Mesh:
        return mesh.moved(self.turn, self.shift)

    def lying_back(self, mesh: Mesh) -> Mesh:
        """A standing mesh in the part's own frame."""
        return Mesh(self.in_part(mesh.vertices), mesh.faces)
