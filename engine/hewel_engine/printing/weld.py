"""How well a layer welds to the one below after the wait between them.

The body is a growing bar that loses heat at its sides, a moving fin; the new line is a slab on a half space (both after
Carslaw and Jaeger); the weld heals by reptation (after Wool and O'Connor). What counts is the ratio to a coupon whose
strength across the layers was measured at a layer time of its own. Lengths mm, times s, temperatures °C.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numba import njit, vectorize

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.materials import Material

GAS = 8.314
"""J/(mol·K)"""
KELVIN, REFERENCE_K = 273.15, 473.0
"""K of 0 °C, and of what the healing is counted against."""
RANGES = {"energy": (50.0, 120.0), "exponent": (0.6, 1.5), "conductivity": (0.18, 0.20), "film": (20.0, 80.0)}
"""What the starting values may really be: kJ/mol, 1, W/(m·K), W/(m²·K)."""
WORDS = {
    "energy": "activation energy", "exponent": "weld exponent", "conductivity": "conductivity",
    "film": "heat lost to the air",
}  # fmt: skip
STEPS = 24
"""Layer times between the coupon's and a layer's own at which the ratio is looked at: it never rises with the wait."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(40)
_NODES, _WEIGHTS = 0.5 * (_NODES + 1), 0.5 * _WEIGHTS


@dataclass(frozen=True)
class Weld:
    """Of a material as it is printed. ``density`` g/cm³, ``capacity`` kJ/(kg·K), ``conductivity`` W/(m·K), ``film``
    W/(m²·K), ``energy`` kJ/mol; the coupon's own bar mm and its layer time s.
    """

    deposit_c: float
    softening_c: float
    density: float
    capacity: float = 1.6
    ambient_c: float = 25.0
    conductivity: float = 0.19
    film: float = 40.0
    energy: float = 80.0
    exponent: float = 1.0
    coupon_s: float = 20.0
    coupon_area: float = 40.0
    coupon_perimeter: float = 28.0

    def __post_init__(self):
        if not self.ambient_c < self.softening_c < self.deposit_c:
            raise InputError(
                "bad_options",
                f"A plastic that softens at {self.softening_c:g} °C cannot be laid at {self.deposit_c:g} °C in air of"
                f" {self.ambient_c:g} °C.",
                "The air must be cooler than the softening temperature, and the nozzle hotter.",
            )

    @classmethod
    def of(cls, stock: Material, ambient_c: float = 25.0, **measured: float) -> "Weld":
        """Starting values of a grade; ``measured`` ones come before them."""
        known = {
            "deposit_c": stock.deposit_c, "softening_c": stock.softening_c, "density": stock.density,
            "capacity": stock.heat_capacity, "conductivity": stock.conductivity, "energy": stock.weld_energy,
            "ambient_c": ambient_c,
        }  # fmt: skip
        return cls(**known | measured)


@dataclass(frozen=True, eq=False)
class Layers:
    """What the weld of each layer depends on, (count,): ``area`` mm² and ``perimeter`` mm of its section, ``filled``
    share of it, ``pitch`` mm.
    """

    area: Array
    perimeter: Array
    filled: Array
    pitch: float


@vectorize(["float64(float64)"], cache=True)
def _erf(x):
    """Abramowitz and Stegun 7.1.26 for x ≥ 0, within 1.5e-7."""
    t = 1 / (1 + 0.3275911 * x)
    poly = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))))
    return 1 - poly * np.exp(-x * x)


@njit(cache=True, nogil=True)
def _below(wait, area, perimeter, filled, pitch, capacity, conductivity, film, deposit, ambient):
    """°C of what the new line is laid on: the head of a moving fin, SI inside."""
    if area <= 0.0:
        return ambient
    heat = capacity * filled
    speed = 1e-3 * pitch / wait
    loss = film * (1e-3 * perimeter) / (1e-6 * area)
    flow = heat * speed
    along = (flow + np.sqrt(flow * flow + 4.0 * conductivity * loss)) / (2.0 * loss)
    return ambient + (deposit - ambient) * flow / (along * loss + film)


@njit(cache=True, nogil=True)
def _healed(wait, below, pitch, diffusivity, deposit, softening, energy, nodes, weights):
    """Degree of healing, and whether the joint ever was above softening. The joint cools steadily, so what counts ends
    where it passes softening, or with the wait.
    """
    reach = 1e-3 * pitch
    start = below + 0.5 * (deposit - below)
    if start <= softening:
        return 0.0
    end = wait
    if below < softening:
        share = 2.0 * (softening - below) / (deposit - below)
        low, high = 0.0, 6.0  # erf(x) = share
        for _ in range(60):
            middle = 0.5 * (low + high)
            if _erf(middle) < share:
                low = middle
            else:
                high = middle
        end = min(wait, (reach / low) ** 2 / diffusivity)
    total = 0.0
    for i in range(len(nodes)):  # t = end·u³: the joint is hottest, and cools fastest, at the beginning
        u = nodes[i]
        at = end * u * u * u
        warm = below + 0.5 * (deposit - below) * _erf(reach / np.sqrt(diffusivity * at))
        rate = np.exp(-energy / GAS * (1.0 / (warm + KELVIN) - 1.0 / REFERENCE_K))
        total += weights[i] * rate * 3.0 * end * u * u
    return total**0.25


@njit(cache=True, nogil=True)
def _ratios(waits, area, perimeter, filled, pitch, numbers, reference, since, steps, nodes, weights):
    """(count,) of every layer the least healing over waits from ``since`` s to its own, over the reference."""
    capacity, conductivity, film, deposit, ambient, softening, energy, diffusivity = numbers
    out = np.empty(len(waits))
    for k in range(len(waits)):
        least = np.inf
        first = min(since, waits[k])
        for step in range(steps + 1):
            wait = first * (waits[k] / first) ** (step / steps)
            below = _below(
                wait, area[k], perimeter[k], filled[k], pitch, capacity, conductivity, film, deposit, ambient
            )
            healed = _healed(wait, below, pitch, diffusivity, deposit, softening, energy, nodes, weights)
            least = min(least, healed)
        out[k] = least / reference if reference > 0 else 0.0
    return out


def _numbers(weld: Weld) -> tuple:
    capacity = 1e3 * weld.density * 1e3 * weld.capacity  # J/(m³·K)
    return (
        capacity, weld.conductivity, weld.film, weld.deposit_c, weld.ambient_c, weld.softening_c, 1e3 * weld.energy,
        weld.conductivity / capacity,
    )  # fmt: skip


def below_c(waits: Array, layers: Layers, weld: Weld) -> Array:
    """(count,) °C of what each layer is laid on after ``waits`` (count,) s: T_env + (T_dep − T_env)·ρcv/(λ·h_c·P/A +
    h_c), λ = [ρcv + √((ρcv)² + 4k·h_c·P/A)]/(2·h_c·P/A), v = pitch/wait.
    """
    capacity, conductivity, film, deposit, ambient, *_ = _numbers(weld)
    rows = zip(np.maximum(waits, 1e-3), layers.area, layers.perimeter, layers.filled, strict=True)
    return np.array(
        [_below(w, a, p, f, layers.pitch, capacity, conductivity, film, deposit, ambient) for w, a, p, f in rows]
    )


def _reference(layers: Layers, weld: Weld) -> float:
    """Healing of the coupon's own bar at its own layer time. Raises InputError ``bad_options`` where it is none."""
    bar = Layers(np.array([weld.coupon_area]), np.array([weld.coupon_perimeter]), np.ones(1), layers.pitch)
    reference = float(_least(np.array([weld.coupon_s]), bar, weld, 1.0)[0])
    if reference <= 0:
        raise InputError(
            "bad_options", "By these numbers the coupon itself does not weld.", "Look at its temperatures again."
        )
    return reference


def _least(waits: Array, layers: Layers, weld: Weld, reference: float) -> Array:
    waits, area, perimeter, filled = (
        np.ascontiguousarray(a, float) for a in (waits, layers.area, layers.perimeter, layers.filled)
    )
    return _ratios(
        waits, area, perimeter, filled, layers.pitch, _numbers(weld), reference, weld.coupon_s, STEPS, _NODES, _WEIGHTS
    )


def bonds(waits: Array, layers: Layers, weld: Weld) -> Array:
    """(count,) share of the coupon's strength across the layers that each layer's weld to the one below keeps after
    ``waits`` (count,) s: min(1, (D/D_coupon)^s), never rising with the wait. 0 where the joint never passes softening:
    no weld is reckoned there.
    """
    least = _least(np.maximum(waits, 1e-3), layers, weld, _reference(layers, weld))
    return np.minimum(1.0, least) ** weld.exponent


@njit(cache=True, nogil=True)
def _healings(waits, area, perimeter, filled, pitch, numbers, nodes, weights):
    """(count, w) degree of healing of every layer after each of ``waits`` (w,)."""
    capacity, conductivity, film, deposit, ambient, softening, energy, diffusivity = numbers
    out = np.empty((len(area), len(waits)))
    for k in range(len(area)):
        for i in range(len(waits)):
            below = _below(
                waits[i], area[k], perimeter[k], filled[k], pitch, capacity, conductivity, film, deposit, ambient
            )
            out[k, i] = _healed(waits[i], below, pitch, diffusivity, deposit, softening, energy, nodes, weights)
    return out


def bonds_by_wait(waits: Array, layers: Layers, weld: Weld) -> Array:
    """(count, w) what ``bonds`` says of every layer for each of the rising ``waits`` (w,) s; the least so far is read
    at these alone, so they should lie close.
    """
    waits, area, perimeter, filled = (
        np.ascontiguousarray(a, float) for a in (waits, layers.area, layers.perimeter, layers.filled)
    )
    healed = _healings(waits, area, perimeter, filled, layers.pitch, _numbers(weld), _NODES, _WEIGHTS)
    healed /= _reference(layers, weld)
    later = waits >= weld.coupon_s
    healed[:, later] = np.minimum.accumulate(healed[:, later], axis=1)
    return np.minimum(1.0, healed) ** weld.exponent


@dataclass(frozen=True, eq=False)
class Bond:
    """Of every layer, (count,): the share of strength its weld keeps, with the band of the stated ranges. ``moved``: by
    what share the least one falls where one number is at the worse end of its range.
    """

    value: Array
    low: Array
    high: Array
    moved: dict[str, float]

    @property
    def words(self) -> str:
        """What the band comes from, the most first."""
        rows = sorted(self.moved.items(), key=lambda row: -row[1])
        named = [f"{WORDS[name]} ({100 * share:.0f} %)" for name, share in rows if share >= 0.01]
        return f"The band comes from {', '.join(named)}." if named else "The band is narrower than 1 %."


def banded(waits: Array, layers: Layers, weld: Weld, known: tuple[str, ...] = ()) -> Bond:
    """The bonds with their band: each number that is not ``known`` from coupons is taken at either end of its range,
    and the changes of the logarithm are added in squares.
    """
    value, down, up, worse = _varied(lambda varied: bonds(waits, layers, varied), weld, known)
    at = int(value.argmin()) if len(value) else 0
    moved = {name: float(1 - np.exp(change[at])) if len(value) else 0.0 for name, change in worse.items()}
    return Bond(value, value * down, np.minimum(1.0, value * up), moved)


def _varied(bonds_of: Callable[[Weld], Array], weld: Weld, known: tuple[str, ...]) -> tuple:
    """What ``bonds_of`` says, what multiplies it to the ends of its band, and of every number the logarithm by which
    its worse end changes it.
    """
    value = bonds_of(weld)
    safe, down, up, moved = np.maximum(value, 1e-9), np.zeros(value.shape), np.zeros(value.shape), {}
    for name, ends in RANGES.items():
        if name in known:
            continue
        change = [
            np.log(np.maximum(bonds_of(replace(weld, **{name: end})), 1e-9) / safe)
            for end in (min(ends[0], getattr(weld, name)), max(ends[1], getattr(weld, name)))
        ]
        moved[name] = np.minimum(np.minimum(*change), 0)
        down, up = down + moved[name] ** 2, up + np.maximum(np.maximum(*change), 0) ** 2
    return value, np.exp(-np.sqrt(down)), np.exp(np.sqrt(up)), moved


WAITS = 40
"""Waits of a table, even in logarithms."""


@dataclass(frozen=True, eq=False)
class BondTable:
    """The bonds of every layer against the wait: ``waits`` (w,) s, even in logarithms, ``value`` and the lower edge of
    its band ``low`` (count, w).
    """

    waits: Array
    value: Array
    low: Array

    @classmethod
    def of(
        cls, shortest: float, longest: float, layers: Layers, weld: Weld, known: tuple[str, ...] = ()
    ) -> "BondTable":
        """For waits from ``shortest`` to ``longest`` s."""
        first = max(shortest, 0.1)
        step = np.log(max(longest / first, 1.01)) / (WAITS - 2)
        first = weld.coupon_s * np.exp(-step * np.ceil(np.log(weld.coupon_s / first) / step))  # there is a corner there
        waits = first * np.exp(step * np.arange(WAITS))
        value, down, *_ = _varied(lambda varied: bonds_by_wait(waits, layers, varied), weld, known)
        return cls(waits, value, value * down)

    def at(self, waits: Array) -> tuple[Array, Array]:
        """(count,) value and low of the layers after ``waits`` (count,) s, straight over the logarithm."""
        first, last = np.log(self.waits[[0, -1]])
        place = (np.log(np.maximum(waits, 1e-3)) - first) / (last - first) * (len(self.waits) - 1)
        place = np.clip(place, 0, len(self.waits) - 1)
        left = np.minimum(place.astype(int), len(self.waits) - 2)
        rows, share = np.arange(len(waits)), place - left
        read = lambda t: t[rows, left] * (1 - share) + t[rows, left + 1] * share
        return read(self.value), read(self.low)


PRIOR = (1.0, 0.4)
"""The weld exponent before any bar is broken, and its deviation."""
LITTLE = 3.0
"""Bars whose layer times span less than this factor prove little."""


@dataclass(frozen=True)
class Fitted:
    """``z_ref`` MPa at the coupon's layer time and the weld ``exponent`` with its ``deviation``; ``span`` of the
    layer times.
    """

    z_ref: float
    exponent: float
    deviation: float
    span: float

    @property
    def proves_little(self) -> bool:
        return self.span < LITTLE


def fitted(layer_s: Array, strengths: Array, bars: Layers, weld: Weld, scatter: float = 0.1) -> Fitted:
    """Of bars (count,) broken across the layers at ``strengths`` MPa after ``layer_s`` s a layer: ln Z = ln Z_ref +
    s·ln(D/D_coupon) by least squares with the PRIOR of s; ``scatter`` of single bars, a share of their mean. Raises
    InputError ``bad_options`` for fewer than two bars or strengths that are none.
    """
    if len(strengths) < 2 or (np.asarray(strengths) <= 0).any():
        raise InputError("bad_options", "A fit needs two broken bars at least.", "Give each bar's strength in MPa.")
    x, y = np.log(bonds(layer_s, bars, replace(weld, exponent=1.0))), np.log(strengths)
    from_bars, from_prior = ((x - x.mean()) ** 2).sum() / scatter**2, 1 / PRIOR[1] ** 2
    slope = ((x - x.mean()) * (y - y.mean())).sum() / scatter**2
    exponent = (slope + PRIOR[0] * from_prior) / (from_bars + from_prior)
    z_ref = np.exp(y.mean() - exponent * x.mean())
    span = float(np.max(layer_s) / np.min(layer_s))
    return Fitted(float(z_ref), float(exponent), float((from_bars + from_prior) ** -0.5), span)


def least_wait(layers: Layers, weld: Weld) -> Array:
    """(count,) s: the physical least time of each layer, below which what it is laid on is still above softening. 0
    where even a layer without a wait stands on something firm.
    """
    low, high = np.full(len(layers.area), 1e-3), np.full(len(layers.area), 1e4)
    firm_at_once = below_c(low, layers, weld) <= weld.softening_c
    for _ in range(40):
        middle = np.sqrt(low * high)
        firm = below_c(middle, layers, weld) <= weld.softening_c
        low, high = np.where(firm, low, middle), np.where(firm, middle, high)
    return np.where(firm_at_once, 0.0, high)
