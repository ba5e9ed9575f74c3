"""From a material's value to what may be used of it: the knock-downs, each a line of the sum, and the required factor.

RF = Π k_i / (I·γ). Factors on the weld act on Z_t and Z_s only; a shock multiplies the load instead.
"""

from dataclasses import asdict, dataclass, replace
from math import log10

from scipy.special import nctdtrit, ndtri

from hewel_engine.errors import InputError
from hewel_engine.materials import Material
from hewel_engine.records import Reading
from hewel_engine.strength.criterion import Strengths

ROOM = 23.0
"""°C at which the values of a material hold."""
SHOCK = 2.0
TESTED = ("x_t", "z_t", "z_s")
"""Strengths whose coupons tell how much they scatter."""
CYCLIC, CYCLES = 0.25, 1e6
UNTESTED = 0.65
"""Scatter where no coupon exists: less than what few bars of usual scatter would show, so that testing pays."""
WET_NYLON, NYLONS = 0.7, ("pa", "pa_cf")
OF_PARTS, SURE = 0.95, 0.90
"""Share of the parts that a bound holds for, and with which confidence."""
PRIOR_SCATTER, PRIOR_BARS = 0.10, 8.0
"""Scatter, as a share of the mean, that bars are taken to have before they are tested, and the bars that this is worth.
"""
REQUIRED = {"none": 1.5, "functional": 2.0, "injury": 3.0}
"""Required factor by what a failure does: nothing much, the part's function, somebody hurt."""


@dataclass(frozen=True)
class Factor:
    """One line: ``value`` on the strength (or ≥ 1 on the load where ``on`` is load); ``on`` all, across (the weld
    between layers), along (what is in the layers) or load.
    """

    key: str
    words: str
    value: float
    origin: str
    on: str = "all"

    def as_dict(self) -> dict:
        return asdict(self)


@dataclass(frozen=True)
class Circumstances:
    """What a part meets beside its load; None: not counted."""

    temperature: float | None = None
    """°C."""
    wet: bool = False
    bond: float | None = None
    """Weld of the batch against the coupon's, 0 to 1."""
    scatter: bool = False
    sustained: float | None = None
    cyclic: float | None = None
    """Asked for as numbers, in place of what the case's nature and the material say."""


def cyclic(cycles: float) -> float:
    """1 at a single load, CYCLIC at CYCLES, straight over the logarithm between and beyond, never below 0.1."""
    return max(0.1, 1 - (1 - CYCLIC) * log10(max(cycles, 1.0)) / log10(CYCLES))


def heat(temperature: float, softening: float) -> float:
    """Linear from 1 at ROOM to 0 at the softening temperature."""
    return min(1.0, max(0.0, (softening - temperature) / (softening - ROOM)))


def knock_downs(material: Material, nature: str, cycles: float | None, around: Circumstances) -> list[Factor]:
    """The lines of a case of this nature; only what counts."""
    out: list[Factor] = []
    add = lambda *line: out.append(Factor(*line))
    reading = material.readings
    if nature == "shock":
        add("shock", "shock, on the load", SHOCK, "handbook", "load")
    if around.sustained is not None:
        add("sustained", "sustained load", around.sustained, "own")
    elif nature == "sustained":
        add("sustained", "sustained load (creep)", reading["creep"].value, reading["creep"].origin)
    if around.cyclic is not None:
        add("cyclic", "repeated load", around.cyclic, "own")
    elif nature == "cyclic":
        n = CYCLES if cycles is None else cycles
        add("cyclic", f"repeated load, {n:,.0f} times", cyclic(n), "handbook")
    if around.temperature is not None:
        softens = reading["softening_c"]
        add(
            "heat",
            f"{around.temperature:g} °C, softens at {softens.value:g} °C",
            heat(around.temperature, softens.value),
            softens.origin,
        )
    if around.wet and material.key in NYLONS:
        add("wet", "wet nylon", WET_NYLON, "handbook")
    if around.scatter:
        out += _scatter(material)
    if around.bond is not None:
        add("bond", "weld of the batch", around.bond, "own", "across")
    return out


TRIALS = {
    "across": ("trials_across", "own trials, between layers"),
    "along": ("trials_along", "own trials, in the layers"),
}
"""Fields of safe factors by what they act on: each stands in the place of the scatter there, never beside it
(handbook 11)."""


def _scatter(material: Material) -> list[Factor]:
    """The lines of scatter: own trials of parts where there are any, else what bars say."""
    known = {on: r for on, (name, _) in TRIALS.items() if (r := material.readings.get(name)) and r.value is not None}
    lines = [Factor(f"trials_{on}", TRIALS[on][1], float(r.value), r.origin, on) for on, r in known.items()]
    if len(known) == len(TRIALS):
        return lines
    bars = _bars([material.readings[name] for name in TESTED])
    return [*lines, replace(bars, on=next(on for on in TRIALS if on not in known)) if known else bars]


def _bars(tested: list[Reading]) -> Factor:
    """The line of scatter: of the fewest bars behind any of the strengths, their own scatter taken as the prior's."""
    if any(r.origin != "coupon" for r in tested):
        return Factor("scatter", "scatter, no coupon of every strength", UNTESTED, "handbook")
    if not all(r.count for r in tested):
        return Factor("scatter", "scatter, coupons without their number", UNTESTED, "handbook")
    fewest = min(r.count for r in tested)
    words = f"scatter: mean − k·s of {fewest} bar{'s' * (fewest > 1)}, s {100 * PRIOR_SCATTER:g} %"
    return Factor("scatter", words, bound_share(fewest, PRIOR_SCATTER), "coupon")


def tolerance_factor(count: int, share: float = OF_PARTS, sure: float = SURE, freedom: float | None = None) -> float:
    """k, so that mean − k·s of ``count`` readings lies below ``share`` of all with confidence ``sure``: one-sided, σ
    unknown, k = t'(n − 1; δ = z·√n)/√n by the noncentral t (ISO 16269-6). ``freedom``: of s, where it is pooled.
    """
    if count < 1 or (count < 2 and freedom is None):
        raise InputError("bad_options", f"{count} readings have no scatter.", "Give at least two.")
    root = count**0.5
    return float(nctdtrit(count - 1 if freedom is None else freedom, ndtri(share) * root, sure) / root)


def bound_share(count: int, scatter: float, prior: float = PRIOR_SCATTER, bars: float = PRIOR_BARS) -> float:
    """Share of their mean that ``count`` readings with ``scatter`` (deviation over mean) allow: 1 − k·s, s pooled with
    a prior that is worth ``bars`` readings.
    """
    freedom = bars + count - 1
    pooled = ((bars * prior**2 + (count - 1) * scatter**2) / freedom) ** 0.5
    return max(1 - tolerance_factor(count, freedom=freedom) * pooled, 0.0)


def product(factors: list[Factor], on: str) -> float:
    out = 1.0
    for factor in factors:
        out *= factor.value if factor.on == on else 1.0
    return out


def strengths(material: Material, bound: str = "value") -> Strengths:
    """The material's strengths; ``bound`` low or high takes that end of each range where one is known."""

    def read(name: str) -> float:
        reading = material.readings[name]
        end = getattr(reading, bound)
        return float(reading.value if end is None else end)

    return Strengths(*(read(name) for name in ("x_t", "x_c", "z_t", "z_c", "z_s", "x_a")))
