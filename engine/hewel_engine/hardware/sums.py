"""What steel carries by hand's own formulas: rods as part of the section, bolts alone after a crack, and the cards of
inserts, keys, screws and pads. Lengths mm, forces N, moments N·mm, stresses MPa.
"""

from dataclasses import dataclass, replace
from math import inf, pi, sqrt

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.hardware.catalogue import STEEL_MODULUS, Bolt, Piece
from hewel_engine.hardware.placing import Placed
from hewel_engine.materials import Material
from hewel_engine.reckoning.bolts import tapping
from hewel_engine.reckoning.pins import insert, key
from hewel_engine.records import BY_NAME, ORIGINS, Reading
from hewel_engine.strength.fasteners import may_press, presses_across
from hewel_engine.strength.reserves import SectionedPart, acting_in
from hewel_engine.strength.statics import Above, Section, Through, aboves, on_plate
from hewel_engine.strength.stressing import Stressed

ALONG = 0.99
"""|axis·up| from which on steel runs across the layers."""
KEYS_SHARE = 0.75
"""Share of the torque that each of two keys and more is sure to take (handbook)."""
UNSOLVED = 0.02
"""Share of what passes a cut that bolts may leave unanswered and still be said to hold it."""


@dataclass(frozen=True, eq=False)
class Ledger:
    """What passes through every cut of a standing part, case by case."""

    on: SectionedPart
    above: list[Above]

    @classmethod
    def of(cls, found: Stressed, on: SectionedPart) -> "Ledger":
        return cls(on, aboves(on.stack, [acting_in(found, row) for row in found.cases]))

    def layer(self, z: float) -> int:
        stack = self.on.stack
        return int(np.clip(round((z - stack.first) / stack.pitch), 0, stack.count - 1))

    def passing(self, case: int, layer: int) -> tuple[Section, Through] | None:
        section, stack = self.on.sections[layer], self.on.stack
        if section is None:
            return None
        return section, self.above[case].through(stack.first + layer * stack.pitch, section.centre)


@dataclass(frozen=True, eq=False)
class Core:
    """A steel rod that runs across the layers: ``spot`` (2,) mm in plan, from ``low`` to ``high`` over the plate."""

    spot: Array
    low: float
    high: float
    diameter: float

    @property
    def area(self) -> float:
        return pi / 4 * self.diameter**2

    @property
    def second(self) -> float:
        return pi / 64 * self.diameter**4


@dataclass(frozen=True)
class Shared:
    """A section with steel in it: greatest pull in the plastic as a share of what it is without, the greatest stress of
    the steel, and the moment that each rod takes.
    """

    share: float
    steel: float
    moment: float


def composite(section: Section, passing: Through, cores: list[Core], modulus: float) -> Shared:
    """The transformed section, n = E_s/E_z, steel held against slip (reckoning: rod; here about both axes and with a
    force along it). The bore is missing in ``section`` already.
    """
    n = STEEL_MODULUS / modulus
    spots = [c.spot - section.centre for c in cores]
    area = section.area + n * sum(c.area for c in cores)
    shift = n * sum((c.area * s for c, s in zip(cores, spots, strict=True)), np.zeros(2)) / area
    plain = np.array([[section.xx, section.xy], [section.xy, section.yy]])
    inertia = plain + section.area * np.outer(shift, shift)
    for core, spot in zip(cores, spots, strict=True):
        off = spot - shift
        inertia = inertia + n * (core.second * np.eye(2) + core.area * np.outer(off, off))
    force = float(passing.force[2])
    bend = np.array([-passing.moment[1], passing.moment[0]])  # ∫σ·x and ∫σ·y
    slope_plain = np.linalg.solve(plain, bend)
    slope = np.linalg.solve(inertia, bend - force * shift)
    without = float((force / section.area + section.corners @ slope_plain).max())
    along = force / area + (section.corners - shift) @ slope
    edges = [force / area + float((s - shift) @ slope) for s in spots]
    swing = [float(np.linalg.norm(slope)) * c.diameter / 2 for c in cores]
    steel = max((n * (abs(e) + w) for e, w in zip(edges, swing, strict=True)), default=0.0)
    moment = max((n * c.second * float(np.linalg.norm(slope)) for c in cores), default=0.0)
    return Shared(max(float(along.max()), 0.0) / without if without > 1e-9 else 1.0, steel, moment)


def cores_of(rows: list[Placed], on: SectionedPart) -> list[Core]:
    """The rods that run across the layers."""
    out = []
    for placed in rows:
        if placed.row["kind"] != "rod" or placed.where is None or not isinstance(placed.what, Piece):
            continue
        if abs(float(placed.line.way @ on.stack.up)) < ALONG:
            continue
        at = placed.where["head_at_mm"]
        ends = on_plate(on.stack, np.array([placed.line.at(at), placed.line.at(at + placed.where["depth_mm"])]))
        low, high = sorted(float(z) for z in ends[:, 2])
        out.append(Core(ends[:, :2].mean(axis=0), low, high, placed.what.facts["stress_diameter_mm"]))
    return out


def rods(ledger: Ledger, cores: list[Core], demands: list[Array], material: Material, factor: float) -> list[dict]:
    """Of every case the reserve with its rods: layers that a rod passes use less of their strength (``demands``
    (layers,) without steel), those beyond its ends what they used, and at its ends it presses p = (4·V·L + 6·M)/(d·L²)
    sideways into the plastic, L mm deep (reckoning: pin_in_hole).
    """
    out, stack = [], ledger.on.stack
    heights = stack.first + stack.pitch * np.arange(stack.count)
    inside = np.zeros(stack.count, bool)
    for core in cores:
        inside |= (heights > core.low) & (heights < core.high)
    limit = may_press(material, across=False)
    for case, demand in enumerate(demands):
        with_rods, steel, bearing = np.array(demand, float), 0.0, inf
        for layer in np.flatnonzero(inside & (demand > 0)):
            passed = ledger.passing(case, int(layer))
            there = [c for c in cores if c.low < heights[layer] < c.high]
            if passed is None or not there:
                continue
            shared = composite(*passed, there, float(material.e_z))
            with_rods[layer] *= min(shared.share, 1.0)
            steel = max(steel, factor * shared.steel)
            shear = float(np.hypot(*passed[1].force[:2])) / len(there)
            for core in there:
                deep = min(heights[layer] - core.low, core.high - heights[layer])
                if deep > core.diameter and demand[layer] > 0.9 * demand[inside].max():
                    press = factor * (4 * shear * deep + 6 * shared.moment) / (core.diameter * deep**2)
                    bearing = min(bearing, limit / press if press > 0 else inf)
        k = int(np.argmax(with_rods))
        reserve = 1 / with_rods[k] if with_rods[k] > 0 else None
        out.append(
            {
                "plain": 1 / float(np.max(demand)) if np.max(demand) > 0 else None, "reserve": reserve,
                "z_mm": float(heights[k]), "beyond": not bool(inside[k]), "steel_mpa": steel,
                "bearing_reserve": None if bearing == inf else bearing,
            }
        )  # fmt: skip
    return out


def other_rods(
    ledger: Ledger, cores: list[Core], demands: list[Array], material: Material, diameters: dict[str, float]
) -> list[dict]:
    """Each size, by its stress diameter, in place of those that are drawn: the reserve of every case."""
    of = lambda wide: rods(ledger, [replace(core, diameter=wide) for core in cores], demands, material, 1.0)
    return [{"size": s, "reserves": [r["reserve"] for r in of(wide)]} for s, wide in diameters.items()]


def bolts_alone(ledger: Ledger, case: int, z: float, rows: list[Placed], limits: list[float], factor: float) -> dict:
    """After a crack through the layer at ``z`` the bolts that cross it hold all that passes: forces along them that
    balance its pull and its moments (least squares), shear in equal parts; against the proof load by von Mises and what
    their seats bear. Says so where they cannot balance it.
    """
    layer = ledger.layer(z)
    passed = ledger.passing(case, layer)
    crossing: list[tuple[Array, Bolt, float]] = []
    for placed, limit in zip(rows, limits, strict=True):
        if not isinstance(placed.what, Bolt) or placed.where is None:
            continue
        ends = on_plate(
            ledger.on.stack, np.array([placed.line.at(placed.where[k]) for k in ("head_at_mm", "nut_at_mm")])
        )
        low, high = sorted(ends[:, 2])
        if low < z < high and abs(float(placed.line.way @ ledger.on.stack.up)) > ALONG:
            crossing.append((ends[:, :2].mean(axis=0), placed.what, limit))
    if not crossing or passed is None:
        return {"reserve": None, "count": 0, "words": "No bolt crosses the layer where it would fail."}
    section, through = passed
    spots = np.array([spot for spot, _, _ in crossing]) - section.centre
    wanted = np.array([through.force[2], through.moment[0], -through.moment[1]])
    size = float(np.ptp(section.corners, axis=0).max())
    scale = np.array([1.0, 1 / size, 1 / size])
    matrix = np.stack([np.ones(len(spots)), spots[:, 1], spots[:, 0]]) * scale[:, None]
    forces, *_ = np.linalg.lstsq(matrix, wanted * scale, rcond=None)
    left = float(np.linalg.norm(matrix @ forces - wanted * scale))
    whole = float(np.linalg.norm(wanted * scale)) + float(np.hypot(*through.force[:2]))
    if left > UNSOLVED * max(whole, 1e-9):
        words = "They do not hold the bending alone: it takes bolts on both sides of the middle."
        return {"reserve": 0.0, "count": len(crossing), "words": words}
    shear = float(np.hypot(*through.force[:2])) / len(crossing)
    reserve = inf
    for force, (_, bolt, limit) in zip(forces, crossing, strict=True):
        stress = factor * np.hypot(max(force, 0.0), np.sqrt(3) * shear) / bolt.stress_area
        reserve = min(reserve, bolt.proof / stress if stress > 0 else inf)
        if force > 0:
            reserve = min(reserve, limit / (factor * float(force)))
    words = f"{len(crossing)} bolt{'s' * (len(crossing) > 1)} would hold what passes the cracked layer."
    return {"reserve": None if reserve == inf else reserve, "count": len(crossing), "words": words}


def by_hand(placed: Placed, up: Array, material: Material, kept: float, factor: float) -> dict:
    """What a piece that is no bolt bears, and its reserve where the row says what it ``carries_n`` or ``carries_nmm``;
    ``kept``: share of the strengths that the knock-downs leave.
    """
    row, facts = placed.row, placed.what.facts if isinstance(placed.what, Piece) else {}
    pull, turn = row.get("carries_n") or 0.0, row.get("carries_nmm") or 0.0
    limit = kept * may_press(material, presses_across(placed.line.way, up))
    lines: list[str] = []
    bears: list[tuple[str, float, float, str]] = []
    if row["kind"] == "insert":
        share = material.readings.get("insert_factor", Reading(BY_NAME["capability"]["insert_factor"].start))
        out_n, out_nmm, *_ = insert(
            facts["outer_mm"], facts["length_mm"], kept * float(material.z_s), share.value, 0.45, 0.2
        )
        bears = [("pull-out", out_n, pull, "N"), ("turn-out", out_nmm, turn, "N·mm")]
        lines.append(f"By {share.value:.2f} of the shear strength between layers ({ORIGINS[share.origin]}).")
        lines.append("Never pulled along a boss that stands on infill.")
    elif row["kind"] == "boss":
        found = tapping(
            facts["pitch_diameter_mm"], facts["pitch_mm"], facts["engagement_mm"], kept * float(material.z_s), 0.3,
            facts["head_mean_mm"], 60.0, 0.6,
        )  # fmt: skip
        force, strip, tighten = found[0] if isinstance(found[0], tuple) else found
        bears = [("pull-out", force, pull, "N"), ("stripping torque", strip, turn, "N·mm")]
        lines.append(f"Tighten with {tighten / 1000:.2f} N·m at most.")
    elif row["kind"] == "key":
        count = max(int(row.get("count") or 1), 1)
        long = float(np.linalg.norm(np.array(row["end"], float) - np.array(row["at"], float)))
        radius = row.get("radius") or 0.0
        if radius > 0 and turn > 0:
            shares = KEYS_SHARE if count > 1 else 1.0
            force, bearing, _ = key(turn, count, shares, radius, facts["depth_mm"], long, facts["width_mm"])
            bears = [("bearing", limit, bearing, "MPa")]
            lines.append(f"Each key passes {force:.0f} N over {long:.0f} mm along the layers it reaches through.")
            least = factor * force / (limit * facts["depth_mm"])
            if least > long:
                lines.append(f"It holds from {least:.1f} mm on.")
        else:
            lines.append("Type the torque and the radius to the middle of its flank.")
    elif row["kind"] == "pad":
        area = pi / 4 * facts["diameter_mm"] ** 2
        bears = [("pressure", limit * area, pull, "N")]
        least = sqrt(4 * factor * pull / (pi * limit))
        if least > facts["diameter_mm"]:
            lines.append(f"It holds from ⌀ {least:.1f} mm on.")
    out = [
        {"what": name, "bears": most, "carries": load, "unit": unit,
         "reserve": most / (factor * load) if load > 0 else None}
        for name, most, load, unit in bears
    ]  # fmt: skip
    return {"rows": out, "words": " ".join(lines)}
