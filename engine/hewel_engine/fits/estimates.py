"""Of every touching face: what comes out of what is drawn, and what must be drawn for its fit. Lengths mm.

Model = (printed + loss)/(1 − s); a bore of n flats is drawn outside its circle (handbook 10; cards *bore*, *scale*,
*layers*). Clearances are per side and as printed; each effect is counted once.
"""

from dataclasses import dataclass, field, replace
from math import ceil, cos, floor, hypot, pi, radians
from typing import Literal

from hewel_engine.fits.numbers import FitNumbers, Known
from hewel_engine.geometry.measures import Feature
from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import layers_below

STANDS = 0.7
"""|axis·up| from which on a hole counts as upright."""
LEVEL = cos(radians(1))
"""|normal·up| from which on a flat is level, printed on a layer's plane."""
LEAST = 0.005
"""Less than this nobody draws."""
ROUGH = 0.3
"""Either way: a surface that was bridged or supported (handbook 10)."""
BULGES = 2
"""Layers over which the first layer's bulge dies away."""
ON_PLATE = 0.05
SLENDER = 1.5
"""Lengths of a standing pin over its diameter from which on a push from the side is a bending."""

Verdict = Literal["fits", "tight", "loose", "true", "off", "unknown"]


@dataclass(frozen=True)
class Wish:
    """What is asked of a touching face: its ``fit`` (None: it is to come out as it is meant), the size of its ``mate``
    with tolerance, a clearance of its own, the ``nominal`` size where another one is drawn already.
    """

    fit: str | None = None
    mate: float | None = None
    plus: float = 0.0
    minus: float = 0.0
    gap: float | None = None
    nominal: float | None = None

    def of(self, size: float) -> "Wish":
        """The same of a face that is drawn with ``size``: meant to have that where nothing else is said."""
        return replace(self, nominal=size) if self.nominal is None else self

    @property
    def meets(self) -> float | None:
        """Size of its mate; where none is said, its own."""
        return self.nominal if self.mate is None else self.mate


@dataclass(frozen=True)
class Correction:
    """One effect of the process on a measure: so many mm of it."""

    words: str
    mm: float
    known: Known | None = None


@dataclass(frozen=True)
class Estimate:
    """A touching face. ``drawn`` as it is, ``printed`` what comes out of it, ``doubt`` to either side; ``wanted`` for
    the fit, and what is ``to_draw`` for that; clearance per side as printed: ``gap`` now, ``least_gap``, ``most_gap``
    with the doubt and the mate's tolerance, ``wanted_gap``.
    """

    kind: str
    lies: str
    drawn: float
    printed: float
    doubt: float
    wanted: float
    to_draw: float
    verdict: Verdict
    gap: float | None = None
    least_gap: float | None = None
    most_gap: float | None = None
    wanted_gap: float | None = None
    mate: float | None = None
    corrections: list[Correction] = field(default_factory=list)
    says: list[str] = field(default_factory=list)

    @property
    def change(self) -> float:
        """mm by which the measure is to be drawn larger; 0 where it comes out right, or by less than anybody draws."""
        change = self.to_draw - self.drawn
        return 0.0 if self.verdict in ("fits", "true") or abs(change) < LEAST else change


@dataclass(frozen=True)
class Law:
    """printed = (1 − s)·share·drawn − takes; ``doubt`` of what it takes; ``corrections``: every effect on the measure
    as it is drawn.
    """

    share: float
    shrink: Known
    takes: float
    doubt: float
    corrections: list[Correction]

    def printed(self, drawn: float) -> float:
        return (1 - self.shrink.counts / 100) * self.share * drawn - self.takes

    def drawn(self, printed: float) -> float:
        return (printed + self.takes) / (1 - self.shrink.counts / 100) / self.share

    def spread(self, drawn: float) -> float:
        return hypot(self.doubt, self.shrink.doubt / 100 * drawn)


def lies(feature: Feature, up: Array) -> str:
    """upright or lying, of the axis of a round face; of flats: upright, level or aslant."""
    if feature.axis is None:
        return ""
    along = abs(float(feature.axis @ up))
    if feature.is_round:
        return "upright" if along > STANDS else "lying"
    return "level" if along > LEVEL else "upright" if along < 0.02 else "aslant"


def estimate(feature: Feature, wish: Wish, numbers: FitNumbers, up: Array, plate: float) -> Estimate:
    """``plate``: height along ``up`` at which the part stands."""
    how = lies(feature, up)
    if feature.kind == "other":
        says = "This face has no size of its own: a fit wants a bore, a pin or two parallel flats."
        return Estimate("other", how, 0.0, 0.0, 0.0, 0.0, 0.0, "unknown", says=[says])
    if feature.kind == "flat":
        return _height(feature, wish, numbers, up, plate, how)
    if how == "level":
        return _level(feature, wish, numbers, up, plate)
    wish = wish.of(feature.size)
    law = _law(feature, numbers, up, how, wish.nominal)
    came = law.printed(feature.size), law.spread(feature.size)
    wanted, gap = _wanted(feature, wish, numbers)
    says = [*_doubts(feature, numbers, up, plate, how), *_mate_is(wish, gap)]
    return _held(feature, wish, numbers, how, came, (wanted, gap), law.drawn(wanted), law.corrections, says)


def _law(feature: Feature, numbers: FitNumbers, up: Array, how: str, nominal: float) -> Law:
    shrink = _shrinks(feature, numbers, up)
    rows = [_shrunk(shrink, feature.size)]
    if feature.kind == "bore":
        sides = int(feature.sides.min())
        flats = cos(pi / sides)
        rows.append(Correction(f"{sides} flats inside its circle", -(1 - flats) * feature.size))
        upright, off = numbers.loss("upright", nominal)
        if how == "upright":
            rows.append(Correction("loss of an upright bore", -upright, numbers.upright[0]))
            return Law(flats, shrink, upright, off, rows)
        lying, doubt = numbers.loss("lying", nominal)
        loss = max(lying, upright)
        rows.append(Correction("droop of a lying bore's roof", -loss, numbers.lying[0]))
        return Law(flats, shrink, loss, hypot(doubt, numbers.layer / 2), rows)
    excess = 2 * numbers.excess.counts * (1 if feature.kind == "slot" else -1)
    doubt = 2 * numbers.excess.doubt
    if feature.kind == "pin" and how == "lying":
        doubt = hypot(doubt, numbers.lying[0].value / 2 + numbers.layer / 2)
    rows.append(Correction("excess of its outer lines", -excess, numbers.excess))
    return Law(1.0, shrink, excess, doubt, rows)


def _shrunk(shrink: Known, size: float) -> Correction:
    return Correction(f"{shrink.words}, {shrink.value:g} %", -shrink.counts / 100 * size, shrink)


def _shrinks(feature: Feature, numbers: FitNumbers, up: Array) -> Known:
    """Shrinkage of a measure. In plan nobody says how the part is turned: the mean of
    x and y; across the layers z; of a lying bore the larger of both.
    """
    x, y, z = numbers.shrink
    flat = x if x.value == y.value else Known(
        "shrinkage in plan", (x.value + y.value) / 2, hypot(x.doubt, (x.value - y.value) / 2), x.origin, x.record,
        x.name, x.compensated,
    )  # fmt: skip
    along = abs(float(feature.axis @ up)) if feature.axis is not None else 0.0
    if feature.is_round:
        return flat if along > STANDS else max(flat, z, key=lambda k: k.value)
    return z if along > STANDS else flat


def _wanted(feature: Feature, wish: Wish, numbers: FitNumbers) -> tuple[float, float | None]:
    """(size as printed, clearance per side) that the fit asks for."""
    gap = wish.gap if wish.gap is not None else wish.fit and numbers.gaps[wish.fit].value
    return wish.meets + 2 * (gap or 0.0) * _sense(feature), gap


def _sense(feature: Feature) -> int:
    """1 where the mate goes in, −1 where it goes round."""
    return 1 if feature.kind in ("bore", "slot") else -1


def _held(
    feature: Feature, wish: Wish, numbers: FitNumbers, how: str, came: tuple[float, float],
    asked: tuple[float, float | None], to_draw: float, corrections: list[Correction], says: list[str],
) -> Estimate:  # fmt: skip
    (printed, doubt), (wanted, gap) = came, asked
    if gap is None:
        off = printed - wanted
        verdict: Verdict = "true" if abs(off) <= max(doubt, LEAST) else "off"
        return Estimate(feature.kind, how, feature.size, printed, doubt, wanted, to_draw, verdict,
                        corrections=corrections, says=says)  # fmt: skip
    mate = wish.meets
    sense = _sense(feature)
    clear = lambda size, other: sense * (size - other) / 2
    now = clear(printed, mate)
    ends = sorted(
        clear(p, m) for p in (printed - doubt, printed + doubt) for m in (mate - wish.minus, mate + wish.plus)
    )
    wide = numbers.wide[wish.fit] if wish.fit else 0.02
    tight, loose = now < gap - wide - 1e-9, now > gap + wide + 1e-9 and wish.fit != "in_place"
    verdict = "tight" if tight else "loose" if loose else "fits"
    if wish.fit and wish.fit != "in_place" and ends[-1] - ends[0] > 2 * wide + 1e-9:
        says = [*says, f"It may come out {_signed(ends[0])} to {_signed(ends[-1])} mm per side: "
                "wider than this fit is. A coupon of this machine narrows it."]  # fmt: skip
    if now < 0 and wish.fit != "press" and gap > 0:
        says = [f"As drawn they overlap by {-now:.2f} mm per side: it does not go in.", *says]
    return Estimate(
        feature.kind, how, feature.size, printed, doubt, wanted, to_draw, verdict, now, ends[0], ends[-1], gap, mate,
        corrections, says,
    )  # fmt: skip


def _signed(value: float) -> str:
    return f"{value:+.2f}".replace("-", "−")


def _mate_is(wish: Wish, gap: float | None) -> list[str]:
    if gap is None or wish.mate is not None:
        return []
    return [f"What it meets is taken to be {wish.nominal:.2f} mm, as drawn: type its size where it is another one."]


def _doubts(feature: Feature, numbers: FitNumbers, up: Array, plate: float, how: str) -> list[str]:
    """What no size tells: the mouth at the plate, flattened undersides, a bore that is no round one."""
    out = []
    x, y, _ = numbers.shrink
    if feature.is_round:
        tilt = abs(float(feature.axis @ up))
        if how == "lying" and tilt > 0.1:
            out.append("Its axis leans: reckoned as a lying one.")
        if how == "upright" and x.counts != y.counts:
            out.append(f"x and y shrink by {abs(x.counts - y.counts):.2f} % apart: it comes out oval.")
        low = float((feature.places @ up - feature.lengths / 2 * tilt).min()) - plate
        if how == "upright" and low < ON_PLATE and numbers.bulge.counts > 0:
            what = "Its mouth at the plate closes" if feature.kind == "bore" else "Its foot at the plate grows"
            out.append(f"{what} by {2 * numbers.bulge.counts:.2f} mm over {BULGES} layers: chamfer the edges there.")
        if feature.kind == "pin" and how == "upright" and float(feature.lengths.max()) > SLENDER * feature.size:
            out.append("It stands across its layers: a push from the side breaks it between two of them.")
        if feature.kind == "pin" and how == "lying":
            out.append("It lies: its underside is laid in air or on the plate and is no part of a circle.")
    elif how == "aslant":
        out.append("It leans: steps of the layers stand out by up to half a layer.")
    return out


def _level(feature: Feature, wish: Wish, numbers: FitNumbers, up: Array, plate: float) -> Estimate:
    """Two level flats: both are printed on whole layers; a roof over a gap droops."""
    heights = sorted(float(p @ up) - plate for p in feature.places)
    low = heights[0]
    h, shrink = numbers.layer, numbers.shrink[2]
    planes = [layers_below(z, h) * h for z in heights]
    droop = numbers.lying[0] if feature.kind == "slot" else None
    takes = droop.counts if droop else 0.0
    left = 1 - shrink.counts / 100
    printed = left * (planes[1] - planes[0]) - takes
    hangs = feature.kind == "tongue" and low > ON_PLATE
    doubt = hypot(droop.doubt if droop else ROUGH if hangs else 0.0, shrink.doubt / 100 * feature.size)
    wish = wish.of(feature.size)
    wanted, gap = _wanted(feature, wish, numbers)
    layers = (wanted + takes) / left / h
    whole = (
        ceil(layers - 1e-6) if feature.kind == "slot" else floor(layers + 1e-6) if gap is not None else round(layers)
    )
    to_draw = planes[0] - low + max(whole, 1) * h
    rows = [
        Correction("whole layers", planes[1] - planes[0] - feature.size),
        _shrunk(shrink, planes[1] - planes[0]),
    ]
    if droop:
        rows.append(Correction("droop of its roof", -takes, droop))
    says = [*(["Its underside hangs: bridged or supported, it is rough by 0.3 mm."] if hangs else []),
            *_mate_is(wish, gap)]  # fmt: skip
    return _held(feature, wish, numbers, "level", (printed, doubt), (wanted, gap), to_draw, rows, says)


def _height(feature: Feature, wish: Wish, numbers: FitNumbers, up: Array, plate: float, how: str) -> Estimate:
    """One flat with nothing across from it: a level one has a height over the plate, on whole layers."""
    if how != "level" or feature.axis is None:
        says = "One flat alone has no size: say its height by standing it level, or point at two flats."
        return Estimate("flat", how, 0.0, 0.0, 0.0, 0.0, 0.0, "unknown", says=[says])
    z, h, shrink = float(feature.places[0] @ up) - plate, numbers.layer, numbers.shrink[2]
    left = 1 - shrink.counts / 100
    plane = layers_below(z, h) * h
    printed, nominal = left * plane, wish.of(z).nominal
    to_draw = max(round(nominal / left / h), 1) * h
    best = left * to_draw
    verdict: Verdict = "true" if abs(printed - nominal) <= abs(best - nominal) + LEAST else "off"
    rows = [Correction("whole layers", plane - z), _shrunk(shrink, plane)]
    doubt = shrink.doubt / 100 * z
    return Estimate("height", how, z, printed, doubt, nominal, to_draw, verdict, corrections=rows)
