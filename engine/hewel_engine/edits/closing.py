"""Stepped closing: a wide level ceiling laid over many layers, each bridging only a short way. Lengths mm."""

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool, plane_below, skin
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.plans import sides
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

BULGES = 0.995
"""Least share of its convex hull that an opening fills: chords across a hollow in its outline would hang."""
CHORD = 0.9
"""Share of a clean bridge that a chord spans, so that its ends lie well on the layer below."""
MOST_LAYERS = 120
SHIFTS = 16
"""Places along the outline at which the first chord is tried to begin; the one that closes most is taken."""


def stepped_closing(under: Underside, rays: RayScene, process: Process, chord: float | None = None) -> Tool:
    """Lays the ceiling ``under`` chord by chord: each layer cuts the corners that the opening below it has, with chords
    of ``chord`` mm at most (somewhat less than a clean bridge), until a clean bridge closes what is left.

    A chord c over a corner of turning θ takes c²/4·tan(θ/2) off the opening at most (both its sides alike): c² over the
    four corners of a rectangle, near c²·π/4 where the outline is round. Raises Impossible where the stock is too low.
    """
    h = process.layer
    if under.high - under.low > h / 2:
        raise Impossible("Only a level ceiling can be closed in steps; this one is not.")
    plan = under.plan
    if plan.geom_type != "Polygon" or plan.interiors or plan.area < BULGES * plan.convex_hull.area:
        raise Impossible("Its outline is hollow somewhere: chords across that would hang.")
    if len(under.free):
        raise Impossible("It is open at a side, so chords would have no end to lie on.")
    chord = CHORD * process.clean_bridge if chord is None else chord
    if chord > process.rough_bridge:
        raise Impossible(f"A chord of {chord:.1f} mm would hang; bridges end at {process.rough_bridge:.1f} mm.")
    openings = _openings(plan, chord, process.clean_bridge)
    stock = float(under.stock(rays).min())
    first = plane_below(under.low, h) + h
    rise = first - under.low + (len(openings) - 1) * h
    if rise + skin(process) > stock:
        raise Impossible(
            f"Closed in {len(openings)} steps it rises {rise:.2f} mm; {stock:.2f} mm stand above it and "
            f"{skin(process):.2f} mm of them must be left."
        )
    carved, floor = Manifold(), under.low
    for number, opening in enumerate(openings):
        ceiling = first + number * h
        carved += prism(opening, floor - OVERLAP, ceiling)
        floor = ceiling
    words = (
        f"Close the ceiling in {len(openings)} steps of a layer, {h:.2f} mm: each cuts the corners of the opening with "
        f"chords of at most {chord:.1f} mm, lying on the layer below. It rises {rise:.2f} mm."
    )
    numbers = {"steps": float(len(openings)), "rise_mm": rise}
    return Tool("stepped_closing", words, numbers, remove=carved, used={"chord_mm": chord})


def _openings(plan: shapely.Polygon, chord: float, clean: float) -> list[shapely.Polygon]:
    """What each layer leaves open, from the first on; over the last a clean bridge closes."""
    opening = shapely.orient_polygons(plan.convex_hull)
    out: list[shapely.Polygon] = []
    for _ in range(MOST_LAYERS):
        tried = [_cut(opening, chord, (i + 0.5) / SHIFTS) for i in range(SHIFTS)]
        opening = min(tried, key=lambda left: round(left.area, 6))
        out.append(opening)
        if sides(opening)[0] <= clean:
            return out
    raise Impossible(f"Even {MOST_LAYERS} steps would not close it.")


def _cut(opening: shapely.Polygon, chord: float, shift: float) -> shapely.Polygon:
    """The opening with its corners cut by chords between points that lie ``chord`` apart along its outline at most."""
    ring = opening.exterior
    count = max(4, int(np.ceil(ring.length / chord)))
    at = (np.arange(count) + shift) / count
    return shapely.Polygon(shapely.get_coordinates(shapely.line_interpolate_point(ring, at, normalized=True)))
