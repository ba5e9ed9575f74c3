"""The directions worth looking at closely, and what slicing says about each."""

from dataclasses import dataclass, field

import numpy as np
import shapely

from hewel_engine.geometry.frames import sphere_directions, unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.orientation.printing_time import print_seconds
from hewel_engine.orientation.sweep import (
    Sweep,
    contact_facets,
    drag_ratio,
    footing,
    least_section_modulus,
    plan_hull,
    sweep,
)
from hewel_engine.overhangs.layers import Region, hanging_regions
from hewel_engine.processes import Process
from hewel_engine.tolerances import CONTACT_BAND, overhang_threshold

MOST = 40
MOST_FLATS = 40  # of the part, the largest
MOST_ON_EDGES = 8  # hull faces that touch the plate by points or edges only
APART = 2.0  # degrees: two candidates are never nearer than this


@dataclass
class Candidate:
    """One direction with its measures; None where slicing has not run or the part is open."""

    up: Array
    source: str
    measures: dict
    regions: list[Region] = field(default_factory=list)

    def as_dict(self) -> dict:
        return {"up": (self.up + 0.0).tolist(), "source": self.source, **self.measures}


def hull_directions(mesh: Mesh, least_share: float = 0.004) -> tuple[Array, Array]:
    """Directions that stand the part on a face of its convex hull: (k, 3) and the faces' areas, largest first."""
    hull = mesh.hull
    if hull is None:
        return np.zeros((0, 3)), np.zeros(0)
    t = hull.points[hull.simplices]
    area = 0.5 * np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)
    normals = hull.equations[:, :3]
    order = np.argsort(-area, kind="stable")
    _, where = np.unique(np.round(hull.equations / [1, 1, 1, max(mesh.diagonal, 1)], 4), axis=0, return_inverse=True)
    where = where.ravel()
    total = np.bincount(where, area)
    seen, ups, sizes = set(), [], []
    for i in order:
        if where[i] not in seen and total[where[i]] >= least_share * area.sum():
            seen.add(where[i])
            ups.append(-normals[i])
            sizes.append(total[where[i]])
    by = np.argsort(-np.array(sizes), kind="stable")
    return np.array(ups).reshape(-1, 3)[by], np.array(sizes)[by]


def swept_directions(mesh: Mesh, flat_normals: Array) -> tuple[Array, list[str]]:
    """All that is swept: the sphere, then the axes, faces of the part and of its hull; with the source of each."""
    sphere = sphere_directions()
    axes = np.concatenate([np.eye(3), -np.eye(3)])
    hull, _ = hull_directions(mesh)
    groups = [("axis", axes), ("flat", -flat_normals[:MOST_FLATS].reshape(-1, 3)), ("hull", hull[:60])]
    ups, sources = [sphere], ["sphere"] * len(sphere)
    for name, rows in groups:
        ups.append(rows)
        sources += [name] * len(rows)
    return np.concatenate(ups), sources


def pick(swept: Sweep, sources: list[str], most: int = MOST) -> list[int]:
    """Rows worth slicing: what the part can stand on, the axes, and the best of the sphere by each measure."""
    kind = np.array(sources)
    standing = np.flatnonzero(kind != "sphere")
    by_contact = standing[np.argsort(-swept.contact_area_mm2[standing], kind="stable")]
    sphere = np.flatnonzero(kind == "sphere")
    best = [
        sphere[np.argsort(measure[sphere], kind="stable")[:3]]
        for measure in (swept.overhang_area_mm2, swept.support_volume_mm3, swept.height_mm)
    ]
    on_face = by_contact[swept.contact_area_mm2[by_contact] > 0]
    on_edges = standing[(swept.contact_area_mm2[standing] == 0) & (kind[standing] == "hull")][:MOST_ON_EDGES]
    queue = [*np.flatnonzero(kind == "axis"), *on_face, *np.concatenate(best), *on_edges]
    chosen: list[int] = []
    close = np.cos(np.radians(APART))
    exact = np.cos(np.radians(0.01))
    for i in queue:
        gap = exact if kind[i] != "sphere" else close
        if len(chosen) < most and all(swept.ups[i] @ swept.ups[j] < gap for j in chosen):
            chosen.append(int(i))
    return chosen


def support_spots(mesh: Mesh, up: Array, limit: float, points: int = 20000) -> tuple[Array, Array]:
    """Points (n, 3) spread over the needing facets, and the plan area (n,) mm² that each stands for.

    Every needing facet is split into like triangles until none is longer than a thirtieth of the part, so that
    one ray from the middle of each is a fair sum.
    """
    d = mesh.normals @ up
    floor = float(mesh.extents(up[None])[0][0])
    top = (mesh.vertices @ up)[mesh.faces].max(axis=1) - floor
    needs = np.flatnonzero((d < overhang_threshold(limit)) & (top > CONTACT_BAND))
    if len(needs) == 0:
        return np.zeros((0, 3)), np.zeros(0)
    t = mesh.triangles[needs]
    longest = np.linalg.norm(t - np.roll(t, 1, axis=1), axis=2).max(axis=1)
    grain = max(mesh.diagonal / 60, 0.05)
    n = np.clip(np.ceil(longest / grain), 1, 40).astype(int)
    while (n**2).sum() > points and n.max() > 1:
        n = np.maximum(1, (n * 0.8).astype(int))
    spots, plans = [], []
    for k in np.unique(n):
        rows = np.flatnonzero(n == k)
        weights = _thirds(k)
        spots.append(np.einsum("sw,rwx->rsx", weights, t[rows]).reshape(-1, 3))
        plans.append((mesh.areas[needs[rows]] * -d[needs[rows]] / k**2).repeat(len(weights)))
    return np.concatenate(spots), np.concatenate(plans)


def support_drop(mesh: Mesh, rays: RayScene, up: Array, limit: float) -> tuple[float, float]:
    """Support volume (mm³) down to the plate or the part below, and the area it lands on (mm²)."""
    spots, plan = support_spots(mesh, up, limit)
    plate = spots @ up - float(mesh.extents(up[None])[0][0])
    drop = rays.distances(spots - rays.step * up, -up) + rays.step
    landed = plan[drop < plate - 2 * CONTACT_BAND].sum()
    return float((plan * np.minimum(drop, plate)).sum()), float(landed)


def _thirds(k: int) -> Array:
    """(k², 3) barycentric middles of a triangle split into k² like ones."""
    out = []
    for i in range(k):
        for j in range(k - i):
            out.append((i + 1 / 3, j + 1 / 3))
            if i + j < k - 1:
                out.append((i + 2 / 3, j + 2 / 3))
    a = np.array(out) / k
    return np.c_[a, 1 - a.sum(axis=1)]


def worst_overhang(mesh: Mesh, up: Array) -> float:
    """Degrees from the vertical of the steepest facet off the plate; 0 where none faces down."""
    d = mesh.normals @ up
    d[contact_facets(mesh, up)] = 1.0
    return float(np.degrees(np.arcsin(np.clip(-d.min(), 0, 1))) + 0.0)


def examine(mesh: Mesh, rays: RayScene, swept: Sweep, row: int, source: str, process: Process) -> Candidate:
    """One candidate in full: facet measures, support by rays, and what its layers say."""
    up = swept.ups[row]
    measures = {name: float(getattr(swept, name)[row]) for name in Sweep.FIELDS}
    measures["worst_overhang_deg"] = worst_overhang(mesh, up)
    if measures["contact_area_mm2"] > 0:
        tipping, drag, curl = footing(mesh, up, measures["height_mm"], process)
        measures |= {"tipping_deg": tipping, "drag_ratio": drag, "curl": curl}
    volume, landed = support_drop(mesh, rays, up, process.limit)
    measures |= {
        "support_volume_mm3": volume,
        "scar_mm2": measures["overhang_area_mm2"] + landed,
        "islands": None,
        "longest_bridge_mm": None,
        "first_layer_mm2": None,
        "time_s": None,
        "needing_area_mm2": measures["overhang_area_mm2"],
        "reserve": None,
        "rank_after": None,
    }
    if not mesh.closed:
        return Candidate(up, source, measures)
    stack = LayerStack(mesh, up, process.layer)
    regions = hanging_regions(stack, process)
    measures |= {
        "islands": sum(r.kind == "island" for r in regions),
        "longest_bridge_mm": max((r.span_mm for r in regions if r.kind == "bridge"), default=0.0),
        "first_layer_mm2": float(stack.integrals[0, 0]),
        "time_s": print_seconds(stack, process),
        "drag_ratio": _drag_by_section(stack, process),
        "needing_area_mm2": needing_area(stack, regions, process, measures["overhang_area_mm2"]),
    }
    return Candidate(up, source, measures, regions)


def _drag_by_section(stack: LayerStack, process: Process) -> float:
    """Drag ratio from the first layer's section, which is what holds under rounds."""
    area, sx, sy, sxx, syy, sxy, _ = stack.integrals[0]
    if area <= 0:
        return 0.0
    centre = np.array([sx, sy]) / area
    second = np.array([[sxx, sxy], [sxy, syy]]) - area * np.outer(centre, centre)
    outline = stack.outlines(np.arange(stack.count) == 0)[0]
    rim = plan_hull(shapely.get_coordinates(outline))
    modulus = 0.0 if rim is None else least_section_modulus(area, centre, second, rim)
    return drag_ratio(modulus, stack.height, process)


def needing_area(stack: LayerStack, regions: list[Region], process: Process, overhang: float) -> float:
    """Overhang area (mm²) less what layer truth shows to hold itself: short bridges and ledges."""
    turned = stack.points[stack.mesh.faces].mean(axis=1)
    d = stack.mesh.normals @ stack.up
    hang = (d < overhang_threshold(process.limit)) & (turned[:, 2] > CONTACT_BAND)
    held = np.zeros(len(turned), bool)
    step = stack.pitch * np.tan(np.radians(process.limit))
    for r in regions:
        if r.needs_support(process):
            continue
        rows = np.flatnonzero(
            hang & (turned[:, 2] > r.low_mm - 2 * stack.pitch) & (turned[:, 2] < r.high_mm + stack.pitch)
        )
        if len(rows):
            held[rows] |= shapely.contains_xy(r.plan.buffer(2 * step + 0.05), turned[rows, 0], turned[rows, 1])
    return max(0.0, overhang - float(stack.mesh.areas[held].sum()))


def typed(mesh: Mesh, rays: RayScene, up, process: Process) -> Candidate:
    """A direction that somebody gave."""
    ups = unit(up)[None]
    return examine(mesh, rays, sweep(mesh, ups, process, rays, workers=1), 0, "typed", process)
