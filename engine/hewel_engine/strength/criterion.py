"""How near the layers are to parting, for any build direction, from one set of stresses.

With σ_n = b·S·b, τ_n = |S·b − σ_n·b| for build direction b and stress S, the interlayer index is
I = √((⟨σ_n⟩/Z_t)² + (τ_n/Z_s)²), ⟨σ⟩ = max(σ, 0). Inside the layer: the greatest principal stress of the layer plane
against X_t and the least against X_c, the push across the layers against Z_c, and von Mises' stress against X_t where
the greatest principal stress in size pulls, X_c where it pushes. On the surface the perimeters run along the outline;
the pull square to it, m·S·m with m the normal laid into the layer, is held against X_a of neighbouring lines as well.
A reserve is 1 over the greatest index.
Stresses MPa, written [xx, yy, zz, xy, yz, zx].
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.bricks import PAIRS

MODES = ("interlayer_tension", "interlayer_shear", "interlayer_mixed", "in_layer", "compression")
ALONE = 0.8
"""Share of the squared index above which tension or shear is named alone."""
LINED = 0.2
"""Sine of the slope (about 12°) from which the perimeters of each layer show; on flatter faces skins lie crosswise."""
LANES, BLOCK = 64, 1024
"""Points handled side by side, and points between two looks at the bound."""


@dataclass(frozen=True)
class Strengths:
    """MPa: along (x) and across (z) the layers, in tension (t), compression (c) and shear (s); ``x_a`` in tension
    between neighbouring lines of a layer, infinite where lines are not told apart.
    """

    x_t: float
    x_c: float
    z_t: float
    z_c: float
    z_s: float
    x_a: float = np.inf

    def times(self, all_of_it: float, across: float = 1.0) -> "Strengths":
        """Every strength times ``all_of_it``; the tension and shear across the layers times ``across`` as well."""
        k = all_of_it
        x_t, x_c, x_a = k * self.x_t, k * self.x_c, k * self.x_a
        return Strengths(x_t, x_c, k * across * self.z_t, k * self.z_c, k * across * self.z_s, x_a)


def tensors(stress: Array) -> Array:
    """(k, 3, 3) from (k, 6)."""
    out = np.empty((len(stress), 3, 3))
    for i, (a, b) in enumerate(PAIRS):
        out[:, a, b] = out[:, b, a] = stress[:, i]
    return out


@njit(cache=True, nogil=True)
def _von_mises(s):
    out = np.empty(len(s))
    for p in range(len(s)):
        x, y, z, xy, yz, zx = s[p, 0], s[p, 1], s[p, 2], s[p, 3], s[p, 4], s[p, 5]
        square = ((x - y) ** 2 + (y - z) ** 2 + (z - x) ** 2) / 2 + 3 * (xy * xy + yz * yz + zx * zx)
        out[p] = np.sqrt(square)
    return out


def von_mises(stress: Array) -> Array:
    """(k,) MPa."""
    return _von_mises(np.asarray(stress, float))


@njit(cache=True, nogil=True)
def _principal(s):
    """By the cosine formula (Smith 1961): exact to rounding of the greatest one."""
    out = np.empty((len(s), 3))
    for p in range(len(s)):
        x, y, z, xy, yz, zx = s[p, 0], s[p, 1], s[p, 2], s[p, 3], s[p, 4], s[p, 5]
        mean = (x + y + z) / 3
        a, b, c = x - mean, y - mean, z - mean
        off = xy * xy + yz * yz + zx * zx
        size = np.sqrt((a * a + b * b + c * c + 2 * off) / 6)
        if size < 1e-30:
            out[p] = mean
            continue
        det = a * (b * c - yz * yz) - xy * (xy * c - yz * zx) + zx * (xy * yz - b * zx)
        angle = np.arccos(min(max(det / (2 * size**3), -1.0), 1.0)) / 3
        out[p, 2] = mean + 2 * size * np.cos(angle)
        out[p, 0] = mean + 2 * size * np.cos(angle + 2 * np.pi / 3)
        out[p, 1] = 3 * mean - out[p, 0] - out[p, 2]
    return out


def principal(stress: Array) -> Array:
    """(k, 3) MPa, least first."""
    return _principal(np.asarray(stress, float))


@dataclass(frozen=True, eq=False)
class OnLayers:
    """What a direction's layers feel at every point, (k,) MPa each: pull across (negative: push), shear between,
    greatest and least stress inside the layer.
    """

    across: Array
    between: Array
    greatest: Array
    least: Array


@njit(cache=True, nogil=True)
def _on_layers(s, up):
    """The plane's two principal stresses come from its trace and its determinant; the latter is b·cof(S)·b."""
    out = np.empty((4, len(s)))
    bx, by, bz = up[0], up[1], up[2]
    for p in range(len(s)):
        x, y, z, xy, yz, zx = s[p, 0], s[p, 1], s[p, 2], s[p, 3], s[p, 4], s[p, 5]
        tx, ty, tz = x * bx + xy * by + zx * bz, xy * bx + y * by + yz * bz, zx * bx + yz * by + z * bz
        across = tx * bx + ty * by + tz * bz
        ax, ay, az = tx - across * bx, ty - across * by, tz - across * bz
        half = (x + y + z - across) / 2
        minor = (
            bx * bx * (y * z - yz * yz) + by * by * (x * z - zx * zx) + bz * bz * (x * y - xy * xy)
            + 2 * (bx * by * (zx * yz - xy * z) + by * bz * (xy * zx - yz * x) + bz * bx * (xy * yz - zx * y))
        )  # fmt: skip
        apart = np.sqrt(max(half * half - minor, 0.0))
        out[0, p], out[1, p] = across, np.sqrt(ax * ax + ay * ay + az * az)
        out[2, p], out[3, p] = half + apart, half - apart
    return out


def on_layers(stress: Array, up: Array) -> OnLayers:
    """Of stresses (k, 6) on layers square to ``up`` (3,)."""
    return OnLayers(*_on_layers(np.asarray(stress, float), np.asarray(up, float)))


@dataclass(frozen=True, eq=False)
class Indices:
    """(k,) each: shares of the strength used, by what would fail."""

    tension: Array
    shear: Array
    in_layer: Array
    compression: Array

    @property
    def interlayer(self) -> Array:
        return np.hypot(self.tension, self.shear)

    @property
    def worst(self) -> Array:
        return np.maximum(np.maximum(self.interlayer, self.in_layer), self.compression)

    def mode(self, k: int) -> str:
        """What fails at point ``k``."""
        inter = self.interlayer[k]
        if inter >= max(self.in_layer[k], self.compression[k]):
            pull = (self.tension[k] / max(inter, 1e-300)) ** 2
            return MODES[0] if pull >= ALONE else MODES[1] if pull <= 1 - ALONE else MODES[2]
        return MODES[4] if self.compression[k] >= (1 - 1e-9) * self.in_layer[k] else MODES[3]


@njit(cache=True, nogil=True)
def _across_lines(s, up, normals, lined):
    out = np.zeros(len(s))
    for p in range(len(s)):
        c = normals[p, 0] * up[0] + normals[p, 1] * up[1] + normals[p, 2] * up[2]
        mx, my, mz = normals[p, 0] - c * up[0], normals[p, 1] - c * up[1], normals[p, 2] - c * up[2]
        slope = mx * mx + my * my + mz * mz
        if slope < lined:
            continue
        pull = (
            s[p, 0] * mx * mx + s[p, 1] * my * my + s[p, 2] * mz * mz
            + 2 * (s[p, 3] * mx * my + s[p, 4] * my * mz + s[p, 5] * mz * mx)
        )  # fmt: skip
        out[p] = max(pull / slope, 0.0)
    return out


def across_lines(stress: Array, up: Array, normals: Array) -> Array:
    """(k,) MPa of pull square to the perimeters at surface points with outward ``normals`` (k, 3); 0 inside (where the
    normal is 0) and on faces so level that no perimeter shows.
    """
    return _across_lines(np.asarray(stress, float), np.asarray(up, float), np.asarray(normals, float), LINED**2)


def indices(stress: Array, up: Array, strength: Strengths, normals: Array | None = None) -> Indices:
    """Of stresses (k, 6) for one build direction; with ``normals`` (k, 3) of the surface, lines are told apart."""
    felt, s = on_layers(stress, up), strength
    in_layer = np.maximum(np.maximum(felt.greatest, 0) / s.x_t, yielding(stress, s))
    if normals is not None:
        in_layer = np.maximum(in_layer, across_lines(stress, up, normals) / s.x_a)
    return Indices(
        np.maximum(felt.across, 0) / s.z_t,
        felt.between / s.z_s,
        in_layer,
        np.maximum(np.maximum(-felt.least, 0) / s.x_c, np.maximum(-felt.across, 0) / s.z_c),
    )


def yielding(stress: Array, strength: Strengths, p: Array | None = None) -> Array:
    """(k,) von Mises' stress over the strength of the kind, pull or push, that its greatest principal stress is."""
    p = principal(stress) if p is None else p
    return von_mises(stress) / np.where(p[:, 2] + p[:, 0] >= -1e-9 * np.abs(p[:, 0]), strength.x_t, strength.x_c)


@njit(cache=True, nogil=True, fastmath=True)
def _interlayer(s, up, pull, shear, first, last, lanes):
    """Raises ``lanes`` to the greatest I² of the points first to last, each lane for the points LANES apart."""
    x, y, z = up[0], up[1], up[2]
    for start in range(first, last, LANES):
        # Slices of rows: the compiler then sees indices from zero and steps of one, and takes many points at once.
        end = min(start + LANES, last)
        sxx, syy, szz = s[0][start:end], s[1][start:end], s[2][start:end]
        sxy, syz, szx = s[3][start:end], s[4][start:end], s[5][start:end]
        for p in range(len(sxx)):
            tx = sxx[p] * x + sxy[p] * y + szx[p] * z
            ty = sxy[p] * x + syy[p] * y + syz[p] * z
            tz = szx[p] * x + syz[p] * y + szz[p] * z
            across = tx * x + ty * y + tz * z
            between = tx * tx + ty * ty + tz * tz - across * across
            opening = (across + abs(across)) * np.float32(0.5)
            index = opening * opening * pull + between * shear
            lanes[p] = index if index > lanes[p] else lanes[p]


@njit(cache=True, nogil=True, fastmath=True)
def _inside(s, up, x_t, x_c, z_c, first, last, lanes):
    """The same for the share of X_t, X_c or Z_c used inside the layers; the strengths as 1/MPa."""
    x, y, z = up[0], up[1], up[2]
    half_, two = np.float32(0.5), np.float32(2)
    for start in range(first, last, LANES):
        end = min(start + LANES, last)
        sxx, syy, szz = s[0][start:end], s[1][start:end], s[2][start:end]
        sxy, syz, szx = s[3][start:end], s[4][start:end], s[5][start:end]
        for p in range(len(sxx)):
            a, b, c, ab, bc, ca = sxx[p], syy[p], szz[p], sxy[p], syz[p], szx[p]
            tx, ty, tz = a * x + ab * y + ca * z, ab * x + b * y + bc * z, ca * x + bc * y + c * z
            across = tx * x + ty * y + tz * z
            half = (a + b + c - across) * half_
            minor = (
                x * x * (b * c - bc * bc) + y * y * (a * c - ca * ca) + z * z * (a * b - ab * ab)
                + two * (x * y * (ca * bc - ab * c) + y * z * (ab * ca - bc * a) + z * x * (ab * bc - ca * b))
            )  # fmt: skip
            square = half * half - minor
            apart = np.sqrt((square + abs(square)) * half_)
            pulled, pushed, squashed = (half + apart) * x_t, (apart - half) * x_c, -across * z_c
            pushed = pushed if pushed > squashed else squashed
            index = pulled if pulled > pushed else pushed
            lanes[p] = index if index > lanes[p] else lanes[p]


@njit(cache=True, nogil=True)
def _interlayer_worst(s, bound, ups, pull, shear):
    """Greatest I² of the points ``s`` (6, k), sorted by falling ``bound``, for every direction, and its point."""
    n = s.shape[1]
    worst, where = np.zeros(len(ups), np.float32), np.zeros(len(ups), np.int64)
    lanes, one = np.zeros(LANES, np.float32), np.zeros(LANES, np.float32)
    for d in range(len(ups)):
        best, at = np.float32(0), 0
        for first in range(0, n, BLOCK):
            if bound[first] <= best:
                break
            lanes[:] = 0
            _interlayer(s, ups[d], pull, shear, first, min(first + BLOCK, n), lanes)
            if lanes.max() > best:
                best, at = lanes.max(), first
        worst[d] = best
        for p in range(at, min(at + BLOCK, n)):
            one[0] = 0
            _interlayer(s, ups[d], pull, shear, p, p + 1, one)
            if one[0] >= best * np.float32(1 - 1e-6):
                where[d] = p
                break
    return worst, where


@njit(cache=True, nogil=True)
def _inside_worst(s, bound, ups, x_t, x_c, z_c):
    """Greatest share of X_t, X_c or Z_c for every direction, and its point."""
    n = s.shape[1]
    worst, where = np.zeros(len(ups), np.float32), np.zeros(len(ups), np.int64)
    lanes, one = np.zeros(LANES, np.float32), np.zeros(LANES, np.float32)
    for d in range(len(ups)):
        best, at = np.float32(0), 0
        for first in range(0, n, BLOCK):
            if bound[first] <= best:
                break
            lanes[:] = 0
            _inside(s, ups[d], x_t, x_c, z_c, first, min(first + BLOCK, n), lanes)
            if lanes.max() > best:
                best, at = lanes.max(), first
        worst[d] = best
        for p in range(at, min(at + BLOCK, n)):
            one[0] = 0
            _inside(s, ups[d], x_t, x_c, z_c, p, p + 1, one)
            if one[0] >= best * np.float32(1 - 1e-6):
                where[d] = p
                break
    return worst, where


@njit(cache=True, nogil=True, fastmath=True)
def _lined_worst(s, n, felt, bound, ups, lined):
    """Greatest pull square to the perimeters for every direction, and its point: stresses ``s`` (6, k), normals ``n``
    (3, k) and what acts on their faces ``felt`` (4, k), S·n and n·S·n, by falling ``bound`` MPa.
    """
    worst, where = np.zeros(len(ups), np.float32), np.zeros(len(ups), np.int64)
    for d in range(len(ups)):
        x, y, z = ups[d, 0], ups[d, 1], ups[d, 2]
        best, at = np.float32(0), 0
        for p in range(s.shape[1]):
            if bound[p] <= best:
                break
            c = n[0, p] * x + n[1, p] * y + n[2, p] * z
            slope = np.float32(1) - c * c
            if slope < lined:
                continue
            across = (
                s[0, p] * x * x + s[1, p] * y * y + s[2, p] * z * z
                + np.float32(2) * (s[3, p] * x * y + s[4, p] * y * z + s[5, p] * z * x)
            )  # fmt: skip
            beside = felt[0, p] * x + felt[1, p] * y + felt[2, p] * z
            pull = (felt[3, p] - np.float32(2) * c * beside + c * c * across) / slope
            if pull > best:
                best, at = pull, p
        worst[d], where[d] = best, at
    return worst, where


@dataclass(frozen=True, eq=False)
class Worst:
    """Over all points, for every direction (d,): the greatest ``index`` of any kind, and the point ``parting`` where
    the layers are nearest to parting. ``rows``: every point that is the worst of some kind in some direction.
    """

    index: Array
    parting: np.ndarray
    rows: np.ndarray


def worst_by_direction(stress: Array, ups: Array, strength: Strengths, normals: Array | None = None) -> Worst:
    """Of stresses (k, 6) for directions ``ups`` (d, 3); with ``normals`` (k, 3) of the surface, lines are told apart.

    Points are looked at by falling bound ⟨σ₁⟩²/Z_t² + ((σ₁ − σ₃)/2)²/Z_s², which no direction can pass: the rest is
    left out as soon as the bound is below what was found. An index is the same for b and −b.
    """
    if not len(stress):
        return Worst(np.zeros(len(ups)), np.zeros(len(ups), np.int64), np.zeros(0, np.int64))
    p = principal(stress)
    pull, shear = 1 / strength.z_t**2, 1 / strength.z_s**2
    bound = np.maximum(p[:, 2], 0) ** 2 * pull + ((p[:, 2] - p[:, 0]) / 2) ** 2 * shear
    half, back = _half_sphere(ups)
    kind = np.float32
    order = np.argsort(-bound, kind="stable")
    sorted_ = np.ascontiguousarray(stress[order].T, kind)
    limit = (bound[order] * (1 + 1e-5)).astype(kind)
    squared, at = _interlayer_worst(sorted_, limit, half, kind(pull), kind(shear))
    s = strength
    bound = np.maximum(p[:, 2] / s.x_t, -p[:, 0] / min(s.x_c, s.z_c))
    falling = np.argsort(-bound, kind="stable")
    inside, within = _inside_worst(
        np.ascontiguousarray(stress[falling].T, kind), (bound[falling] * (1 + 1e-5)).astype(kind), half,
        kind(1 / s.x_t), kind(1 / s.x_c), kind(1 / s.z_c),
    )  # fmt: skip
    yields = yielding(stress, s, p)
    worst = np.maximum(np.maximum(np.sqrt(squared), inside), float(yields.max()))
    rows = [order[at], falling[within], [int(np.argmax(yields))]]
    if normals is not None and np.isfinite(s.x_a):
        pulls, lined = _across_lines_worst(stress, normals, p, half)
        worst = np.maximum(worst, pulls / s.x_a)
        rows.append(lined)
    return Worst(worst[back].astype(float), order[at][back], np.unique(np.concatenate(rows)))


def _across_lines_worst(stress: Array, normals: Array, p: Array, half: np.ndarray) -> tuple[Array, np.ndarray]:
    """Greatest pull square to the perimeters (d,) MPa for every direction, and its point."""
    on = np.flatnonzero((np.abs(normals).sum(axis=1) > 0) & (p[:, 2] > 0))
    on = on[np.argsort(-p[on, 2], kind="stable")]
    if not len(on):
        return np.zeros(len(half)), on
    s, n = stress[on], normals[on]
    traction = np.einsum("kab,kb->ka", tensors(s), n)
    felt = np.column_stack([traction, (traction * n).sum(axis=1)])
    rows = lambda a: np.ascontiguousarray(a.T, np.float32)
    bound = (p[on, 2] * (1 + 1e-5)).astype(np.float32)
    pulls, at = _lined_worst(rows(s), rows(n), rows(felt), bound, half, np.float32(LINED**2))
    return pulls.astype(float), on[at]


def _half_sphere(ups: Array) -> tuple[np.ndarray, np.ndarray]:
    """The directions of which no two are opposite, float32, and for every one of ``ups`` its place among them."""
    turned = ups * np.where(_leading(ups) < 0, -1.0, 1.0)[:, None]
    _, first, back = np.unique(np.round(turned, 9) + 0.0, axis=0, return_index=True, return_inverse=True)
    return np.ascontiguousarray(turned[first], np.float32), back.ravel()


def _leading(ups: Array) -> Array:
    """The first component that is not zero."""
    r = np.round(ups, 9)
    return np.where(r[:, 2] != 0, r[:, 2], np.where(r[:, 1] != 0, r[:, 1], r[:, 0]))
