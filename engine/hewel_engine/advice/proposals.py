"""For every region that hangs, the remedies that fit it, in the order in which they are tried."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
import shapely.affinity
from manifold3d import Manifold

from hewel_engine.edits.blocks import block
from hewel_engine.edits.bores import membrane, stepped_bridging, teardrop
from hewel_engine.edits.closing import stepped_closing
from hewel_engine.edits.feet import filled_round
from hewel_engine.edits.gussets import gusset, pillar, post, round_chamfer
from hewel_engine.edits.parameters import LEAN, PARAMETERS, leaning
from hewel_engine.edits.roofs import corner_chamfers, pointed_arch, roof
from hewel_engine.edits.solids import mesh_of, solid_of
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.edits.undersides import Underside, joined_undersides
from hewel_engine.geometry.features import Bore, find_bores, fit_circle, on_a_circle
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack, Pose
from hewel_engine.overhangs.duties import ROUND_LYING
from hewel_engine.overhangs.truth import Overhang, Truth, truth_of
from hewel_engine.processes import Process
from hewel_engine.walls.zones import Zone

UP = np.array([0.0, 0.0, 1.0])
ORDER = {
    "island": ("sprue", "pillar"),
    "bore_roof": ("teardrop",),
    "bed_round": ("round_chamfer", "gusset"),
    "bridge": ("stepped_bridging", "pointed_arch", "corner_chamfers", "stepped_closing", "block"),
    "ledge": ("stepped_bridging", "gusset", "roof", "pillar", "block"),
    "slope": ("gusset", "roof", "pillar"),
}
"""What is tried for a region of each kind, the one that keeps most of its function first."""
SUPPORTS = ("sprue", "pillar", "block")
"""Remedies that are supports, if designed ones: none of them where the job wants none."""
ASKED_FOR = {"bridge": ("membrane",), "ledge": ("membrane",), "bed_round": ("filled_round",)}
"""Remedies that close a bore or take a shape away: never proposed, only done when named."""

AT_THE_PLATE = ("foot_chamfer", "added_foot", "sliced_foot")
"""Remedies for how the part stands, for no region: against the first layer's bulge, against tipping; when named."""
_REGIONAL = [k for table in (ORDER, ASKED_FOR) for keys in table.values() for k in keys]
SIZING = ("wall", "hollow", "column", "collar", "rounded_corner", "ribs")
"""What sizes walls, bosses, holes, corners and faces, for no region; when named."""
KEYS = (*dict.fromkeys([*_REGIONAL, "capped_teardrop"]), *AT_THE_PLATE, *SIZING)
"""Every remedy by name."""


@dataclass(frozen=True, eq=False)
class Standing:
    """A part on the plate as it is now: its mesh (z up, the plate at 0) and what of it hangs."""

    mesh: Mesh
    process: Process
    bores: list[Bore]
    rays: RayScene
    stack: LayerStack
    truth: Truth

    @classmethod
    def of(cls, mesh: Mesh, process: Process, bores: list[Bore] | None = None) -> "Standing":
        rays = RayScene(mesh)
        bores = find_bores(mesh, rays) if bores is None else bores
        stack = LayerStack(mesh, UP, process.layer)
        return cls(mesh, process, bores, rays, stack, truth_of(stack, process, bores, rays))

    @classmethod
    def stood(cls, mesh: Mesh, up: Array, process: Process, bores: list[Bore]) -> tuple["Standing", Pose]:
        """A part stood on the plate, and where that is. Raises InputError ``not_closed``."""
        pose = Pose.of(LayerStack(mesh, np.asarray(up, float), process.layer))
        turned = [replace(b, centre=pose.over_plate(b.centre), axis=pose.turn @ b.axis) for b in bores]
        return cls.of(pose.standing(mesh), process, turned), pose

    @classmethod
    def after(cls, solid, process: Process) -> "Standing":
        return cls.of(mesh_of(solid), process)

    @property
    def middle(self) -> Array:
        """(2,) what a stack takes off every plan."""
        return self.mesh.box.mean(axis=0)[:2]

    @cached_property
    def solid(self) -> Manifold:
        return solid_of(self.mesh)

    @cached_property
    def wanting(self) -> list[int]:
        """Numbers of the regions that need something: support, or a roof that keeps a lying bore round."""
        return [i for i, r in enumerate(self.truth.regions) if r.needs_support or self._loses_its_round(r)]

    def _loses_its_round(self, region: Overhang) -> bool:
        return region.kind == "bore_roof" and self.bores[region.bore].diameter > ROUND_LYING

    def undersides(self, region: Overhang) -> list[Underside]:
        return joined_undersides(self.mesh, region.facets)


@dataclass(frozen=True)
class _Hole:
    """A round hole in a level ceiling at height ``low`` over an ``opening``; ``deep`` mm of it stand above."""

    centre: Array
    radius: float
    opening: shapely.Polygon
    low: float
    deep: float


def tools_for(
    here: Standing, region: Overhang, keys: tuple[str, ...] | None = None, supports: bool = True,
    given: dict[str, float] | None = None,
) -> Iterator[tuple[str, Callable]]:  # fmt: skip
    """(key, how to make the tool) for a region, in order; with ``keys`` only those, and none that is a support where
    ``supports`` are not wanted. ``given``: numbers that a person set, checked before. Making one may raise Impossible.
    """
    hole = _hole_in(here, region)
    if keys:
        meant = {"teardrop" if k == "capped_teardrop" else k for k in keys}  # one tool, capped where it has to be
        wanted = [k for k in (*ORDER[region.kind], *ASKED_FOR.get(region.kind, ())) if k in meant]
    else:
        wanted = [k for k in ORDER[region.kind] if k != "stepped_bridging" or hole]
    for key in wanted:
        if key in SUPPORTS and not supports:
            continue
        yield key, lambda key=key: _made(key, here, region, hole, given or {})


def _made(key: str, here: Standing, region: Overhang, hole: _Hole | None, given: dict[str, float]) -> Tool:
    process, numbers = leaning(here.process, given)
    tool = _shaped(key, here, region, hole, process, numbers)
    return replace(tool, used={LEAN.name: process.limit} | tool.used) if LEAN in PARAMETERS[key] else tool


def _shaped(
    key: str, here: Standing, region: Overhang, hole: _Hole | None, process: Process, numbers: dict[str, float]
) -> Tool:
    if key == "teardrop":
        return teardrop(here.bores[region.bore], here.mesh, here.rays, process, **numbers)
    if key == "sprue":
        return post(*_first_layer(here, region), here.rays, process, **numbers)
    if key in ("stepped_bridging", "membrane"):
        if hole is None:
            raise Impossible("It is no level ceiling with one upright hole in it.")
        if key == "membrane":
            return membrane(hole.centre, hole.low, hole.radius, hole.opening, process, **numbers)
        return stepped_bridging(hole.centre, hole.low, hole.radius, hole.opening, hole.deep, process, **numbers)
    pieces = here.undersides(region)
    if not pieces:
        raise Impossible("It has no surface of its own that could be changed.")
    with_rays = {"pillar": pillar, "pointed_arch": pointed_arch, "corner_chamfers": corner_chamfers, "roof": roof,
                 "stepped_closing": stepped_closing}  # fmt: skip
    if key == "block":
        made = [block(piece, here.solid, here.rays, process, **numbers) for piece in pieces]
    elif key in with_rays:
        made = [with_rays[key](piece, here.rays, process, **numbers) for piece in pieces]
    else:
        plain = {"gusset": gusset, "round_chamfer": round_chamfer, "filled_round": filled_round}
        made = [plain[key](piece, process) for piece in pieces]
    return _one(made)


def _one(made: list[Tool]) -> Tool:
    """Several tools for the pieces of one region as one, told by the largest."""
    largest = max(made, key=lambda t: t.add.volume() + t.remove.volume())
    add, remove = made[0].add, made[0].remove
    for tool in made[1:]:
        add, remove = add + tool.add, remove + tool.remove
    return replace(largest, add=add, remove=remove)


def _first_layer(here: Standing, region: Overhang) -> tuple[Array, shapely.Polygon]:
    """Where a region that begins in mid-air begins, and what of it the first layer draws."""
    stack = here.stack
    k = min(max(int(np.ceil(region.low / stack.pitch - 0.5 + 1e-9)), 0), stack.count - 1)
    drawn = as_polygons(stack.plan(k))
    here_ = shapely.Point(region.centre[:2] - here.middle)
    parts = list(drawn.geoms) if hasattr(drawn, "geoms") else [drawn]
    plan = shapely.affinity.translate(min(parts, key=here_.distance), *here.middle)
    spot = plan.representative_point()
    return np.array([spot.x, spot.y, region.low]), plan


def _hole_in(here: Standing, region: Overhang) -> _Hole | None:
    for under in here.undersides(region):
        plan = under.plan
        if under.high - under.low > 1e-3 or plan.geom_type != "Polygon" or len(plan.interiors) != 1:
            continue
        rim = np.array(plan.interiors[0].coords[:-1])
        centre, radius, stray = fit_circle(rim)
        if len(rim) < 8 or not on_a_circle(stray, radius):
            continue
        beside = centre + (rim - centre) * (1 + 0.05 / radius)
        start = np.c_[beside, np.full(len(rim), under.low + here.rays.step)]
        deep = float(here.rays.distances(start, UP).min())
        return _Hole(centre, radius, shapely.Polygon(plan.exterior), under.low, deep)
    return None


def same_region(a: Overhang, b: Overhang) -> bool:
    """Whether two walks tell of the same region: its kind, and its place within ``reach_of`` it."""
    return a.kind == b.kind and float(np.linalg.norm(a.centre - b.centre)) <= max(reach_of(a), reach_of(b))


def reach_of(region: Overhang | Zone) -> float:
    """mm from the middle of a region, or of a wall, within which another look's is the same one."""
    return max(1.0, float(np.sqrt(region.area)) / 3)
