"""A level plate printed beforehand and dropped in at a pause, so that nothing has to bridge the void. Lengths mm."""

from dataclasses import dataclass, field

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.exact import Edit, Made, flats_of
from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, drawn, skin
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.plans import as_polygons, enclosing
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process, layers_of

THICKNESS = 2.0
"""mm of a plate where the stock above allows it."""
LEAST_LAYERS = 3
"""Of a plate that can be handled."""
SEATS = (2.0, 1.6, 1.2, 0.8)
"""mm of wall that the plate lies on, the widest that fits first; the least is about two lines."""
COLD = "The layer over the plate is laid on a cold piece: how well it holds has no number yet. Print one and break it."


@dataclass(frozen=True, eq=False)
class Embedded:
    """The ``body`` to be printed with a pause and the ``plate`` where it lies, in the frame of the standing part;
    heights above the plate of the machine.
    """

    body: Manifold
    plate: Manifold
    pause: float
    layer: int
    """How many layers are printed before the pause."""
    seat_height: float
    numbers: dict[str, float]
    words: str
    warnings: list[str] = field(default_factory=list)
    made: tuple[Made, ...] = ()
    """How body and plate are made exactly."""


def embed(
    under: Underside,
    solid: Manifold,
    rays: RayScene,
    process: Process,
    clearance: float,
    thickness: float | None = None,
    seat: float | None = None,
) -> Embedded:
    """A plate under the level ceiling ``under`` of a void, on a seat all round, with one tab off its middle so that it
    goes in one way; ``clearance`` mm beside it. Pause height = ceil((seat height + thickness)/h)·h.

    Raises Impossible where the ceiling is not level or not closed round, or where the wall or the stock above is thin.
    """
    h, least = process.layer, skin(process)
    if under.high - under.low > h / 2:
        raise Impossible("Only a level ceiling can be carried by a plate; this one is not level.")
    if len(under.free):
        raise Impossible("The void is open at a side, so a plate has no seat all round.")
    plan = under.plan
    if plan.geom_type != "Polygon" or plan.interiors:
        raise Impossible("Something stands up into the void there, so a plate cannot be dropped in.")
    stock = float(under.stock(rays).min())
    low = drawn(under.low, h)
    most = under.low + stock - low - least
    if thickness is None:
        thickness = float(np.floor(min(THICKNESS, most) / h + 1e-9) * h)
    if thickness < LEAST_LAYERS * h - 1e-9 or thickness > most + 1e-9:
        raise Impossible(
            f"{stock:.2f} mm stand above the void: a plate of at least {LEAST_LAYERS * h:.2f} mm and {least:.2f} mm "
            "over it do not fit."
        )
    layer = layers_of(low + thickness, h)
    pause = layer * h
    room = _room(solid, low, pause)
    for wide in SEATS if seat is None else (seat,):
        recess = _keyed(plan, wide)
        if room.buffer(-least).contains(recess):
            break
    else:
        wall = float(plan.exterior.distance(room.boundary))
        raise Impossible(
            f"The wall beside the void is {wall:.2f} mm thick: a seat of {wide:.1f} mm, its tab and {least:.2f} mm of "
            "wall outside do not fit."
        )
    lying = recess.buffer(-clearance, join_style="mitre")
    if lying.is_empty or not lying.buffer(clearance + 1e-3, join_style="mitre").contains(plan):
        raise Impossible(f"With {clearance:.2f} mm beside it the plate would fall through its seat.")
    cut = prism(recess, low, pause)
    if low > under.low + 1e-6:
        cut += prism(plan, under.low - OVERLAP, low + OVERLAP)
    plate = prism(lying, low, low + thickness)
    words = (
        f"Print the plate beforehand, {thickness:.2f} mm thick. Pause after layer {layer}, {pause:.2f} mm up; lay the "
        f"plate on its seat {low:.2f} mm up, its tab in the notch, nothing proud of the layer; print on."
    )
    numbers = {"pause_mm": pause, "seat_mm": wide, "thickness_mm": thickness, "clearance_mm": clearance}
    body = solid - cut
    seat_cut = Edit("seat of the plate", body.volume() - solid.volume(), removes=flats_of(cut))
    made = Made([seat_cut]), Made([Edit("plate", plate.volume(), adds=flats_of(plate))], of_part=False)
    return Embedded(body, plate, pause, layer, low, numbers, words, [COLD], made)


def _room(solid: Manifold, low: float, high: float) -> shapely.Polygon:
    """What the part encloses at all heights of the plate."""
    room = None
    for height in np.linspace(low, high, 5)[1:-1]:
        plan = as_polygons(solid.slice(float(height)))
        outer = enclosing(plan)
        room = outer if room is None else room.intersection(outer)
    return room


def _keyed(plan: shapely.Polygon, seat: float) -> shapely.Polygon:
    """The plan with its seat round it and a tab off the middle of its longest side."""
    ring = np.array(shapely.orient_polygons(plan.simplify(1e-3)).exterior.coords)
    along = np.diff(ring, axis=0)
    size = np.linalg.norm(along, axis=1)
    i = int(np.round(size, 6).argmax())
    way = along[i] / size[i]
    out = np.array([way[1], -way[0]])
    wide = min(max(4.0, 4 * seat), 0.3 * size[i])
    start = ring[i] + way * (0.3 * size[i] - wide / 2)
    tab = shapely.Polygon([start, start + wide * way, start + wide * way + 2 * seat * out, start + 2 * seat * out])
    return plan.buffer(seat, join_style="mitre").union(tab).simplify(1e-4)
