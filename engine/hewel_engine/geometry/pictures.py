"""A picture of a standing part without a screen: flat warm paper, ink where surfaces meet, a thin line for its layers.

Seen along parallel rays. Lengths mm; pictures are (height, width, 4) uint8, nothing where there is no part.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh

YAW, PITCH = -0.62, 0.42
"""Radians: where the eye stands, round the part and above the level; where the page's turntable begins, too."""
FINER = 2
"""Each pixel is the mean of so many by so many."""
MARGIN = 0.06
"""Share of the picture that stays free on every side."""
CREASE = np.cos(np.radians(28))
"""Neighbouring spots whose normals turn by more have ink between them."""
LINE_PX = 5.0
"""Pixels between the lines for layers, at least: each stands for as many layers as that takes."""
SAME = 1e-6
"""mm: a face that lies as high as a line does is on one side of it."""
PAPER = np.array([232, 222, 190], float)
INK = np.array([34, 38, 31], float)
LIGHT = np.array([-0.35, 0.55, 0.76])
"""Towards the light: right, up, towards the eye."""
SHADE = 0.42
"""How much darker a surface is that the light only grazes."""
RULED, INKED = 0.13, 0.9
"""How much of the ink a layer's line and an edge take."""


@dataclass(frozen=True)
class Eye:
    """``axes`` (3, 3): right, up and towards the eye, in the standing part's frame."""

    axes: Array

    @classmethod
    def at(cls, yaw: float = YAW, pitch: float = PITCH) -> "Eye":
        to = np.array([np.sin(yaw) * np.cos(pitch), -np.cos(yaw) * np.cos(pitch), np.sin(pitch)])
        right = np.array([np.cos(yaw), np.sin(yaw), 0.0])
        return cls(np.array([right, np.cross(to, right), to]))


def picture(mesh: Mesh, up: Array, pitch: float, width: int, height: int, eye: Eye | None = None) -> np.ndarray:
    """(height, width, 4) uint8 of the part standing with ``up`` (3,) vertical, its layers ``pitch`` mm high."""
    axes = (eye or Eye.at()).axes
    standing = mesh.vertices @ upright(up).T
    seen = standing @ axes.T
    used = seen[mesh.used]
    low, high = used.min(axis=0), used.max(axis=0)
    wide, tall = width * FINER, height * FINER
    room = (1 - 2 * MARGIN) * np.array([wide, tall])
    scale = float((room / np.maximum(high - low, 1e-9)[:2]).min())
    middle = (low + high) / 2
    at = np.empty_like(seen)
    at[:, 0] = wide / 2 + (seen[:, 0] - middle[0]) * scale
    at[:, 1] = tall / 2 - (seen[:, 1] - middle[1]) * scale
    at[:, 2] = seen[:, 2] * scale
    depth, facet = _rays(at, mesh.faces, wide, tall)
    there = facet >= 0
    normals = (mesh.normals @ upright(up).T @ axes.T)[facet]
    normals[normals[..., 2] < 0] *= -1  # an open surface is seen from behind, too
    lit = np.clip(normals @ (LIGHT / np.linalg.norm(LIGHT)), 0, 1)
    tone = 1 - SHADE * (1 - lit)
    ink = np.where(_edges(depth, normals, there), INKED, 0.0)
    lines = pitch * max(1.0, np.ceil(LINE_PX * FINER / max(pitch * scale, 1e-9)))
    y, x = np.mgrid[:tall, :wide] + 0.5
    spots = np.dstack([middle[0] + (x - wide / 2) / scale, middle[1] - (y - tall / 2) / scale, depth / scale])
    heights = np.where(there[..., None], spots, 0.0) @ axes[:, 2] - standing[mesh.used, 2].min()
    rows = np.floor((heights + SAME) / lines)
    ink = np.maximum(ink, np.where(_changes(rows, there), RULED, 0.0))
    colour = PAPER * tone[..., None] * (1 - ink[..., None]) + INK * ink[..., None]
    return _smaller(np.dstack([colour, 255.0 * there]), width, height)


@njit(cache=True, nogil=True)
def _rays(at, faces, wide, tall):
    """The depth and the facet that every pixel sees first: ``at`` (n, 3) px, the greater depth the nearer."""
    depth, facet = np.full((tall, wide), -np.inf), np.full((tall, wide), -1, np.int32)
    for f in range(len(faces)):
        a, b, c = at[faces[f, 0]], at[faces[f, 1]], at[faces[f, 2]]
        double = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if abs(double) < 1e-12:
            continue
        x0, x1 = max(int(min(a[0], b[0], c[0])), 0), min(int(max(a[0], b[0], c[0])) + 1, wide - 1)
        y0, y1 = max(int(min(a[1], b[1], c[1])), 0), min(int(max(a[1], b[1], c[1])) + 1, tall - 1)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x + 0.5, y + 0.5
                u = ((b[0] - px) * (c[1] - py) - (b[1] - py) * (c[0] - px)) / double
                v = ((c[0] - px) * (a[1] - py) - (c[1] - py) * (a[0] - px)) / double
                w = 1 - u - v
                if u < 0 or v < 0 or w < 0:
                    continue
                z = u * a[2] + v * b[2] + w * c[2]
                if z > depth[y, x]:
                    depth[y, x], facet[y, x] = z, f
    return depth, facet


def _edges(depth: Array, normals: Array, there: np.ndarray) -> np.ndarray:
    """(tall, wide) bool: spots beside which the surface turns, steps back, or ends."""
    out = np.zeros(there.shape, bool)
    for axis in (0, 1):
        a, b = [slice(None)] * 2, [slice(None)] * 2
        a[axis], b[axis] = slice(None, -1), slice(1, None)
        one, other = tuple(a), tuple(b)
        both = there[one] & there[other]
        turns = (normals[one] * normals[other]).sum(axis=-1) < CREASE
        # A plane seen at a slant steps back too: by as much as its slope says.
        slope = np.hypot(normals[one][..., 0], normals[one][..., 1]) / np.maximum(normals[one][..., 2], 0.05)
        with np.errstate(invalid="ignore"):
            steps = np.abs(depth[one] - depth[other]) > 3.0 + 2.0 * slope
        edge = (both & (turns | steps)) | (there[one] != there[other])
        out[one] |= edge & there[one]
        out[other] |= edge & there[other] & ~there[one]
    return out


def _changes(rows: Array, there: np.ndarray) -> np.ndarray:
    """(tall, wide) bool: spots below which another row begins on the same surface."""
    out = np.zeros(there.shape, bool)
    out[:-1] = (rows[:-1] != rows[1:]) & there[:-1] & there[1:]
    return out


def _smaller(fine: Array, width: int, height: int) -> np.ndarray:
    """The mean of every FINER × FINER, colours counted only where there is a part."""
    blocks = fine.reshape(height, FINER, width, FINER, 4)
    alpha = blocks[..., 3:]
    total = alpha.sum(axis=(1, 3))
    colour = (blocks[..., :3] * alpha).sum(axis=(1, 3)) / np.maximum(total, 1e-9)
    return np.round(np.dstack([colour, total / FINER**2])).astype(np.uint8)
