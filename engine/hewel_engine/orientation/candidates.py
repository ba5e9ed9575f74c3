"""The directions worth looking at closely, and what slicing says about each."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import SAME_DIRECTION, sphere_directions, unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.orientation.sweep import (
    Sweep,
    drag_ratio,
    footing,
    least_section_modulus,
    plan_hull,
    sweep,
)
from hewel_engine.overhangs.support import Drops, contact_facets
from hewel_engine.overhangs.truth import Overhang, needing_area, overhangs
from hewel_engine.printing.paths import grams_of, layer_paths, seconds_together
from hewel_engine.processes import Process

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
    regions: list[Overhang] = field(default_factory=list)

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
    least = least_share * area.sum()
    seen, ups, sizes = set(), [], []
    for i in order:
        if where[i] not in seen and total[where[i]] >= least:
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
    exact = np.cos(np.radians(SAME_DIRECTION))
    for i in queue:
        gap = exact if kind[i] != "sphere" else close
        if len(chosen) < most and all(swept.ups[i] @ swept.ups[j] < gap for j in chosen):
            chosen.append(int(i))
    return chosen


def worst_overhang(mesh: Mesh, up: Array) -> float:
    """Degrees from the vertical of the steepest facet off the plate; 0 where none faces down."""
    d = mesh.normals @ up
    d[contact_facets(mesh, up)] = 1.0
    return float(np.degrees(np.arcsin(np.clip(-d.min(), 0, 1))) + 0.0)


def examine(
    mesh: Mesh, rays: RayScene, swept: Sweep, row: int, source: str, process: Process, bores: list[Bore]
) -> Candidate:
    """One candidate in full: facet measures, support by rays, and what its layers say."""
    up = swept.ups[row]
    measures = {name: float(getattr(swept, name)[row]) for name in Sweep.FIELDS}
    measures["worst_overhang_deg"] = worst_overhang(mesh, up)
    if measures["contact_area_mm2"] > 0:
        tipping, drag, curl = footing(mesh, up, measures["height_mm"], process)
        measures |= {"tipping_deg": tipping, "drag_ratio": drag, "curl": curl}
    drops = Drops(mesh, rays, up, process.limit)
    measures |= {
        "support_volume_mm3": drops.volume(),
        "scar_mm2": measures["overhang_area_mm2"] + drops.landed(),
        "islands": None,
        "longest_bridge_mm": None,
        "first_layer_mm2": None,
        "time_s": None,
        "grams": None,
        "needing_area_mm2": measures["overhang_area_mm2"],
        "reserve": None,
        "rank_after": None,
    }
    if not mesh.closed:
        return Candidate(up, source, measures)
    stack = LayerStack(mesh, up, process.layer)
    regions, paths = overhangs(stack, process, bores, drops), layer_paths(stack, process)
    measures |= {
        "islands": sum(r.kind == "island" for r in regions),
        "longest_bridge_mm": max((r.span for r in regions if r.span is not None), default=0.0),
        "first_layer_mm2": float(stack.integrals[0, 0]),
        "time_s": float(seconds_together(paths, stack, process).sum()),
        "grams": grams_of(paths.lines, process),
        "drag_ratio": drag_by_section(stack, process),
        "needing_area_mm2": needing_area(regions),
    }
    return Candidate(up, source, measures, regions)


def drag_by_section(stack: LayerStack, process: Process, layer: int = 0, cut: float = 0.0) -> float:
    """Drag ratio from the section of a layer, the first being what holds under rounds; ``cut`` mm lower than now."""
    return drag_ratio(modulus_of(stack, layer), stack.height - cut, process)


def modulus_of(stack: LayerStack, layer: int) -> float:
    """mm³: the least section modulus of a layer, 0 where nothing lies."""
    area, sx, sy, sxx, syy, sxy, _ = stack.integrals[layer]
    if area <= 0:
        return 0.0
    centre = np.array([sx, sy]) / area
    second = np.array([[sxx, sxy], [sxy, syy]]) - area * np.outer(centre, centre)
    rim = plan_hull(np.concatenate(stack.outline(layer)))
    return 0.0 if rim is None else least_section_modulus(area, centre, second, rim)


def typed(mesh: Mesh, rays: RayScene, up: Sequence[float], process: Process, bores: list[Bore]) -> Candidate:
    """A direction that somebody gave."""
    ups = unit(up)[None]
    return examine(mesh, rays, sweep(mesh, ups, process, rays, workers=1), 0, "typed", process, bores)
