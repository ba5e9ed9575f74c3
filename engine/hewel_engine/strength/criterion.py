"""How near the layers are to parting, for any build direction, from one set of stresses.

With σ_n = b·S·b, τ_n = |S·b − σ_n·b| for build direction b and stress S, the interlayer index is
I = √((⟨σ_n⟩/Z_t)² + (τ_n/Z_s)²), ⟨σ⟩ = max(σ, 0). Inside the layer: the greatest principal stress of the layer plane
against X_t and the least against X_c, the push across the layers against Z_c, and von Mises' stress against X_t where
the greatest principal stress in size pulls, X_c where it pushes. Where it is known how the lines of a layer lie, the
pull normal to them is held against X_a, and what crosswise lines hold takes the place of X_t (see ``lines``).
A reserve is 1 over the greatest index.
Stresses MPa, written [xx, yy, zz, xy, yz, zx].
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.bricks import PAIRS
from hewel_engine.strength.lines import FILLED, LINED, OUTLINE, SKIN, Lie

MODES = ("interlayer_tension", "interlayer_shear", "interlayer_mixed", "in_layer", "compression")
ALONE = 0.8
"""Share of the squared index above which tension or shear is named alone."""
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

    @property
    def x_crossed(self) -> float:
        """Of lines that lie crosswise: half of them hold X_t, half X_a (rule of mixtures), never more than X_t."""
        return min(self.x_t, (self.x_t + self.x_a) / 2)

    def times(self, all_of_it: float, across: float = 1.0, along: float = 1.0) -> "Strengths":
        """Every strength times ``all_of_it``; the tension and shear across the layers times ``across`` as well, all
        others times ``along``.
        """
        k, s = all_of_it, all_of_it * along
        return Strengths(
            s * self.x_t, s * self.x_c, k * across * self.z_t, s * self.z_c, k * across * self.z_s, s * self.x_a
        )


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
    """Of stresses (k, 6) on layers normal to ``up`` (3,)."""
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


def indices(stress: Array, up: Array, strength: Strengths, lie: Lie | None = None) -> Indices:
    """Of stresses (k, 6) for one build direction; with how lines ``lie`` there, they are told apart."""
    acting, s = on_layers(stress, up), strength
    along = s.x_t if lie is None else np.where(lie.crossed(up), s.x_crossed, s.x_t)
    in_layer = np.maximum(np.maximum(acting.greatest, 0) / along, yielding(stress, s))
    if lie is not None:
        in_layer = np.maximum(in_layer, lie.across(stress, up) / s.x_a)
    return Indices(
        np.maximum(acting.across, 0) / s.z_t,
        acting.between / s.z_s,
        in_layer,
        np.maximum(np.maximum(-acting.least, 0) / s.x_c, np.maximum(-acting.across, 0) / s.z_c),
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
def _lined_worst(s, n, acting, bound, ups, lined):
    """Greatest pull normal to the perimeters for every direction, and its point: stresses ``s`` (6, k), normals ``n``
    (3, k) and what acts on their faces ``acting`` (4, k), S·n and n·S·n, by falling ``bound`` MPa.
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
            beside = acting[0, p] * x + acting[1, p] * y + acting[2, p] * z
            pull = (acting[3, p] - np.float32(2) * c * beside + c * c * across) / slope
            if pull > best:
                best, at = pull, p
        worst[d], where[d] = best, at
    return worst, where


@njit(cache=True, nogil=True, fastmath=True)
def _skins_worst(s, n, bound, ups, level):
    """Greatest pull inside the layers for every direction, and its point, where the face lies level: stresses ``s``
    (6, k) and normals ``n`` (3, k) by falling ``bound`` MPa.
    """
    worst, where = np.zeros(len(ups), np.float32), np.zeros(len(ups), np.int64)
    half_ = np.float32(0.5)
    for d in range(len(ups)):
        x, y, z = ups[d, 0], ups[d, 1], ups[d, 2]
        best, at = np.float32(0), 0
        for p in range(s.shape[1]):
            if bound[p] <= best:
                break
            c = n[0, p] * x + n[1, p] * y + n[2, p] * z
            if c * c <= level:
                continue
            a, b, e, ab, bc, ca = s[0, p], s[1, p], s[2, p], s[3, p], s[4, p], s[5, p]
            tx, ty, tz = a * x + ab * y + ca * z, ab * x + b * y + bc * z, ca * x + bc * y + e * z
            half = (a + b + e - tx * x - ty * y - tz * z) * half_
            minor = (
                x * x * (b * e - bc * bc) + y * y * (a * e - ca * ca) + z * z * (a * b - ab * ab)
                + np.float32(2) * (x * y * (ca * bc - ab * e) + y * z * (ab * ca - bc * a) + z * x * (ab * bc - ca * b))
            )  # fmt: skip
            pull = half + np.sqrt(max(half * half - minor, np.float32(0)))
            if pull > best:
                best, at = pull, p
        worst[d], where[d] = best, at
    return worst, where


@dataclass(frozen=True, eq=False)
class Worst:
    """Over all points, for every direction (d,): the greatest ``index`` of any kind, and the point ``delaminating``
    where the layers are nearest to parting. ``rows``: every point that is the worst of some kind in some direction.
    """

    index: Array
    delaminating: np.ndarray
    rows: np.ndarray


def worst_by_direction(stress: Array, ups: Array, strength: Strengths, lie: Lie | None = None) -> Worst:
    """Of stresses (k, 6) for directions ``ups`` (d, 3); with how lines ``lie`` there, they are told apart.

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
    squared, at_layers = _interlayer_worst(sorted_, limit, half, kind(pull), kind(shear))
    s, every = strength, np.arange(len(stress))
    inside, within = _inside_layers(stress, p, every, half, s.x_t, s.x_c, s.z_c)
    yields = yielding(stress, s, p)
    worst = np.maximum(np.maximum(np.sqrt(squared), inside), float(yields.max()))
    rows = [order[at_layers], within, [int(np.argmax(yields))]]
    if lie is not None and np.isfinite(s.x_a):
        pulled = p[:, 2] > 0
        filled, skin, beside = (np.flatnonzero((lie.kinds == kind) & pulled) for kind in (FILLED, SKIN, OUTLINE))
        for found, at in (
            _inside_layers(stress, p, filled, half, s.x_crossed, np.inf, np.inf),
            _on_skins(stress, lie.normals, p, skin, half, s.x_crossed),
            _across_lines(stress, lie.normals, p, beside, half, s.x_a),
        ):
            worst = np.maximum(worst, found)
            rows.append(at)
    return Worst(worst[back].astype(float), order[at_layers][back], np.unique(np.concatenate(rows)))


def _falling(on: np.ndarray, bound: Array) -> tuple[np.ndarray, np.ndarray]:
    """Places ``on`` and their ``bound``, by falling bound and a hair more than it."""
    order = np.argsort(-bound[on], kind="stable")
    return on[order], (bound[on][order] * (1 + 1e-5)).astype(np.float32)


def _inside_layers(stress, p, on, half, x_t: float, x_c: float, z_c: float) -> tuple[Array, np.ndarray]:
    """Greatest share (d,) of the strengths inside the layers at the places ``on``, and its place."""
    if not len(on):
        return np.zeros(len(half)), on
    on, bound = _falling(on, np.maximum(p[:, 2] / x_t, -p[:, 0] / min(x_c, z_c)))
    kind = np.float32
    found, at = _inside_worst(_columns(stress[on]), bound, half, kind(1 / x_t), kind(1 / x_c), kind(1 / z_c))
    return found.astype(float), on[at]


def _on_skins(stress, normals, p, on, half, x_crossed: float) -> tuple[Array, np.ndarray]:
    """Greatest share (d,) of ``x_crossed`` pulled inside the layers where the faces ``on`` lie level."""
    if not len(on):
        return np.zeros(len(half)), on
    on, bound = _falling(on, p[:, 2])
    pulls, at = _skins_worst(_columns(stress[on]), _columns(normals[on]), bound, half, np.float32(1 - LINED**2))
    return pulls / x_crossed, on[at]


def _across_lines(stress, normals, p, on, half, x_a: float) -> tuple[Array, np.ndarray]:
    """Greatest share (d,) of ``x_a`` pulled normal to the perimeters beside the faces ``on``."""
    if not len(on):
        return np.zeros(len(half)), on
    on, bound = _falling(on, p[:, 2])
    s, n = stress[on], normals[on]
    traction = np.einsum("kab,kb->ka", tensors(s), n)
    acting = np.column_stack([traction, (traction * n).sum(axis=1)])
    pulls, at = _lined_worst(_columns(s), _columns(n), _columns(acting), bound, half, np.float32(LINED**2))
    return pulls / x_a, on[at]


def _columns(rows: Array) -> Array:
    return np.ascontiguousarray(rows.T, np.float32)


def _half_sphere(ups: Array) -> tuple[np.ndarray, np.ndarray]:
    """The directions of which no two are opposite, float32, and for every one of ``ups`` its place among them."""
    turned = ups * np.where(_leading(ups) < 0, -1.0, 1.0)[:, None]
    _, first, back = np.unique(np.round(turned, 9) + 0.0, axis=0, return_index=True, return_inverse=True)
    return np.ascontiguousarray(turned[first], np.float32), back.ravel()


def _leading(ups: Array) -> Array:
    """The first component that is not zero."""
    r = np.round(ups, 9)
    return np.where(r[:, 2] != 0, r[:, 2], np.where(r[:, 1] != 0, r[:, 1], r[:, 0]))
