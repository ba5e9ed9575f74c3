"""For every region that hangs, the remedies that fit it, in the order in which they are tried."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import shapely
import shapely.affinity

from hewel_engine.advice.combs import Comb
from hewel_engine.advice.placed_part import UP, PlacedPart
from hewel_engine.advice.protected import Clear
from hewel_engine.edits.blocks import block
from hewel_engine.edits.bores import membrane, stepped_bridging, teardrop
from hewel_engine.edits.closing import stepped_closing
from hewel_engine.edits.fans import slope
from hewel_engine.edits.feet import filled_round
from hewel_engine.edits.gussets import gusset, pillar, post, round_chamfer
from hewel_engine.edits.parameters import LEAN, leaning
from hewel_engine.edits.remedies import BY_KEY
from hewel_engine.edits.roofs import corner_chamfers, pointed_arch, roof
from hewel_engine.edits.tools import WALL_KEPT, Impossible, Tool
from hewel_engine.edits.undersides import Underside
from hewel_engine.edits.webs import below, fins, least_fin, least_web, webs
from hewel_engine.geometry.features import fit_circle, on_a_circle
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.overhangs.truth import Overhang
from hewel_engine.processes import Process

GENTLE = {
    "island": ("sprue", "fins", "pillar"),
    "bore_roof": ("capped_teardrop", "teardrop"),
    "bed_round": ("round_chamfer", "fins", "wide fins", "gusset"),
    "bridge": ("stepped_bridging", "corner_chamfers", "stepped_closing", "small gusset", "fins", "wide fins",
               "pointed_arch", "gusset", "block"),
    "ledge": ("stepped_bridging", "small gusset", "webs", "wide webs", "fins", "wide fins", "roof", "gusset", "pillar",
              "block"),
    "slope": ("small gusset", "webs", "wide webs", "fins", "wide fins", "roof", "gusset", "pillar"),
}  # fmt: skip
"""What is tried for a region of each kind, the one that changes the part least first."""
FULL = {
    "island": ("sprue", "pillar"),
    "bore_roof": ("teardrop",),
    "bed_round": ("round_chamfer", "gusset"),
    "bridge": ("stepped_bridging", "pointed_arch", "corner_chamfers", "stepped_closing", "block"),
    "ledge": ("stepped_bridging", "gusset", "roof", "pillar", "block"),
    "slope": ("gusset", "roof", "pillar"),
}
"""The same where every region gets its full remedy, the one that keeps most of its function first."""
SMALL, SMALL_SHARE = "small ", 0.02
"""A remedy that is tried early where it changes no more than this share of the part, and again in its own place."""
WIDE = "wide "
"""Thin walls as far apart as bridges are printed at all, instead of a clean bridge."""
WORTH_A_COMB = 30.0
"""mm² of a region from which on several thin walls are worth their while."""
APEX_LINES = 2.0
"""Lines of radius that a gentle teardrop has where its planes meet."""
SLIM = 0.5
"""Share of a whole gusset that webs in its place may fill."""
HOLDS_ITSELF = 0.9
"""Share of what a ledge may reach out by itself, less a layer's step, that is left to it beside a gusset."""
ROUGH = 0.98
"""Share of the longest bridge at all that thin walls stand apart at most."""
ASKED_FOR = {"bridge": ("membrane",), "ledge": ("membrane",), "bed_round": ("filled_round",)}
"""Remedies that are never proposed, only done when named."""


@dataclass(frozen=True)
class _Hole:
    """A round hole in a level ceiling at height ``low`` over an ``opening``; ``deep`` mm of it stand above."""

    centre: Array
    radius: float
    opening: shapely.Polygon
    low: float
    deep: float


def variants(key: str) -> tuple[str, ...]:
    """The names under which a remedy is tried."""
    return (key, SMALL + key, WIDE + key)


@dataclass(frozen=True, eq=False)
class Way:
    """One way of remedying a region. ``name`` tells it from the others; ``most`` share of the part that it may change
    for it to be taken so early.
    """

    key: str
    name: str
    make: Callable[[], Tool]
    most: float = np.inf


def ways_for(
    placed: PlacedPart, region: Overhang, clear: Clear, full: bool, keys: tuple[str, ...] | None = None,
    supports: bool = True, given: dict[str, float] | None = None,
) -> Iterator[Way]:  # fmt: skip
    """The ways of remedying a region, in order; with ``keys`` only those, and none that is a support where ``supports``
    are not wanted. ``given``: numbers that a person set, checked before. Making one may raise Impossible.
    """
    hole = _hole_in(placed, region)
    table = FULL if full else GENTLE
    wanted = [*table[region.kind], *(ASKED_FOR.get(region.kind, ()) if keys else ())]
    if keys:
        everything = dict.fromkeys(k for k in (*wanted, *GENTLE[region.kind], *FULL[region.kind]) if SMALL not in k)
        wanted = [k for k in everything if k.removeprefix(WIDE) in keys]
    for name in wanted:
        key = name.removeprefix(SMALL).removeprefix(WIDE)
        if BY_KEY[key].thin and region.area < WORTH_A_COMB and not keys:
            continue
        if (BY_KEY[key].support and not supports) or (key == "stepped_bridging" and hole is None and not keys):
            continue
        most = SMALL_SHARE if name.startswith(SMALL) else np.inf
        wide = name.startswith(WIDE)
        make = lambda key=key, wide=wide: _made(_Ask(key, placed, region, hole, clear, full, given or {}, wide))
        yield Way(key, name, make, most)


@dataclass(frozen=True, eq=False)
class _Ask:
    """What one remedy is asked for."""

    key: str
    placed: PlacedPart
    region: Overhang
    hole: _Hole | None
    clear: Clear
    full: bool
    given: dict[str, float]
    wide: bool = False

    @property
    def share(self) -> float:
        """Of a wall, that is left of it."""
        return 0.0 if self.full else WALL_KEPT


def _made(ask: _Ask) -> Tool:
    process, numbers = leaning(ask.placed.process, ask.given)
    tool = MAKERS[ask.key](ask, process, numbers)
    return replace(tool, used={LEAN.name: process.limit} | tool.used) if LEAN in BY_KEY[ask.key].parameters else tool


Numbers = dict[str, float]
"""What a person set, by name without unit."""


def _teardrop(ask: _Ask, process: Process, numbers: Numbers) -> Tool:
    if ask.key == "teardrop" and not ask.full and "cap" not in numbers:
        numbers = {"apex_radius": APEX_LINES * process.width} | numbers
    placed, bore, full = ask.placed, ask.placed.bores[ask.region.bore], ask.key == "teardrop"
    return teardrop(bore, placed.mesh, placed.rays, process, **numbers, share=ask.share, full=full)


def _sprue(ask: _Ask, process: Process, numbers: Numbers) -> Tool:
    return post(*_first_layer(ask.placed, ask.region), ask.placed.rays, process, **numbers)


def _hole(ask: _Ask) -> _Hole:
    if ask.hole is None:
        raise Impossible("It is no level ceiling with one upright hole in it.")
    return ask.hole


def _membrane(ask: _Ask, process: Process, numbers: Numbers) -> Tool:
    hole = _hole(ask)
    return membrane(hole.centre, hole.low, hole.radius, hole.opening, process, **numbers)


def _stepped_bridging(ask: _Ask, process: Process, numbers: Numbers) -> Tool:
    hole = _hole(ask)
    return stepped_bridging(hole.centre, hole.low, hole.radius, hole.opening, hole.deep, process, **numbers)


def _under(make: Callable[[_Ask, Underside, Process, Numbers], Tool]) -> Callable[[_Ask, Process, Numbers], Tool]:
    """A maker for a region of one for each piece of its surface."""

    def made(ask: _Ask, process: Process, numbers: Numbers) -> Tool:
        pieces = ask.placed.undersides(ask.region)
        if not pieces:
            raise Impossible("It has no surface of its own that could be changed.")
        return _one([make(ask, piece, process, numbers) for piece in pieces])

    return made


def _gusset(ask: _Ask, piece: Underside, process: Process, numbers: Numbers) -> Tool:
    return gusset(piece, process, **({"flat": 0.0 if ask.full else holds_itself(process)} | numbers))


def _block(ask: _Ask, piece: Underside, process: Process, numbers: Numbers) -> Tool:
    return block(piece, ask.placed.solid, ask.placed.rays, process, **numbers)


def _carved(make: Callable[..., Tool]) -> Callable[[_Ask, Underside, Process, Numbers], Tool]:
    """What takes away above a piece, as long as enough of a wall is left."""
    return lambda ask, piece, process, numbers: make(piece, ask.placed.rays, process, **numbers, share=ask.share)


def _built(make: Callable[..., Tool]) -> Callable[[_Ask, Underside, Process, Numbers], Tool]:
    return lambda ask, piece, process, numbers: make(piece, ask.placed.rays, process, **numbers)


def _rounded(make: Callable[..., Tool]) -> Callable[[_Ask, Underside, Process, Numbers], Tool]:
    return lambda ask, piece, process, numbers: make(piece, process)


def holds_itself(process: Process) -> float:
    """mm of a ledge that a gentle gusset leaves to hold itself: the layer below it falls up to a step short."""
    return max(HOLDS_ITSELF * (process.held_out - process.layer * slope(process.limit)), 0.0)


def _comb(ask: _Ask, piece: Underside, process: Process, numbers: Numbers) -> Tool:
    """Webs or fins a clean bridge apart, or as far apart as bridges are printed at all."""
    webbed = ask.key == "webs"
    thick = numbers.get("thickness", least_web(process) if webbed else least_fin(piece, process))
    pitch = numbers.get("pitch", ROUGH * process.rough_bridge if ask.wide else process.clean_bridge)
    whole = gusset(piece, process).add if webbed else below(piece)  # webs go on to the free edge: they part it too
    barred = ask.clear.barred(whole, removed=not webbed)
    comb = Comb.under(piece, barred, process, pitch, thick, thick if webbed else process.width, rooted=webbed)
    lines = comb.lines()
    if lines is None:
        raise Impossible(f"No thin walls part it into strips that bridge {pitch:.0f} mm.")
    if webbed:
        tool = webs(whole, lines, process, thick)
        if not ask.given and tool.add.volume() > SLIM * whole.volume():
            raise Impossible("It is so narrow that webs would fill as much as a gusset.")
    else:
        tool = fins(piece, lines, ask.placed.solid, ask.placed.rays, process, thick)
    return replace(tool, used={**tool.used, "pitch_mm": float(pitch)})


MAKERS: dict[str, Callable[[_Ask, Process, Numbers], Tool]] = {
    "teardrop": _teardrop,
    "capped_teardrop": _teardrop,
    "sprue": _sprue,
    "membrane": _membrane,
    "stepped_bridging": _stepped_bridging,
    "webs": _under(_comb),
    "fins": _under(_comb),
    "block": _under(_block),
    "gusset": _under(_gusset),
    "roof": _under(_carved(roof)),
    "pointed_arch": _under(_carved(pointed_arch)),
    "corner_chamfers": _under(_carved(corner_chamfers)),
    "pillar": _under(_built(pillar)),
    "stepped_closing": _under(_built(stepped_closing)),
    "round_chamfer": _under(_rounded(round_chamfer)),
    "filled_round": _under(_rounded(filled_round)),
}
"""Of every remedy for a region what makes it."""


def _one(made: list[Tool]) -> Tool:
    """Several tools for the pieces of one region as one, told by the largest."""
    largest = max(made, key=lambda t: t.add.volume() + t.remove.volume())
    add, remove = made[0].add, made[0].remove
    for tool in made[1:]:
        add, remove = add + tool.add, remove + tool.remove
    return replace(largest, add=add, remove=remove)


def _first_layer(placed: PlacedPart, region: Overhang) -> tuple[Array, shapely.Polygon]:
    """Where a region that begins in mid-air begins, and what of it the first layer draws."""
    stack = placed.stack
    k = min(max(int(np.ceil(region.low / stack.pitch - 0.5 + 1e-9)), 0), stack.count - 1)
    drawn = as_polygons(stack.plan(k))
    here_ = shapely.Point(region.centre[:2] - placed.middle)
    parts = list(drawn.geoms) if hasattr(drawn, "geoms") else [drawn]
    plan = shapely.affinity.translate(min(parts, key=here_.distance), *placed.middle)
    spot = plan.representative_point()
    return np.array([spot.x, spot.y, region.low]), plan


def _hole_in(placed: PlacedPart, region: Overhang) -> _Hole | None:
    for under in placed.undersides(region):
        plan = under.plan
        if under.high - under.low > 1e-3 or plan.geom_type != "Polygon" or len(plan.interiors) != 1:
            continue
        rim = np.array(plan.interiors[0].coords[:-1])
        centre, radius, stray = fit_circle(rim)
        if len(rim) < 8 or not on_a_circle(stray, radius):
            continue
        beside = centre + (rim - centre) * (1 + 0.05 / radius)
        start = np.c_[beside, np.full(len(rim), under.low + placed.rays.step)]
        deep = float(placed.rays.distances(start, UP).min())
        return _Hole(centre, radius, shapely.Polygon(plan.exterior), under.low, deep)
    return None
