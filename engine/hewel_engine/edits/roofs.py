"""What is carved above a ceiling: roofs, pointed arches, corner chamfers. Lengths mm."""

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold

from hewel_engine.edits.exact import Shape, cylinder, flats_of
from hewel_engine.edits.fans import OVERLAP, column, fan, skirt, slope
from hewel_engine.edits.tools import Impossible, Tool, kept
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.features import fit_circle, on_a_circle
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import enclosed
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

CORNER = 2.2
"""A chamfer's tool is this much higher than the chamfer: at a corner the edge lies further off, twice at most."""
MOST_CORNERS = 24
"""Of an outline that is straight edges and no curve."""
NAMES = {"roof": "roof", "pointed_arch": "pointed arch", "corner_chamfers": "pair of corner chamfers"}


def roof(
    under: Underside, rays: RayScene, process: Process, key: str = "roof", flat: float = 0.0, share: float = 0.0
) -> Tool:
    """Removes what lies below z = z_e + d/tan α, d the distance to the edge (at height z_e) that holds the ceiling, up
    to where a strip ``flat`` mm wide is left, or a skin of the stock above, ``share`` of it at least.

    Raises Impossible where the strip left would be more than a clean bridge.
    """
    held = under.held
    if flat > process.clean_bridge + 1e-6:
        raise Impossible(
            f"A flat of {flat:.1f} mm is more than a clean bridge of {process.clean_bridge:.1f} mm: it would sag."
        )
    if len(held) == 0:
        raise Impossible("No wall holds this ceiling, so a roof has nothing to start from.")
    lean = slope(process.limit)
    away, edge = under.nearest(held)
    surface, plane = under.spots[:, 2], edge + away / lean
    apex = float(plane.max())
    stock = under.stock(rays)
    most = surface + stock - kept(stock, share, process)
    wanted = apex - flat / 2 / lean
    cap = min([wanted, *most[np.minimum(plane, wanted) > most]])
    left = max(2 * (apex - cap) * lean, 0.0)
    if float((np.minimum(plane, wanted) - surface).max()) < process.layer:
        raise Impossible("It bridges no further than the flat that would be left.")
    rise = float((np.minimum(plane, cap) - surface).max())
    if rise < process.layer:
        full = float((plane - surface).max())
        raise Impossible(
            f"A roof would cut too deep into the wall above: {float(stock.min()):.2f} mm are there, a full roof "
            f"rises {full:.2f} mm."
        )
    if cap < wanted - 1e-9 and left > process.clean_bridge + 1e-6:
        raise Impossible(
            f"The {float(stock.min()):.2f} mm above let the roof rise {rise:.2f} mm only, and a flat of {left:.1f} mm "
            f"would be left; clean bridges end at {process.clean_bridge:.1f} mm."
        )
    top = cap if cap < apex - 1e-9 else apex + under.high - under.low + OVERLAP
    room = column(under.mesh.vertices, under.faces, max(top, under.high + OVERLAP), -OVERLAP)
    free = under.free
    room += skirt(free, float(under.low) - OVERLAP, top, under.way_out(of_held=False))
    if top < under.high + OVERLAP:
        room = room.trim_by_plane((0, 0, -1), -top)
    keep = fan(held, max(top, under.high) - float(held[:, :, 2].min()) + 2 * OVERLAP, process.limit, up=True)
    numbers = {"rise_mm": rise, "left_mm": left if cap < apex - 1e-9 else 0.0}
    words = f"Turn the ceiling into a {NAMES[key]}: it rises {rise:.2f} mm at {process.limit:.0f}°"
    words += f" and leaves a flat of {numbers['left_mm']:.2f} mm." if numbers["left_mm"] else "."
    return Tool(key, words, numbers, remove=room - keep, used={"flat_mm": numbers["left_mm"]})


def pointed_arch(under: Underside, rays: RayScene, process: Process, flat: float = 0.0, share: float = 0.0) -> Tool:
    """Two planes at the limit from both held edges: rise = span/(2·tan α)."""
    return roof(under, rays, process, "pointed_arch", flat, share)


def corner_chamfers(
    under: Underside, rays: RayScene, process: Process, flat: float | None = None, share: float = 0.0
) -> Tool:
    """Chamfers at the held edges that leave ``flat`` mm between them, a clean bridge where none is given."""
    return roof(under, rays, process, "corner_chamfers", process.clean_bridge if flat is None else flat, share)


def foot_chamfer(outline: Array, process: Process, inward: float = 0.4) -> Tool:
    """A chamfer along the part's outline on the plate, so that the first layer's bulge stays inside the part.

    ``outline``: closed loops (n, 2) of the contact, material on the left.
    """
    plan = enclosed(outline)
    kept = plan.offset(-inward, JoinType.Miter, 2.0)
    if kept.is_empty() or kept.area() < 0.5 * plan.area():
        raise Impossible(f"The foot is too narrow for a chamfer of {inward:.2f} mm: little of it would be left.")
    lean = slope(process.limit)
    high = inward / lean
    ring: CrossSection = plan.offset(OVERLAP, JoinType.Miter, 2.0) - kept
    top = CORNER * high
    room = Manifold.extrude(ring, top + OVERLAP).translate((0, 0, -OVERLAP))
    loops = [np.c_[loop, np.zeros(len(loop))] for loop in kept.to_polygons()]
    curve = np.concatenate([np.stack([loop, np.roll(loop, -1, axis=0)], axis=1) for loop in loops])
    words = f"Chamfer the edges on the plate: {inward:.2f} mm inward, {high:.2f} mm high."
    tool = room - fan(curve, top + OVERLAP, process.limit, up=True)
    numbers = {"inward_mm": inward, "height_mm": high}
    return Tool("foot_chamfer", words, numbers, remove=tool, used={"inward_mm": inward},
                removes=_exact_chamfers(plan, inward, high))  # fmt: skip


def _exact_chamfers(plan: CrossSection, inward: float, high: float) -> list[Shape] | None:
    """A wedge along each edge of outlines with straight edges that turn one way, a cone in each round hole; None where
    an outline is another.
    """
    out: list[Shape] = []
    lean = inward / high
    for loop in plan.simplify(1e-4).to_polygons():
        along = np.roll(loop, -1, axis=0) - loop
        turns = along[:, 0] * np.roll(along, -1, axis=0)[:, 1] - along[:, 1] * np.roll(along, -1, axis=0)[:, 0]
        centre, radius, stray = fit_circle(loop)
        if len(loop) >= 8 and on_a_circle(stray, radius) and (turns < 0).all():
            wide = radius + inward + OVERLAP * lean
            out.append(cylinder(centre, -OVERLAP, high, wide, radius))
        elif len(loop) <= MOST_CORNERS and (turns > 0).all():
            for start, way in zip(loop, along, strict=True):
                ahead = way / np.linalg.norm(way)
                ends = np.array([start - OVERLAP * ahead, start + way + OVERLAP * ahead])
                into = np.array([-ahead[1], ahead[0]])
                foot, far = ends - OVERLAP * into, ends + (inward + OVERLAP * lean) * into
                top = np.c_[foot, np.full(2, high + OVERLAP / lean)]
                wedge = np.concatenate([np.c_[foot, [-OVERLAP] * 2], np.c_[far, [-OVERLAP] * 2], top])
                out += flats_of(Manifold.hull_points(wedge))
        else:
            return None
    return out
