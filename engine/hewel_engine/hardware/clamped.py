"""What bolts make of the reserve: kept points of one solution, read anew for every torque, relaxation and temperature.

Closing is checked with the low preload that is left when it is coldest, crushing with the high one when it is warmest
(handbook 7). The load grows, the preload does not: RF is the least λ at which λ·γ·(S_load + ΔF·S_j) + F·S_j uses up
what the knock-downs leave of the strength. Lengths mm, forces N, stresses MPa.
"""

import io
from dataclasses import dataclass, replace
from math import inf

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.hardware.catalogue import STEEL_EXPANSION, Bolt
from hewel_engine.hardware.placing import Placed
from hewel_engine.materials import Material
from hewel_engine.reckoning.bolts import preload, preload_left
from hewel_engine.strength.allowables import ROOM, Factor, product
from hewel_engine.strength.clamping import least_multiple, taken_of
from hewel_engine.strength.criterion import Strengths, indices, on_layers
from hewel_engine.strength.fasteners import may_press, presses_across
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.reserves import MODE_WORDS, allowed, critical_points, plate_of
from hewel_engine.strength.stressing import Stressed

MOST_POINTS = 16_000
"""Points that are kept: those that use most of their strength under any case, or any bolt."""
REFERENCE = 1000.0
"""N in every bolt by which points are compared."""
BESIDE_SEAT = 1.25
"""Diameters of a seat from its middle within which the squeeze is no stress to be trusted (handbook 7): there the load
counts by itself, and the squeeze as a pressure on the seat."""
TORQUES = 24
"""Halvings by which the least torque is found."""
SURE = 0.95
"""Share of what a seat or a bolt bears that the most torque uses."""


@dataclass(frozen=True, eq=False)
class Field:
    """Points (k) of a bolted part: ``places`` mm, how lines ``lie``, stress of every case (c, k, 6) MPa and of a newton
    in every bolt (j, k, 6); ``flexibility`` (j, j) mm/N and ``growth`` (c, j) mm of the gaps.
    """

    up: Array
    plate: float
    places: Array
    lie: Lie
    cases: Array
    bolts: Array
    flexibility: Array
    growth: Array

    def packed(self) -> bytes:
        room = io.BytesIO()
        single = lambda a: np.asarray(a, np.float32)
        np.savez(
            room, up=self.up, plate=self.plate, places=single(self.places), normals=single(self.lie.normals),
            kinds=self.lie.kinds, cases=single(self.cases), bolts=single(self.bolts), flexibility=self.flexibility,
            growth=self.growth,
        )  # fmt: skip
        return room.getvalue()

    @classmethod
    def unpacked(cls, data: bytes) -> "Field":
        with np.load(io.BytesIO(data)) as a:
            lie = Lie(a["normals"].astype(float), a["kinds"])
            return cls(
                a["up"], float(a["plate"]), a["places"].astype(float), lie, a["cases"].astype(float),
                a["bolts"].astype(float), a["flexibility"], a["growth"],
            )  # fmt: skip


def field_of(found: Stressed, material: Material, up: Array) -> Field:
    """The points of a solution that can decide it with its bolts; beside a seat they feel the load alone."""
    keep, clamping = found.kept, found.clamping
    rows = [critical_points(found, row) for row in found.cases]
    cases = np.array([row.stress for row in rows])
    bolts = np.array([s[keep] for s in clamping.stress], float)
    for clamp in clamping.clamps:
        for seat in (clamp.head, clamp.nut):
            bolts[:, np.linalg.norm(rows[0].places - seat.centre, axis=1) < BESIDE_SEAT * seat.outer] = 0.0
    strength, lie = allowed(material, []), rows[0].lie
    used = [indices(s, up, strength, lie).worst for s in (*cases, *bolts, REFERENCE * bolts.sum(axis=0))]
    share = np.max([u / max(float(u.max()), 1e-12) for u in used], axis=0)
    most = np.sort(np.argsort(-share)[:MOST_POINTS])
    return Field(
        np.asarray(up, float), plate_of(found, up), rows[0].places[most], lie.within(most), cases[:, most],
        bolts[:, most], clamping.flexibility, clamping.growth,
    )  # fmt: skip


@dataclass(frozen=True)
class Setting:
    """How bolts are tightened and what they meet: ``torque`` N·mm of each; relaxation r, embedding mm; °C."""

    torque: tuple[float, ...]
    nut_factor: float = 0.2
    scatter: float = 0.3
    relaxation: float = 0.5
    embedding: float = 0.010
    cold: float = ROOM
    warm: float = ROOM


@dataclass(frozen=True)
class Tightened:
    """One bolt: the preload when it is tightened and what it can be; what is ``left`` to close with and what it may
    come to; what it carries at most; the pressures of head and nut against their limit, and the bolt's own reserve.
    """

    name: str
    preload: float
    low: float
    high: float
    left: float
    greatest: float
    carries: float
    load_factor: float
    head_mpa: float
    nut_mpa: float
    limit_mpa: float
    bolt_reserve: float
    loose: bool
    torque: float
    most_torque: float
    """N·mm that head, nut and bolt bear."""

    def as_dict(self) -> dict:
        return {
            "name": self.name, "torque_nmm": self.torque, "preload_n": self.preload, "low_n": self.low,
            "high_n": self.high, "left_n": self.left, "greatest_n": self.greatest, "carries_n": self.carries,
            "load_factor": self.load_factor, "head_mpa": self.head_mpa, "nut_mpa": self.nut_mpa,
            "limit_mpa": self.limit_mpa, "bolt_reserve": self.bolt_reserve, "loose": self.loose,
            "most_torque_nmm": self.most_torque,
        }  # fmt: skip


@dataclass(frozen=True)
class Verdict:
    """A case: its reserve ``plain`` on the part with its holes but no steel, ``clamped``, with the load's own share in
    the bolts; where and how it fails then; the multiple of the load at which the layers open where it would fail
    without bolts, under a closing pressure; None where no load acts.
    """

    name: str
    plain: float | None
    clamped: float | None
    mode: str
    at: tuple[float, float, float]
    z: float
    opens_at: float | None
    closing: float
    plain_at: tuple[float, float, float]
    plain_z: float

    def as_dict(self) -> dict:
        return {
            "name": self.name, "plain": self.plain, "clamped": self.clamped, "mode": self.mode,
            "words": MODE_WORDS[self.mode], "at_mm": list(self.at), "z_mm": self.z, "opens_at": self.opens_at,
            "closing_mpa": self.closing, "plain_at_mm": list(self.plain_at), "plain_z_mm": self.plain_z,
        }  # fmt: skip


@dataclass(frozen=True)
class Joint:
    """Bolts of one part with what they bear on; ``areas`` mm² of head and nut of each; ``axes`` (j, 3)."""

    bolts: tuple[Bolt, ...]
    names: tuple[str, ...]
    grips: tuple[float, ...]
    areas: tuple[tuple[float, float], ...]
    axes: tuple[tuple[float, float, float], ...]

    @classmethod
    def of(cls, rows: list[Placed], modulus: float) -> "Joint":
        """Bolts that sit in a part of so many MPa."""
        clamps = [p.clamp(modulus) for p in rows]
        return cls(
            tuple(p.what for p in rows), tuple(c.name for c in clamps), tuple(c.grip for c in clamps),
            tuple((c.head.area, c.nut.area) for c in clamps), tuple(tuple(p.line.way) for p in rows),
        )  # fmt: skip

    @property
    def compliances(self) -> Array:
        return np.array([b.compliance(g) for b, g in zip(self.bolts, self.grips, strict=True)])

    def limits(self, material: Material, up: Array) -> Array:
        """(j,) MPa that a seat may press: it would creep away under more."""
        return np.array([may_press(material, presses_across(axis, up)) for axis in self.axes])


def tightened(field: Field, joint: Joint, setting: Setting, material: Material) -> list[Tightened]:
    """Every bolt. Where all seats squeeze one another is in ``flexibility``; each bolt's own is its δ_p."""
    limits, taken = joint.limits(material, field.up), carried(field, joint)
    most = np.maximum(taken, 0.0).max(axis=0, initial=0.0)
    return [
        _tightened(joint, j, setting, material, float(field.flexibility[j, j]), float(limits[j]), float(most[j]))
        for j in range(len(joint.bolts))
    ]


def _tightened(
    joint: Joint, j: int, setting: Setting, material: Material, soft: float, limit: float, carries: float
) -> Tightened:
    bolt, grip, torque = joint.bolts[j], joint.grips[j], setting.torque[j]
    given, low, high = preload(torque, bolt.diameter, setting.nut_factor, setting.scatter)
    stiff, expands = bolt.compliance(grip), float(material.expansion) * 1e-6

    def rest(start: float, relaxation: float, sinks: float, at: float) -> tuple[float, bool]:
        return preload_left(start, soft, stiff, relaxation, sinks, grip, expands, STEEL_EXPANSION, at - ROOM)

    left, loose = rest(low, setting.relaxation, setting.embedding, setting.cold)
    greatest = max(rest(high, 1.0, 0.0, setting.warm)[0], high)
    force, proof = greatest + carries, bolt.proof * bolt.stress_area
    bears = max(min(min(joint.areas[j]) * limit, proof) * SURE - carries - (greatest - high), 0.0)
    most = bears / (1 + setting.scatter) * setting.nut_factor * bolt.diameter
    head, nut = (force / area for area in joint.areas[j])
    return Tightened(
        joint.names[j], given, low, high, left, greatest, carries, soft / (soft + stiff), head, nut, limit,
        proof / force if force > 0 else inf, bool(loose), torque, most,
    )  # fmt: skip


def carried(field: Field, joint: Joint, tight: np.ndarray | None = None) -> Array:
    """(c, j) N that each bolt takes of every case; where not all are ``tight``, a loose one takes none."""
    rows = np.arange(len(joint.bolts)) if tight is None else np.flatnonzero(tight)
    taken = np.zeros(field.growth.shape)
    if len(rows):
        taken[:, rows] = taken_of(joint.compliances[rows], field.flexibility[np.ix_(rows, rows)], field.growth[:, rows])
    return taken


def _tight(bolts: list[Tightened]) -> np.ndarray:
    return np.array([b.left > 0 for b in bolts])


def verdicts(
    field: Field, joint: Joint, bolts: list[Tightened], names: list[str], factors: list[list[Factor]],
    material: Material, factor: float,
) -> list[Verdict]:  # fmt: skip
    """Every case with its knock-downs and the required ``factor``; shock and its own factor are in a case's stress."""
    held = np.tensordot([b.left for b in bolts], field.bolts, 1)
    taken, out = carried(field, joint, _tight(bolts)), []
    for c, name in enumerate(names):
        strength, load = _strength(material, factors[c]), factor * field.cases[c]
        plain, at = least_multiple(load, np.zeros_like(load), field.up, strength, field.lie)
        shared = load + factor * np.tensordot(taken[c], field.bolts, 1)
        clamped, where = least_multiple(shared, held, field.up, strength, field.lie)
        pulls = float(on_layers(shared[at : at + 1], field.up).across[0])
        closing = -float(on_layers(held[at : at + 1], field.up).across[0])
        level = min(clamped, 1e6) * shared[where : where + 1] + held[where : where + 1]
        mode = indices(level, field.up, strength, field.lie.within(np.array([where]))).mode(0)
        height = lambda k: float(field.places[k] @ field.up - field.plate)
        place = lambda k: tuple(float(x) for x in field.places[k])
        out.append(
            Verdict(
                name, None if plain == inf else plain, None if clamped == inf else clamped, mode, place(where),
                height(where), max(closing / pulls, 0.0) if pulls > 1e-9 else None, closing, place(at), height(at),
            )
        )  # fmt: skip
    return out


def _strength(material: Material, factors: list[Factor]) -> Strengths:
    return allowed(material, factors).times(product(factors, "all"))


def preload_alone(field: Field, bolts: list[Tightened], material: Material) -> dict:
    """The preload as a case of its own, at its highest and for good: its reserve, how and where it would fail."""
    held = np.tensordot([b.greatest for b in bolts], field.bolts, 1)
    strength = allowed(material, []).times(float(material.creep))
    reserve, at = least_multiple(held, np.zeros_like(held), field.up, strength, field.lie)
    mode = indices(held[at : at + 1], field.up, strength, field.lie.within(np.array([at]))).mode(0)
    return {
        "reserve": None if reserve == inf else reserve, "mode": mode, "words": MODE_WORDS[mode],
        "at_mm": [float(x) for x in field.places[at]], "z_mm": float(field.places[at] @ field.up - field.plate),
    }  # fmt: skip


def least_torque(
    field: Field, joint: Joint, setting: Setting, factors: list[list[Factor]], material: Material, factor: float
) -> float | None:
    """Share of the torques in ``setting`` at which every case still holds; None where they themselves do not do."""
    strong = [_strength(material, own) for own in factors]

    def holds(share: float) -> bool:
        torque = tuple(share * t for t in setting.torque)
        bolts = tightened(field, joint, replace(setting, torque=torque), material)
        held = np.tensordot([b.left for b in bolts], field.bolts, 1)
        taken = carried(field, joint, _tight(bolts))
        shared = (factor * (s + np.tensordot(n, field.bolts, 1)) for s, n in zip(field.cases, taken, strict=True))
        return all(
            float(indices(load + held, field.up, s, field.lie).worst.max()) <= 1
            for load, s in zip(shared, strong, strict=True)
        )

    if not holds(1.0):
        return None
    low, high = 0.0, 1.0
    if holds(0.0):
        return 0.0
    for _ in range(TORQUES):
        middle = (low + high) / 2
        low, high = (low, middle) if holds(middle) else (middle, high)
        if high - low < 0.01 * high:
            break
    return high
