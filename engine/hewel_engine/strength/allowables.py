"""From a material's value to what may be used of it: the knock-downs, each a line of the sum, and the required factor.

RF = Π k_i / (I·γ). Factors on the weld act on Z_t and Z_s only; a shock multiplies the load instead.
"""

from dataclasses import asdict, dataclass
from math import log10

from hewel_engine.materials import Material
from hewel_engine.strength.criterion import Strengths

ROOM = 23.0
"""°C at which the values of a material hold."""
SHOCK = 2.0
CYCLIC, CYCLES = 0.25, 1e6
UNTESTED = 0.8
"""Scatter where no coupon exists."""
WET_NYLON = 0.7
ONE_SIDED = {5: 3.4, 10: 2.4}
"""k(n): one-sided tolerance factor for 95 % with 90 % confidence."""
REQUIRED = {"none": 1.5, "functional": 2.0, "injury": 3.0}
"""Required factor by what a failure does: nothing much, the part's function, somebody hurt."""


@dataclass(frozen=True)
class Factor:
    """One line: ``value`` ≤ 1 on the strength (or ≥ 1 on the load where ``on`` is load); ``on`` all, across or load."""

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
    if around.wet and material.key == "pa":
        add("wet", "wet nylon", WET_NYLON, "handbook")
    if around.scatter and any(reading[name].origin != "coupon" for name in ("x_t", "z_t", "z_s")):
        add("scatter", "scatter, no coupon of every strength", UNTESTED, "handbook")
    if around.bond is not None:
        add("bond", "weld of the batch", around.bond, "own", "across")
    return out


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
