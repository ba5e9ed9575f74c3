"""A feature cut off to be printed by itself, joined again by a tenon in a pocket. Lengths mm, areas mm²."""

from dataclasses import dataclass, field

import numpy as np
import shapely
import shapely.affinity
from manifold3d import Manifold, OpType

from hewel_engine.edits.exact import Edit, Made, box_beyond, flats_of
from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, skin
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons, largest
from hewel_engine.processes import Process

SHOULDER = 1.0
"""mm by which the feature stands out round its tenon at least."""
DEPTHS = (12.0, 4.0)
"""mm: the most and the least that a tenon reaches in."""
END_GAP = 0.3
"""mm of air at a tenon's end, so that the shoulder closes."""
LEAD = 0.4
"""mm by which the tenon's end is drawn in."""
HAIR = 2e-3
"""mm beyond the plane at which is cut, for it may lie in a face of the body."""
LEAST_WIDTH = 3.0
"""mm that a tenon is thick at least."""


@dataclass(frozen=True, eq=False)
class Separated:
    """``body`` with the pocket and ``feature`` with the tenon, where they sit when joined."""

    body: Manifold
    feature: Manifold
    numbers: dict[str, float]
    words: str
    warnings: list[str] = field(default_factory=list)
    made: list[Made] = field(default_factory=list)
    """How body and feature are made exactly; empty where another piece of the part stands beside the feature."""
    lies_on: Array | None = None
    """The way (3,) that the flat side looks which tenon and feature share; None where the feature has none."""


def separate(
    solid: Manifold, point: Array, normal: Array, process: Process, clearance: float, how: str = "glued",
    depth: float | None = None, pick: Array | None = None,
) -> Separated:  # fmt: skip
    """Cuts off what stands beyond the plane, on the side that ``normal`` looks to: the piece nearest to ``pick``, the
    smallest where none is given. ``how``: press, glued or eased, said in words; ``clearance`` mm per side.

    The joint is calculated by area: a pull along the tenon shears its sides, a moment peels shoulder and end, which
    glue does not like. Raises Impossible where feature or body are too slender.
    """
    turn = upright(normal)
    at = np.asarray(point, float) + HAIR * turn[2]
    back = np.c_[turn.T, at]
    whole = solid.transform(np.c_[turn, -turn @ at])
    parts = whole.trim_by_plane((0, 0, 1), 0.0).decompose()
    below = whole.trim_by_plane((0, 0, -1), 0.0)
    if not parts or below.is_empty():
        raise Impossible("The plane cuts nothing off the part.")
    if pick is None:
        beyond = min(parts, key=Manifold.volume)
    else:
        spot = turn @ (np.asarray(pick, float) - at)
        beyond = min(parts, key=lambda p: _away(p, spot))
    foot = largest(as_polygons(beyond.slice(1e-4)))
    wall = max(SHOULDER, skin(process))
    tenon, side = _flush(largest(foot.buffer(-wall, join_style="mitre")), foot, wall)
    thick = 0.0 if tenon.is_empty else 2 * float(shapely.length(shapely.maximum_inscribed_circle(tenon)))
    if thick < LEAST_WIDTH:
        raise Impossible(
            f"The feature is too slender there: a tenon would be {thick:.1f} mm thick, the least is {LEAST_WIDTH:.0f}."
        )
    base = below + Manifold.batch_boolean([p for p in parts if p is not beyond] or [Manifold()], OpType.Add)
    for reach in [depth] if depth else [d for d in (1.5 * thick, thick, 0.7 * thick, DEPTHS[1]) if d >= DEPTHS[1]]:
        reach = float(min(reach, DEPTHS[0])) if not depth else float(depth)
        round_it = prism(tenon.buffer(clearance + wall, join_style="mitre"), -reach - END_GAP - wall, -2e-3)
        if (round_it - base).volume() < 1e-3 * round_it.volume():
            break
    else:
        raise Impossible(
            f"The body behind the cut is too thin for a pocket {reach:.1f} mm deep with {wall:.2f} mm of wall round it."
        )
    pocket = prism(tenon.buffer(clearance, join_style="mitre"), -reach - END_GAP, OVERLAP)
    peg = prism(tenon, LEAD - reach, OVERLAP)
    tip = tenon.buffer(-LEAD, join_style="mitre")
    if not tip.is_empty:
        peg += prism(tip, -reach, LEAD - reach + 1e-3)
    numbers = {
        "depth_mm": reach,
        "thickness_mm": thick,
        "clearance_mm": clearance,
        "shear_mm2": float(tenon.length * reach),
        "peel_mm2": float(foot.area),
        "root_mm2": float(tenon.area),
    }
    ways = {"press": "pressed in", "glued": "glued", "eased": "eased by hand, then glued or pressed"}
    words = (
        f"Print the feature by itself with a tenon {reach:.1f} mm long, {clearance:.2f} mm of clearance per side, "
        f"{ways[how]}. A pull along it shears {numbers['shear_mm2']:.0f} mm² of joint; a moment would peel "
        f"{numbers['peel_mm2']:.0f} mm²."
    )
    warnings = ["Keep the joint out of peel: let the load run along the tenon or press it together."]
    if how != "press":
        warnings.append("Glue and its fumes: gloves, fresh air, the maker's sheet; test a joint to breaking.")
    lies_on = None if side is None else turn.T @ np.array([*side, 0.0])
    body, feature = base - pocket, beyond + peg
    made = []
    room = box_beyond(beyond, 1.0)
    if (room ^ base.trim_by_plane((0, 0, 1), HAIR)).is_empty():
        off = Edit("feature cut off", base.volume() - whole.volume(), removes=flats_of(room))
        sunk = Edit("pocket", body.volume() - base.volume(), removes=flats_of(pocket))
        kept = Edit("feature cut off", beyond.volume() - whole.volume(), keeps=flats_of(room))
        stuck = Edit("tenon", feature.volume() - beyond.volume(), adds=flats_of(peg))
        made = [Made([e.placed(turn.T, at) for e in edits]) for edits in ((off, sunk), (kept, stuck))]
    return Separated(body.transform(back), feature.transform(back), numbers, words, warnings, made, lies_on)


def _flush(tenon: shapely.Polygon, foot: shapely.Polygon, wall: float) -> tuple[shapely.Polygon, Array | None]:
    """The tenon brought out to the longest straight side of the feature, so that the feature can be printed lying on
    it; and the way that side looks.
    """
    ring = np.array(shapely.orient_polygons(foot.simplify(1e-3)).exterior.coords)
    along = np.diff(ring, axis=0)
    size = np.linalg.norm(along, axis=1)
    i = int(np.round(size, 6).argmax())
    if tenon.is_empty or size[i] < LEAST_WIDTH or size[i] < 0.15 * foot.exterior.length:
        return tenon, None
    out = np.array([along[i][1], -along[i][0]]) / size[i]
    steps = [shapely.affinity.translate(tenon, *(share * wall * out)) for share in np.linspace(0, 1, 9)]
    return shapely.union_all(steps).intersection(foot).simplify(1e-4), out


def _away(part: Manifold, spot: Array) -> float:
    """mm from a point to a body's nearest vertex."""
    points = np.asarray(part.to_mesh64().vert_properties)[:, :3]
    return float(np.linalg.norm(points - spot, axis=1).min())
