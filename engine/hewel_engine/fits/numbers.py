"""What a process does to a drawn size, with the doubt and the origin of each number. Lengths mm."""

from dataclasses import dataclass

from hewel_engine.processes import Process
from hewel_engine.records import BY_NAME, CAPABILITY, PROFILE, Reading, readings

SHRINKS_BY_ITSELF = 0.25
"""Share of a material's shrinkage that it is doubtful by, where no coupon says it."""
FITS = ("press", "location", "sliding", "free", "in_place")
COMPENSATES = ("shrinkage", "bores", "first_layer")
RESTS_ON = {
    "capability": (
        *(f"fit_{name}" for name in FITS), "bore_upright", "bore_upright_b", "bore_lying", "bore_lying_b",
        "line_excess", "bulge", "shrinkage_x", "shrinkage_y", "shrinkage_z",
    ),
    "profile": tuple(f"compensates_{name}" for name in COMPENSATES),
}  # fmt: skip
"""Fields of the records that a fit rests on."""


@dataclass(frozen=True)
class Known:
    """A number, how far it may be off to either side, where it is from (``record`` and ``name`` of it), and whether a
    machine's own preparation takes care of it, so that it is not counted here.
    """

    words: str
    value: float
    doubt: float
    origin: str
    record: str
    name: str
    compensated: bool = False

    @property
    def counts(self) -> float:
        return 0.0 if self.compensated else self.value


@dataclass(frozen=True)
class FitNumbers:
    """``shrink``: percent along x, y (of the plate) and z; ``upright`` and ``lying``: what a bore loses of its diameter
    D, a + b/D, a first; ``excess``: how far an outer face stands out; ``bulge``: of the first layers, outward.
    ``gaps``: clearance per side, as printed, of every fit; ``wide``: how far it may be off to either side.
    """

    layer: float
    width: float
    shrink: tuple[Known, Known, Known]
    upright: tuple[Known, Known]
    lying: tuple[Known, Known]
    excess: Known
    bulge: Known
    gaps: dict[str, Known]
    wide: dict[str, float]

    def loss(self, lies: str, diameter: float) -> tuple[float, float]:
        """(what a bore loses of its diameter, how far that may be off): a + b/D (handbook 10)."""
        a, b = self.upright if lies == "upright" else self.lying
        return a.counts + b.counts / diameter, a.doubt + b.doubt / diameter


def numbers_of(process: Process, capability: dict[str, Reading], profile: dict[str, Reading]) -> FitNumbers:
    """``capability`` and ``profile``: every reading of the records by its field, starting values where they say none
    (``records.readings``).
    """

    def known(name: str, compensated: bool = False) -> Known:
        field, own = BY_NAME["capability"][name], capability[name]
        low, high = (own.low, own.high) if own.low is not None and own.high is not None else (field.span or (0.0, 0.0))
        return Known(field.words, float(own.value), (high - low) / 2, own.origin, "capability", name, compensated)

    does = {name: bool(profile[f"compensates_{name}"].value) for name in COMPENSATES}
    return FitNumbers(
        process.layer,
        process.width,
        tuple(_shrinkage(process, capability, axis, does["shrinkage"]) for axis in "xyz"),
        (known("bore_upright", does["bores"]), known("bore_upright_b", does["bores"])),
        (known("bore_lying"), known("bore_lying_b")),
        known("line_excess"),
        known("bulge", does["first_layer"]),
        {name: known(f"fit_{name}") for name in FITS},
        {name: _half(BY_NAME["capability"][f"fit_{name}"].span) for name in FITS},
    )


def _half(span: tuple[float, float] | None) -> float:
    return (span[1] - span[0]) / 2 if span else 0.0


def _shrinkage(process: Process, capability: dict[str, Reading], axis: str, compensated: bool) -> Known:
    """Of one axis: as the coupon says; else the material's."""
    own = capability[f"shrinkage_{axis}"]
    if own.value is not None:
        doubt = (own.high - own.low) / 2 if own.low is not None and own.high is not None else 0.0
        name = f"shrinkage_{axis}"
        return Known(f"shrinkage along {axis}", float(own.value), doubt, own.origin, "capability", name, compensated)
    grade = process.stock.readings["shrinkage"]
    value = float(grade.value)
    doubt = (grade.high - grade.low) / 2 if grade.low is not None and grade.high is not None else None
    doubt = SHRINKS_BY_ITSELF * abs(value) if doubt is None else doubt
    return Known("shrinkage", value, doubt, grade.origin, "material", "shrinkage", compensated)


def scale_of(numbers: FitNumbers) -> tuple[float, float]:
    """What a part is to be larger by than it is drawn, in plan and along the build direction, to come out as drawn:
    1/(1 − s) (handbook 10; card *scale*). In plan the mean of x and y, since nobody says how it is turned there.
    """
    x, y, z = (known.value / 100 for known in numbers.shrink)
    return 1 / (1 - (x + y) / 2), 1 / (1 - z)


def drawn_gap(fit: str, printed: float, numbers: FitNumbers) -> float:
    """Clearance per side to be drawn between two pieces of one part so that ``printed`` is left (handbook 10): a
    bore's loss and a peg's excess take theirs, between two walls printed in place both their excesses.
    """
    if fit == "in_place":
        return printed + 2 * numbers.excess.counts
    return printed + numbers.upright[0].counts / 2 + numbers.excess.counts


def given_numbers(process: Process, given: dict[str, dict[str, dict]]) -> FitNumbers:
    """``numbers_of`` readings as they are stored, by record and field; where they say nothing, starting values."""
    return numbers_of(
        process, readings(CAPABILITY, given.get("capability", {})), readings(PROFILE, given.get("profile", {}))
    )


def usual_gap(fit: str, process: Process) -> float:
    """``drawn_gap`` of a fit by the starting values, where no record says more."""
    numbers = given_numbers(process, {})
    return drawn_gap(fit, numbers.gaps[fit].value, numbers)
