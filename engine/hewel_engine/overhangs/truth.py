"""What really hangs: the regions that layers show, each with its facets, in the words of the trade.

Facet angles alone are wrong twice: they flag the roof of every small bore, and they miss what begins in mid-air. So
layers say what a region is, and every facet beyond the limit is given to exactly one region; where kinds overlap the
order is island, bore roof, round on the plate, bridge, ledge, slope.
"""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from manifold3d import CrossSection

from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, components
from hewel_engine.geometry.plans import as_polygons, grown, united
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack, Pose
from hewel_engine.overhangs import remedies
from hewel_engine.overhangs.duties import lying_chord, tilts
from hewel_engine.overhangs.extents import measured
from hewel_engine.overhangs.layers import Hanging, hanging
from hewel_engine.overhangs.support import Drops, contact_facets
from hewel_engine.processes import Process, layers_of
from hewel_engine.tolerances import SLIVER

KINDS = ("island", "bore_roof", "bed_round", "bridge", "ledge", "slope")
LANDS = ("island", "bridge", "ledge")
"""Kinds that print, if roughly, where they hang no higher than they droop."""
CURVED = 15.0
"""Degrees that the facets of a round on the plate turn at least; less is a chamfer."""


@dataclass
class Overhang:
    """One region. Lengths mm, areas mm²; ``low`` and ``high`` are heights above the plate, ``centre`` and ``lowest``
    points of the part's frame, ``worst`` degrees from the vertical.
    """

    kind: str
    facets: np.ndarray = field(repr=False)
    area: float
    """True area of its facets; of an island that has none, the area of the layer it begins with."""
    worst: float
    low: float
    high: float
    centre: Array
    span: float | None = None
    reach: float | None = None
    allowed: float = 0.0
    """The span or reach up to which it holds by itself; 0 for an island."""
    needs_support: bool = True
    drop: float = 0.0
    """Least height above the plate or the part below it."""
    over_part: bool = False
    support_volume: float = 0.0
    scar: float = 0.0
    """Area to be cleaned if it were supported: its own, and what the support would stand on."""
    lands: bool = False
    """It hangs so low over what lies below that it droops onto it, and so prints."""
    bore: int | None = None
    """Which of the bores given, for the roof of one."""
    remedies: list[dict] = field(default_factory=list)

    def as_dict(self) -> dict:
        return {
            "kind": self.kind,
            "area_mm2": self.area,
            "worst_deg": self.worst,
            "z_mm": self.low,
            "top_mm": self.high,
            "span_mm": self.span,
            "reach_mm": self.reach,
            "allowed_mm": self.allowed,
            "centre_mm": (self.centre + 0.0).tolist(),
            "needs_support": self.needs_support,
            "drop_mm": self.drop,
            "over_part": self.over_part,
            "lands": self.lands,
            "support_volume_mm3": self.support_volume,
            "scar_mm2": self.scar,
            "bore": self.bore,
            "remedies": self.remedies,
        }


@dataclass(frozen=True, eq=False)
class Truth:
    """What a standing part overhangs, as a whole; ``regions`` in the order of KINDS, lowest first."""

    regions: list[Overhang]
    overhang_area: float
    """True area of all facets beyond the limit; the plate's contact left out."""
    support_volume: float
    contact_area: float
    first_layer: float
    """Area of the first layer's section."""
    height: float

    @property
    def needs_support(self) -> bool:
        return any(r.needs_support for r in self.regions)

    @property
    def needing_area(self) -> float:
        """mm² of the regions that need support."""
        return needing_area(self.regions)

    def as_dict(self) -> dict:
        return {
            "overhang_area_mm2": self.overhang_area,
            "support_volume_mm3": self.support_volume,
            "contact_area_mm2": self.contact_area,
            "first_layer_mm2": self.first_layer,
            "height_mm": self.height,
            "needs_support": self.needs_support,
            "regions": [r.as_dict() for r in self.regions],
        }


def needing_area(regions: list[Overhang]) -> float:
    """mm² of those that need support."""
    return sum((r.area for r in regions if r.needs_support), 0.0)


def truth_of(stack: LayerStack, process: Process, bores: list[Bore], rays: RayScene) -> Truth:
    """Layer truth of a closed part standing as ``stack`` says. Raises InputError ``not_closed``."""
    mesh = stack.mesh
    if not mesh.closed:
        raise InputError(
            "not_closed",
            "The surface is open, so its layers have no inside.",
            "Close it in the program that made it, or import it again with its holes filled.",
        )
    drops = Drops(mesh, rays, stack.up, process.limit)
    return Truth(
        overhangs(stack, process, bores, drops),
        float(mesh.areas[drops.beyond].sum()),
        drops.volume(),
        float(mesh.areas[contact_facets(mesh, stack.up)].sum()),
        float(stack.integrals[0, 0]),
        stack.height,
    )


class _Surface:
    """The facets beyond the limit, given out to one region after the other."""

    def __init__(self, stack: LayerStack, process: Process, beyond: np.ndarray):
        self.stack, self.process, self.mesh = stack, process, stack.mesh
        a, b, c = (stack.points[corner] for corner in stack.mesh.faces.T)
        self.low = np.minimum(np.minimum(a[:, 2], b[:, 2]), c[:, 2])
        self.high = np.maximum(np.maximum(a[:, 2], b[:, 2]), c[:, 2])
        self.middle = (a + b + c) / 3
        self.angle = np.degrees(np.arcsin(np.clip(-(stack.mesh.normals @ stack.up), 0, 1)))
        self.beyond = beyond
        self.owner = np.full(len(self.beyond), -1)

    @property
    def free(self) -> np.ndarray:
        return np.flatnonzero(self.beyond & (self.owner < 0))

    def under(self, found: Hanging, plan: shapely.Geometry) -> np.ndarray:
        """Facets not given out yet whose middle lies under a linked region, at its height."""
        h, rows = self.stack.pitch, self.free
        rows = rows[(self.low[rows] < (found.last + 1) * h) & (self.high[rows] > (found.first - 1) * h)]
        if len(rows) == 0:
            return rows
        return rows[shapely.intersects_xy(plan, self.middle[rows, 0], self.middle[rows, 1])]

    @cached_property
    def neighbours(self) -> np.ndarray:
        """(n, 2) facets beyond the limit that flow into each other over an edge."""
        pairs = self.mesh.edges.shared
        return pairs[self.beyond[pairs].all(axis=1)]

    def leftovers(self) -> list[np.ndarray]:
        """Facets not given out, joined where they share an edge."""
        rows = self.free
        if len(rows) == 0:
            return []
        number = np.full(len(self.beyond), -1)
        number[rows] = np.arange(len(rows))
        links = number[self.neighbours]
        _, label = components(len(rows), links[(links >= 0).all(axis=1)])
        order = np.argsort(label, kind="stable")
        return np.split(rows[order], np.flatnonzero(np.diff(label[order])) + 1)

    def beside(self, rows: np.ndarray) -> int:
        """The region that most of the patch's edges lead to; −1 where none does."""
        mine = np.zeros(len(self.beyond), bool)
        mine[rows] = True
        a, b = self.neighbours.T
        others = np.concatenate([self.owner[b[mine[a]]], self.owner[a[mine[b]]]])
        others = others[others >= 0]
        return int(np.bincount(others).argmax()) if len(others) else -1


def overhangs(stack: LayerStack, process: Process, bores: list[Bore], drops: Drops) -> list[Overhang]:
    """Every region that hangs, for a closed part standing as ``stack`` says, in the order of KINDS, lowest first."""
    surface = _Surface(stack, process, drops.beyond)
    out: list[Overhang] = []
    links: list[Hanging | None] = []

    def give(rows: np.ndarray, kind: str, link: Hanging | None = None, **more) -> None:
        surface.owner[rows] = len(out)
        low = surface.low[rows].min() if len(rows) else (link.first + 0.5) * stack.pitch
        high = surface.high[rows].max() if len(rows) else (link.last + 0.5) * stack.pitch
        out.append(Overhang(kind, rows, 0.0, 0.0, float(low), float(high), np.zeros(3), **more))
        links.append(link)

    found = hanging(stack, process, drops.beyond)
    for link in found:
        if link.island:
            give(surface.under(link, as_polygons(grown(link.plan, SLIVER))), "island", link)
    for number, bore in enumerate(bores):
        rows = bore.facets[surface.beyond[bore.facets] & (surface.owner[bore.facets] < 0)]
        if len(rows):
            chord = lying_chord(bore.diameter, float(tilts(bore.axis, stack.up[None])[0]), process.limit)
            give(rows, "bore_roof", span=chord, bore=number)
    for link in found:
        if link.island:
            continue
        plan = link.plan
        if grown(plan, -SLIVER / 2).is_empty():
            continue
        rows = surface.under(link, as_polygons(grown(plan, SLIVER)))
        if len(rows):
            give(rows, "ledge", link)
    for rows in surface.leftovers():
        beside = surface.beside(rows)
        if beside >= 0:
            surface.owner[rows] = beside
        else:
            give(rows, "slope")
    for number, region in enumerate(out):
        region.facets = np.flatnonzero(surface.owner == number)
        _measure(surface, region, links[number])
        _judge(region, process, bores)
        _cost(region, drops, stack, process)
        if region.needs_support and region.kind in LANDS and region.drop < process.droop + 2 * stack.pitch:
            region.lands = links[number] is not None and _lands(links[number], stack, process)
            region.needs_support = not region.lands
    return sorted(out, key=lambda r: (KINDS.index(r.kind), r.low, tuple(np.round(r.centre, 6))))


def _measure(surface: _Surface, region: Overhang, link: Hanging | None) -> None:
    """Area, steepness, place, and span or reach; tells rounds on the plate, bridges, ledges and slopes apart."""
    stack, rows = surface.stack, region.facets
    if len(rows):
        area = stack.mesh.areas[rows]
        region.area, region.worst = float(area.sum()), float(surface.angle[rows].max())
        region.centre = np.average(stack.mesh.centroids[rows], axis=0, weights=np.maximum(area, 1e-12))
        region.low, region.high = float(surface.low[rows].min()), float(surface.high[rows].max())
    elif link is not None:
        plan = link.pieces[0][1]
        tip = np.flatnonzero((surface.low < region.low) & (surface.low > region.low - stack.pitch))
        corner = stack.points[stack.mesh.faces[tip]]
        lowest = corner[np.arange(len(tip)), corner[:, :, 2].argmin(axis=1)]
        under = shapely.intersects_xy(as_polygons(grown(plan, SLIVER)), lowest[:, 0], lowest[:, 1])
        if under.any():
            region.low, region.worst = float(lowest[under, 2].min()), float(surface.angle[tip][under].max())
        region.area = float(plan.area())
        shape = as_polygons(plan)
        spot = shapely.box(*plan.bounds()).centroid if shape.is_empty else shape.representative_point()
        region.centre = Pose.of(stack).in_part(np.array([spot.x, spot.y, region.low]))
    if region.kind in ("island", "bore_roof"):
        return
    round_ = region.low <= stack.pitch and _bulges(surface, rows)
    if link is None:
        region.kind, region.reach = "bed_round" if round_ else "slope", _stands_out(surface, rows)
        return
    span, reach = measured(link.plan, link.hold(stack), surface.process.width)
    span = None if round_ else span
    if not round_ and (span is None or span > surface.process.clean_bridge):  # laid in steps it may bridge less
        steps = _stepped(link, stack, surface.process)
        span = steps if span is None else min(span, steps or span)
    if span is not None and span > surface.process.width:  # what is no wider than a line holds itself
        region.kind, region.span = "bridge", span
    else:
        region.kind = "bed_round" if round_ else "ledge" if link.steep else "slope"
        region.reach = reach


def _stepped(link: Hanging, stack: LayerStack, process: Process) -> float | None:
    """Span (mm) of a region whose layers bridge one after the other, each over what the one below has laid, as round a
    hole in a ceiling; None unless all of it does but for strips that hold themselves.
    """
    layers = sorted({k for k, _ in link.pieces})
    if len(layers) < 2:
        return None
    spans: list[float] = []
    rest: list[CrossSection] = []
    for k in layers:
        for piece in united([p for at, p in link.pieces if at == k]).decompose():
            span, _ = measured(piece, link.hold_of(stack, k, piece), process.width)
            if span is None:
                rest.append(piece)
            else:
                spans.append(span)
        if not spans:
            return None
    holds_itself = not rest or grown(united(rest), -process.held_out / 2).is_empty()
    return max(spans) if holds_itself else None


def _lands(link: Hanging, stack: LayerStack, process: Process) -> bool:
    """Whether all of a region, but for strips that hold themselves, hangs no more layers above the part or the plate
    than it droops.
    """
    fall = layers_of(process.droop, process.layer)
    rest = link.plan
    for k, piece in link.pieces:
        if k <= fall:
            rest -= piece  # onto the plate
        else:
            rest -= piece ^ united([stack.plan(below) for below in range(k - 1 - fall, k)])
    narrow = process.width / 2 if link.island else process.held_out  # only beside a wall do two lines hold
    bare = grown(rest, -narrow / 2) ^ rest  # a hair that rounding leaves may come back turned inside out
    return rest.area() < link.plan.area() / 2 and bare.area() < SLIVER**2


def _bulges(surface: _Surface, rows: np.ndarray) -> bool:
    """Whether a surface curves, and is steepest where it is lowest, as a ball on the plate is."""
    angle, z, area = surface.angle[rows], surface.middle[rows, 2], surface.mesh.areas[rows]
    if np.ptp(angle) < CURVED:
        return False
    lean = np.average((angle - np.average(angle, weights=area)) * (z - np.average(z, weights=area)), weights=area)
    return bool(lean < 0)


def _stands_out(surface: _Surface, rows: np.ndarray) -> float:
    """How far (mm, in plan) facets stand out from the layer just below them; their whole extent over none."""
    stack = surface.stack
    k = int(np.clip(np.ceil(surface.low[rows].min() / stack.pitch - 0.5) - 1, 0, stack.count - 1))
    below = as_polygons(stack.plan(k))
    corners = stack.points[np.unique(stack.mesh.faces[rows])]
    if below.is_empty:
        return float(np.linalg.norm(np.ptp(corners[:, :2], axis=0)))
    return float(shapely.distance(shapely.points(corners[:, :2]), below).max())


def _judge(region: Overhang, process: Process, bores: list[Bore]) -> None:
    """Islands always fail; bridges past the rough limit and bore roofs past the clean one; the rest past two lines."""
    limit = process.limit
    if region.kind == "island":
        return
    if region.kind == "bore_roof":
        region.allowed = process.clean_bridge
        diameter = bores[region.bore].diameter
        region.remedies = [remedies.teardrop(diameter, limit), remedies.capped_teardrop(diameter, limit)]
    elif region.kind == "bridge":
        region.allowed = process.rough_bridge
        region.remedies = [
            remedies.pointed_arch(region.span, limit),
            remedies.corner_chamfers(region.span, limit, process.clean_bridge),
        ]
    else:
        region.allowed = process.held_out
        if region.kind == "bed_round":
            region.remedies = [remedies.round_chamfer(region.high, limit)]
        else:
            region.remedies = [remedies.gusset(region.reach, limit)]
    free = region.reach if region.span is None else region.span
    region.needs_support = bool(free > region.allowed + 1e-6)


def _cost(region: Overhang, drops: Drops, stack: LayerStack, process: Process) -> None:
    """What a support under it would cost."""
    rows = drops.of(region.facets, len(stack.mesh.faces))
    if rows.any():
        least = int(np.flatnonzero(rows)[drops.drop[rows].argmin()])
        region.drop, region.over_part = float(drops.drop[least]), bool(drops.on_part[least])
        region.support_volume = drops.volume(rows)
        region.scar = region.area + drops.landed(rows)
    else:
        region.drop, region.over_part = drops.below(region.centre, region.low)
        region.support_volume = region.area * region.drop
        region.scar = region.area * (2 if region.over_part else 1)
    if region.kind == "island":
        region.remedies = [remedies.sprue(region.drop, process.width)]
