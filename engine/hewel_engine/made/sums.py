"""What a feature bears, by the cards, as the part stands: with its layers along it or across it (handbook 8). Lengths
mm, forces N, stresses MPa, angles degrees.
"""

from dataclasses import dataclass, field
from math import ceil, pi, sqrt

import numpy as np

from hewel_engine.advice.featuring import ROUND, TWO_PLACES, round_at, usual
from hewel_engine.edits.clamps import ear_length, opening
from hewel_engine.edits.threads import Profile
from hewel_engine.fits.finish import steps_of
from hewel_engine.flexing.rims import UPRIGHT, hoop
from hewel_engine.flexing.sums import Bent, allowed_strain, flex
from hewel_engine.geometry.arms import Arm
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import Feature
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.made.kinds import BY_KIND
from hewel_engine.processes import Process
from hewel_engine.reckoning.bolts import tooth
from hewel_engine.reckoning.pins import grip, secant, spring
from hewel_engine.strength.fasteners import may_press

MARGIN = 1.05
"""By how much longer than just long enough a snap is proposed."""
FIRST_TURN = 0.35
"""Share of the force that the first turn of a thread takes (handbook 8)."""
NUT_FACTOR, SCATTER = 0.2, 0.3
SAFE = 1.5
"""Factor that a clamp holds its pull by at least."""
FRICTION = 0.3
HEAD = 2.0
"""Diameters of a screw that its head and washer bear on."""


@dataclass(frozen=True)
class Line:
    """One line of what came of the sums. ``fails``: it is what it fails by."""

    words: str
    value: float
    unit: str
    fails: bool = False


@dataclass(frozen=True)
class Made:
    """A feature as it would be: every number of it, those nobody typed as well; its sums; the least ``reserve`` among
    them (None: nothing loads it); what to say about it.
    """

    numbers: dict[str, float]
    lines: list[Line] = field(default_factory=list)
    reserve: float | None = None
    says: list[str] = field(default_factory=list)


def made_of(
    mesh: Mesh, faces: Faces, rays: RayScene, process: Process, up: Array, key: str, at: Array, normal: Array,
    end: Array | None, given: dict[str, float],
) -> Made:  # fmt: skip
    """A feature at a place (3,) on a face with that outward ``normal`` (3,), part frame, as the part stands. ``given``:
    what was typed of its numbers and of what its sums ask. Raises Impossible, or InputError ``bad_options``.
    """
    kind, found = BY_KIND[key], None
    kind.check(given)
    if key in ROUND:
        found, _ = round_at(mesh, faces, rays, at, normal)
        axis = found.axis
    else:
        axis = normal
    tilted = np.array([0.0, np.sqrt(max(1 - float(axis @ up) ** 2, 0.0)), float(axis @ up)])
    numbers = usual(key, process, found, tilted) | {p.name: given[p.name] for p in kind.sizes if p.name in given}
    if key in TWO_PLACES and end is None:
        return Made(numbers, says=["It goes from one face to another: point at the other one too."])
    asked = {p.name: given[p.name] for p in kind.asks if p.name in given}
    if key == "snap":
        return _snap(process, up, normal, numbers, asked, "length_mm" in given)
    if key in ("bead", "groove"):
        return _ring(process, up, rays, found, numbers, asked)
    if key == "thread":
        return _thread(process, up, found, numbers, asked)
    if key == "clamp":
        return _clamp(process, up, rays, found, end, numbers, asked)
    if key == "serpentine":
        return _spring(process, at, normal, end, numbers, asked)
    if key == "texture":
        return _texture(process, up, normal, numbers)
    return Made(numbers)


def _snap(process: Process, up: Array, normal: Array, n: dict, asked: dict, typed: bool) -> Made:
    """By the sums of an arm; where its length was not typed, it is as long as it has to be."""
    # In a frame whose layers are level: out of the face, and across it in the layers.
    stands = abs(float(normal @ up)) > 0.5
    along, bends = np.array([float(not stands), 0.0, float(stands)]), np.array([0.0, 1, 0])
    asks = Bent(
        None, asked.get("repeated_count", 0.0) > 0.5, n["in_deg"], n["out_deg"], asked.get("friction", Bent.friction)
    )

    def arm(length: float) -> Arm:
        thick = n["thickness_mm"]
        return Arm(np.zeros(3), along, bends, length, thick, n["end_share"] * thick, n["width_mm"], n["width_mm"],
                   n["catch_mm"], n["root_mm"], False)  # fmt: skip

    z = np.array([0.0, 0, 1])
    told = flex(arm(n["length_mm"]), asks, process, z)
    if not typed:
        n = n | {"length_mm": ceil(2 * MARGIN * n["length_mm"] / sqrt(told.reserve)) / 2}
        n["length_mm"] = max(n["length_mm"], 5 * n["thickness_mm"])
        told = flex(arm(n["length_mm"]), asks, process, z)
    fails = told.reserve < 1
    lines = [
        Line("strain at its root", 100 * told.strain * told.notch, "%", fails),
        Line("allowed as its layers lie", 100 * told.allowed, "%"),
        Line("pushed aside with", told.force, "N"),
    ]
    lines += [Line("goes in with", told.mating, "N")] if told.mating is not None else []
    lines += [Line("comes out with", told.holding, "N")] if told.holding is not None else []
    says = list(told.says)
    if told.holding is None:
        says.append("By its slope coming out it does not open by itself.")
    if fails and told.length is not None:
        says.append(f"It would hold {told.length:.1f} mm long.")
    return Made(n, lines, float(told.reserve), says)


def _ring(process: Process, up: Array, rays: RayScene, found: Feature, n: dict, asked: dict) -> Made:
    """By the card of an annular snap; the hoop crosses its lines, or its layers where the axis lies."""
    size, hub, says = found.size, asked.get("hub_mm"), []
    if hub is None and found.kind == "bore":
        out = upright(found.axis)[1]
        start = found.places[0] + (size / 2 + 4 * rays.step) * out
        hub = size + 2 * float(rays.distances(start[None], out[None])[0])
    if hub is None or not np.isfinite(hub) or hub <= size:
        return Made(n, says=["How thick its hub is is not known: type the hub's outer diameter."])
    stands = abs(float(found.axis @ up)) > UPRIGHT
    told = hoop(size, hub, n["undercut_mm"], process, stands, asked.get("friction", FRICTION),
                (n["in_deg"], n["out_deg"]), False)  # fmt: skip
    if told.thick:
        says.append("Its hub is thicker than a shell: it gives less, and goes in harder than this says.")
    if not stands:
        says.append("Its hoop crosses the layers: stand the axis upright.")
    lines = [
        Line("strain of the hub's hoop", 100 * told.strain, "%", told.reserve < 1),
        Line("allowed, " + ("across its lines" if stands else "across its layers"), 100 * told.allowed, "%"),
    ]
    lines += [Line("goes in with, at the hub's end", told.mating, "N")] if told.mating is not None else []
    return Made(n, lines, told.reserve, says)


def _thread(process: Process, up: Array, found: Feature, n: dict, asked: dict) -> Made:
    """By the card of a thread's tooth, held against what its layers bear: one that stands pulls them apart."""
    stock, size = process.stock, found.size
    bore, stands = found.kind == "bore", abs(float(found.axis @ up)) > 0.5
    deep, pitch = n["deep_mm"], n["pitch_mm"]
    outer = size + 2 * (deep + n["gap_mm"]) if bore else size - 2 * n["gap_mm"]
    core = outer - 2 * deep
    profile = Profile(pitch, deep, n["flank_deg"], n["flank_deg"])
    along = min(n.get("along_mm", np.inf), float(found.lengths[0]))
    mate = f"Its mate is a pin ⌀ {size + 2 * deep:.2f} mm" if bore else f"Its mate is a bore ⌀ {size - 2 * deep:.2f} mm"
    says = [f"{mate} with the same pitch, depth and flank."]
    lines = [Line("over its teeth", outer, "mm"), Line("turns", along / pitch, "")]
    force = asked.get("force_n", 0.0)
    if stands:
        says.append("It stands: a pull parts its layers, first at its heel. Print it lying where it carries.")
    if force <= 0:
        return Made(n, lines, None, says)
    root, wide = outer if bore else core, max(profile.root, 0.1)
    (first, bending, shear, bearing), _ = tooth(force, root, (outer + core) / 2, deep, wide, along / pitch, FIRST_TURN)
    pull = float(stock.z_t if stands else stock.x_t)
    reserves = {
        "bending of the first tooth": (bending, pull),
        "shear at its root": (shear, float(stock.z_s)),
        "pressure on its flank": (bearing, float(stock.z_c)),
    }
    if not bore:
        reserves["pull in its core"] = (force / (pi * core**2 / 4), pull)
    worst = min(limit / stress for stress, limit in reserves.values())
    lines.append(Line("on the first turn", first, "N"))
    for words, (stress, limit) in reserves.items():
        lines.append(Line(f"{words}, of {limit:.0f} MPa", stress, "MPa", stress > limit))
    return Made(n, lines, worst, says)


def _clamp(
    process: Process, up: Array, rays: RayScene, found: Feature, end: Array | None, n: dict, asked: dict
) -> Made:
    """Its window: the screw's pull that holds what it has to, and the one that its ear or the seat of its head bears;
    and what closing the slit strains its ring (a split ring opened at one place, Castigliano).
    """
    stock, axis = process.stock, found.axis
    out, wall = opening(rays, found, end)
    stands, across = abs(float(axis @ up)) > 0.5, abs(float(out @ up)) > 0.5
    screw, friction = asked.get("screw_mm", max(n["bore_mm"] - 0.5, 1.0)), asked.get("friction", FRICTION)
    long, reach = float(found.lengths[0]), ear_length(n["bore_mm"])
    mean = found.size / 2 + wall / 2
    strain = n["slit_mm"] * wall / (3 * pi * mean**2)
    allowed = float(allowed_strain(stock, 0.0 if stands else 90.0, False))
    bend = float(stock.z_t if across else stock.x_t) * long * n["ear_mm"] ** 2 / (6 * reach / 2)
    seat = pi / 4 * ((HEAD * screw) ** 2 - n["bore_mm"] ** 2) * may_press(stock, not stands)
    greatest = max(min(bend, seat), 1e-9)
    kept = float(stock.creep)
    pull = asked.get("pull_n", 0.0)
    lines = [
        Line("strain of its ring as the slit closes", 100 * strain, "%", strain > allowed),
        Line("allowed as its layers lie", 100 * allowed, "%"),
        Line("its ear bears a pull of the screw of", bend, "N", bend <= seat and pull > 0),
        Line("the seat of the screw's head bears", seat, "N"),
    ]
    torque = lambda force: force * NUT_FACTOR * screw / 1000
    lines.append(Line("so its screw is tightened with at most", torque(greatest / (1 + SCATTER)), "N·m"))
    reserve = allowed / strain
    says = [f"After months {100 * kept:.0f} % of what it is tightened with is left: tighten it again."]
    if pull > 0:
        least, now, window, possible = grip(pull, friction, 2, SAFE, greatest / (1 + SCATTER), kept)
        lines += [
            Line(f"to hold {pull:.0f} N, {SAFE} times, it has to press with", least, "N"),
            Line("so that that is left after months, at first", now, "N", not possible),
            Line("that is at least", torque(now / (1 - SCATTER)), "N·m"),
        ]
        window *= 1 - SCATTER
        reserve = min(reserve, window)
        if window < 1:
            says.append("Its window is closed: a wider ear, a thicker screw with a washer, or less to hold.")
    return Made(n, lines, reserve, says)


def _spring(process: Process, at: Array, normal: Array, end: Array, n: dict, asked: dict) -> Made:
    """By the card of leaves in series, with the secant modulus at its strain."""
    stock = process.stock
    apart = float((end - at) @ normal)
    leaves = round(n["leaves_count"])
    gap = apart / (leaves + 1) - n["thickness_mm"]
    most = max(gap, 0.0) * (leaves + 1)
    travel = asked.get("travel_mm", most / 2)
    lines = [Line("between its leaves", gap, "mm", gap < n["gap_mm"]), Line("it can travel", most, "mm")]
    if travel <= 0 or gap <= 0:
        return Made(n, lines, None, [])
    modulus = float(stock.e_xy)
    size = (leaves, n["width_mm"], n["thickness_mm"], n["length_mm"])
    (_, _, strain), _ = spring(*size, modulus, travel)
    yields = float(stock.yield_strain)
    (modulus, _), _ = secant(modulus, float(stock.x_t), yields, min(strain, yields))
    (rate, force, _), _ = spring(*size, modulus, travel)
    allowed, stacked = (float(allowed_strain(stock, angle, True)) for angle in (0.0, 90.0))
    lines += [
        Line("rate", rate, "N/mm"), Line(f"force at {travel:.2f} mm of travel", force, "N"),
        Line("strain of a leaf", 100 * strain, "%", strain > allowed),
        Line("allowed in its layers, again and again", 100 * allowed, "%"),
        Line("with its leaves one above another it would be", 100 * stacked, "%"),
    ]  # fmt: skip
    says = [f"{travel:.2f} mm are more than its gaps: it is solid before."] if travel > most else []
    return Made(n, lines, min(allowed / strain, most / travel), says)


def _texture(process: Process, up: Array, normal: Array, n: dict) -> Made:
    """How high the steps of its layers are that it hides."""
    step = float(steps_of(process.layer, float(normal @ up)))
    lines = [Line("steps of its layers", step, "mm"), Line("grooves sunk", n["depth_mm"], "mm")]
    return Made(n, lines, None, [])
