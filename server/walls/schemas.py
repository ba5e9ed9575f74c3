"""Words of the walls' API. Lengths mm, areas mm², masses g, times s."""

from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from stages.schemas import ResultOut


class BetterOut(Schema):
    """A thickness of whole lines next to a zone's, and what it costs to make the zone so."""

    mm: float
    grams: float
    seconds: float
    holds: list[float] = []
    """Factors, least and greatest, by which the reserve of the wall itself changes: stretched or bent."""
    advised: bool


class LiesOut(Schema):
    """How a flat wall lies: unit vectors along its longer side and normal to it, part frame."""

    along: list[float]
    normal: list[float]
    long_mm: float
    short_mm: float


class PlaceOut(Schema):
    """What wants sizing beside the walls. A boss on infill: its width, height, the share of its foot over infill, the
    N that pull it out and those that its weld would carry. A hole: its diameter, the wall round it, the wall a screw
    wants. A sharp internal corner: its length and turn. A body that could be a shell: the wall, what lies inside,
    what that weighs as it is filled, by how much a shell is heavier, its roof left aside, and the same for so many
    perimeters round a share of infill that just carries what is on top.
    """

    kind: Literal["boss", "bore", "corner", "body"]
    key: str
    centre_mm: list[float]
    size_mm: float
    height_mm: float | None = None
    share: float | None = None
    pull_n: float | None = None
    weld_n: float | None = None
    wall_mm: float | None = None
    wanted_mm: float | None = None
    turn_deg: float | None = None
    inside_mm3: float | None = None
    grams: float | None = None
    gained_g: float | None = None
    perimeters: int | None = None
    infill: float | None = None
    filled_g: float | None = None


class ZoneOut(Schema):
    """A wall, both faces; area of one."""

    kind: Literal["vanishing", "single_line", "gap", "sound", "heavy"]
    thickness_mm: float
    least_mm: float
    most_mm: float
    area_mm2: float
    centre_mm: list[float]
    lies: LiesOut | None = None
    wide: bool = True
    """Whether it is a wall, with two large faces; else a bar or a block."""
    layers: int | None = None
    """Of a plate that lies on its face: the layers it is built of."""
    better: list[BetterOut]
    because: Literal["bar", "loads", "beside", "carries", "weak"] | None = None
    """Why nothing thinner is advised."""
    reserve: float | None = None
    """Least in the wall, under the written loads; coarse."""


class HistogramOut(Schema):
    edges_mm: list[float]
    area_mm2: list[float]


class CombOut(Schema):
    """The widths of whole lines, and the bands between them in which a slit is left."""

    widths_mm: list[float]
    gaps_mm: list[list[float]]
    least_mm: float
    """Below it nothing is drawn."""
    double_mm: float
    """From here on two lines find room."""
    heavy_mm: float
    """From here on the middle is sparse infill."""


class DrawnLayersOut(Schema):
    """What the nozzle leaves in every layer, from the plate up: slits between lines, and places where no line fits."""

    layer_mm: float
    slit_mm2: list[float]
    bare_mm2: list[float]
    worst_layer: int


class HeadlineOut(Schema):
    """One phrase of what the list of walls comes to; ``grave``: a wall fails there."""

    words: str
    grave: bool


class WallAnalysisOut(ResultOut):
    id: UUID
    done: bool
    headline: list[HeadlineOut]
    view: str | None
    process: dict
    min_thickness_mm: float | None
    min_at_mm: list[float] | None
    histogram: HistogramOut | None
    zones: list[ZoneOut]
    untold: int
    """Zones too small to be told beside these."""
    lump_area_mm2: float | None
    """Surface over what is no wall."""
    comb: CombOut | None
    places: list[PlaceOut]
    up: list[float] | None
    """The direction that the layers and the bosses rest on."""
    layers: DrawnLayersOut | None


class LinesOut(Schema):
    """One layer as it is drawn: loops of x, y, x, y … mm; ``lines`` from the outermost perimeter in, ``core``
    what is infill.
    """

    box_mm: list[float]
    outline: list[list[float]]
    lines: list[list[list[float]]]
    core: list[list[float]]
    slits: list[list[float]]
    bare: list[list[float]]
    slit_mm2: float
    bare_mm2: float
    width_mm: float
    inner_mm: float


Mm = Annotated[float, Field(ge=0.001, le=10_000)]


class SizeIn(Schema):
    """An arm held at one end, a panel held at two sides, or a boss round a hole, under a load in N."""

    kind: Literal["arm", "panel", "boss"]
    load_n: Annotated[float, Field(ge=0.001, le=1e7)]
    factor: Annotated[float, Field(ge=1, le=20)]
    """Required factor on strength."""
    span_mm: Mm = 50
    width_mm: Mm = 10
    thickness_mm: Mm = 2
    sag_mm: Mm | None = None
    along: Annotated[list[float], Field(min_length=3, max_length=3)] = [1, 0, 0]
    """The way the span runs, part frame."""
    normal: Annotated[list[float], Field(min_length=3, max_length=3)] | None = None
    """Of the face that is pulled: where it lies level, it is a skin of crosswise lines."""
    hole_mm: Annotated[float, Field(ge=0, le=1000)] = 0


class SizedOut(Schema):
    """One way of making it. ``reserve`` has the required factor in it: 1 is enough."""

    words: str
    size_mm: float
    stress_mpa: float
    reserve: float
    gives_mm: float
    governs: Literal["strength", "stiffness", "given"]
    grams: float
    seconds: float


class WaysOut(Schema):
    """As it is, of lines alone, a thin plate with ribs, a block of perimeters and infill; null: none carries it."""

    as_it_is: SizedOut | None
    lines: SizedOut | None
    ribs: SizedOut | None
    block: SizedOut | None


class BentOut(Schema):
    allowed_mpa: float
    stiffness_mpa: float
    mode: str
    lean_deg: float
    """Between span and layers: 0 along them, 90 across them."""
    most_load_n: float
    most_ends: Literal["strength", "stiffness"]
    rib_pitch_mm: float | None
    """At which the panel between two ribs gives the sag by itself."""
    rib_mm: float
    """Thickness of plate and ribs of a ribbed one, and how far apart the ribs stand."""
    ribs_apart_mm: float
    ways: WaysOut


class BossOut(Schema):
    allowed_mpa: float
    outside_mm: float
    carries_n: float
    wall_mm: float
    engagement_mm: float
    """Depth of a screw cut in plastic: two diameters."""


class SizeOut(Schema):
    bent: BentOut | None
    boss: BossOut | None


class WallsOut(Schema):
    analysis: WallAnalysisOut | None
