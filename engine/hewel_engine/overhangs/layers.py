"""What hangs, layer by layer: U_k = L_k − grow(L_{k−1}, h·tan α), linked over layers into regions.

A region is an *island* when a component of its layer touches nothing below, a *bridge* when every line across it
in some direction ends on material at both ends (its span is the longest such line), else a *ledge* (its reach is
the greatest distance to the material that holds it). Span and reach are plan extents over the linked layers.
"""

from dataclasses import dataclass

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process
from hewel_engine.tolerances import CONTACT_BAND, SLIVER, overhang_threshold

HELD = 2e-3  # mm: how near a boundary must be to the layer below to count as held by it


@dataclass
class Region:
    kind: str
    plan: shapely.Geometry
    low_mm: float
    high_mm: float
    span_mm: float | None = None
    reach_mm: float | None = None

    def needs_support(self, process: Process) -> bool:
        """Islands always; bridges past what is commonly printed; ledges past two lines."""
        if self.kind == "island":
            return True
        if self.kind == "bridge":
            return self.span_mm > process.rough_bridge
        return self.reach_mm > 2 * process.width


def island_starts(mesh: Mesh, heights: Array) -> Array:
    """Heights (k,) at which material begins: plateaus of vertices with no lower neighbour and facets facing down.

    ``heights`` (n,) mm above the plate. Exact for any closed mesh; what begins on the plate is among them.
    """
    f = mesh.faces
    i, j = f.reshape(-1), f[:, [1, 2, 0]].reshape(-1)
    level = np.abs(heights[i] - heights[j]) <= 1e-7
    _, label = components(len(heights), np.c_[i[level], j[level]])
    lower = np.zeros(label.max() + 1, bool)
    drop = heights[i] - heights[j] > 1e-7
    climb = heights[j] - heights[i] > 1e-7
    lower[label[i[drop]]] = True
    lower[label[j[climb]]] = True
    used = np.zeros_like(lower)
    used[label[i]] = True
    plateau = np.flatnonzero(used & ~lower)
    # Material begins where the solid lies above the plateau: there the facets round it turn their backs down.
    # At the bottom of a hollow the same plateau has facets that look up.
    facing = np.zeros(len(lower))
    weight = (mesh.areas * mesh.normals[:, 2])[:, None].repeat(3, axis=1).ravel()
    np.add.at(facing, label[i], weight)
    height = np.zeros(len(lower))
    height[label[i]] = heights[i]
    return np.sort(height[plateau[facing[plateau] < 0]])


def parts_of(shape: shapely.Geometry) -> list[shapely.Polygon]:
    return [p for p in shapely.get_parts(shape) if p.geom_type == "Polygon" and p.area > 0]


def hanging_regions(stack: LayerStack, process: Process) -> list[Region]:
    """Islands, bridges and ledges of a part standing as ``stack`` says. Needs a closed mesh."""
    h, turned = stack.pitch, stack.mesh.moved(stack.turn)
    step = h * np.tan(np.radians(process.limit))
    z = stack.points[:, 2]
    threshold = overhang_threshold(process.limit)
    tops = z[turned.faces].max(axis=1)
    hang = (turned.normals[:, 2] < threshold) & (tops > CONTACT_BAND)
    wanted = np.zeros(stack.count + 1, int)
    low = np.clip(np.floor(z[turned.faces[hang]].min(axis=1) / h - 0.5), 0, stack.count).astype(int)
    high = np.clip(np.ceil(tops[hang] / h - 0.5) + 1, 0, stack.count).astype(int)
    np.add.at(wanted, low, 1)
    np.add.at(wanted, high, -1)
    wanted = np.cumsum(wanted)[: stack.count] > 0
    starts = np.clip(np.ceil(island_starts(turned, z) / h - 0.5).astype(int), 0, stack.count - 1)
    wanted[starts] = True
    wanted[0] = False
    layers = stack.outlines(wanted | np.r_[wanted[1:], False])
    regions: list[Region] = []
    open_regions: list[dict] = []
    for k in np.flatnonzero(wanted):
        here, below = layers[int(k)], layers[int(k) - 1]
        if here.is_empty:
            continue
        bodies = parts_of(here)
        floating = [p for p in bodies if not p.intersects(below) and not p.buffer(-SLIVER / 2).is_empty]
        regions += [Region("island", p, (k + 0.5) * h, (k + 0.5) * h) for p in floating]
        if floating:
            here = shapely.union_all([p for p in bodies if p not in floating]) if len(floating) < len(bodies) else None
        grown = shapely.buffer(below, step, quad_segs=6)
        pieces = parts_of(shapely.difference(here, grown)) if here is not None else []
        regions += [_closed(r, step, h) for r in open_regions if r["last"] < k - 1]
        open_regions = [r for r in open_regions if r["last"] >= k - 1]
        for piece in pieces:
            near = piece.buffer(step + 1e-3)
            mine = [r for r in open_regions if near.intersects(r["tip"])]
            joined = {"first": k, "last": k, "plans": [piece], "held": []}
            for r in mine:
                joined["first"] = min(joined["first"], r["first"])
                joined["plans"] += r["plans"]
                joined["held"] += r["held"]
            if not mine:
                joined["held"] = [grown.intersection(shapely.box(*piece.bounds).buffer(2 * step + 0.5))]
            joined["tip"] = shapely.union_all([piece] + [r["tip"] for r in mine if r["last"] == k])
            open_regions = [r for r in open_regions if r not in mine] + [joined]
    regions += [_closed(r, step, h) for r in open_regions]
    return [r for r in regions if r is not None]


def _closed(r: dict, step: float, h: float) -> Region | None:
    """A linked region, measured; None when it is no more than a sliver."""
    gap = step / 2 + 1e-3
    plan = shapely.union_all(r["plans"]).buffer(gap, quad_segs=2)
    plan = plan.buffer(-gap, quad_segs=2)
    if plan.buffer(-SLIVER / 2).is_empty:
        return None
    held = shapely.union_all(r["held"])
    z0, z1 = (r["first"] + 0.5) * h, (r["last"] + 0.5) * h
    span = bridge_span(plan, held)
    if span is not None:
        return Region("bridge", plan, z0, z1, span_mm=span)
    return Region("ledge", plan, z0, z1, reach_mm=ledge_reach(plan, held))


LINES = 24  # lines laid across a region in each direction
TURNS = np.radians(np.arange(0, 180, 15))


def chords(plan: shapely.Geometry, angle: float, lines: int = LINES) -> Array:
    """(k, 2, 2) ends of the pieces of parallel lines, ``angle`` to the x axis, that lie inside ``plan``."""
    along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    rings = [r for p in parts_of(plan) for r in (p.exterior, *p.interiors)]
    if not rings:
        return np.zeros((0, 2, 2))
    corners = [np.asarray(r.coords) for r in rings]
    a = np.concatenate([c[:-1] for c in corners])
    b = np.concatenate([c[1:] for c in corners])
    v0, v1, u0, u1 = a @ across, b @ across, a @ along, b @ along
    low, high = v0.min(), v0.max()
    rows = low + (np.arange(lines) + 0.5) / lines * (high - low)
    line, edge = np.nonzero((v0 < rows[:, None]) != (v1 < rows[:, None]))
    t = (rows[line] - v0[edge]) / (v1[edge] - v0[edge])
    u = u0[edge] + t * (u1[edge] - u0[edge])
    order = np.lexsort((u, line))  # crossings of one line come in pairs: in, out, in, out
    u, v = u[order], rows[line[order]]
    return (u[:, None] * along + v[:, None] * across).reshape(-1, 2, 2)


def bridge_span(plan: shapely.Geometry, held: shapely.Geometry) -> float | None:
    """The longest line across ``plan`` in the direction where that is shortest, among the directions in which
    every line is held at both ends; None when there is no such direction. mm.
    """
    grip = held.buffer(HELD + 0.02)
    shapely.prepare(grip)
    lean = 0.0
    frame = shapely.minimum_rotated_rectangle(plan)
    if frame.geom_type == "Polygon":
        corner = np.asarray(frame.exterior.coords)
        lean = float(np.arctan2(*(corner[1] - corner[0])[::-1]))
    spans = []
    for angle in lean + TURNS:
        found = chords(plan, angle)
        if len(found) and shapely.intersects_xy(grip, found[:, :, 0].ravel(), found[:, :, 1].ravel()).all():
            spans.append(float(np.linalg.norm(found[:, 1] - found[:, 0], axis=1).max()))
    return min(spans, default=None)


def ledge_reach(plan: shapely.Geometry, held: shapely.Geometry) -> float:
    """Greatest distance (mm) from the region to the edge that holds it."""
    edge = shapely.intersection(plan.boundary, held.buffer(HELD + 0.02))
    # Of the boundary, not of the polygon: a very thin polygon may come back from being divided as an empty one.
    points = shapely.points(shapely.get_coordinates(shapely.segmentize(plan.boundary, 0.5)))
    if edge.is_empty:
        return float(shapely.distance(points, held).max()) if not held.is_empty else float(plan.length / 2)
    return float(shapely.distance(points, edge).max())
