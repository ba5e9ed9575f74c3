"""Every feature that can be made on a face: what to point at, which numbers it has, what it is held against."""

from dataclasses import dataclass

from hewel_engine.edits.parameters import Parameter, check_numbers
from hewel_engine.edits.remedies import BY_KEY, FEATURES

TRAVEL = Parameter("travel_mm", "travel", "mm", 0.0, 100.0)
FRICTION = Parameter("friction", "friction", "", 0.01, 2.0)
REPEATED = Parameter("repeated_count", "snapped", "", 0.0, 1.0, choices=("once", "again and again"))
HUB = Parameter("hub_mm", "outer ⌀ of the hub", "mm", 0.5, 2000.0)
FORCE = Parameter("force_n", "force along it", "N", 0.0, 1e6)
PULL = Parameter("pull_n", "pull to hold", "N", 0.0, 1e6)
SCREW = Parameter("screw_mm", "its screw", "mm", 1.0, 60.0)


@dataclass(frozen=True)
class Kind:
    """``point`` and ``second``: what is to be pointed at, and after that (None: nothing more). ``asks``: what its sums
    want to know that is no size of it.
    """

    key: str
    point: str
    second: str | None = None
    asks: tuple[Parameter, ...] = ()

    @property
    def title(self) -> str:
        return BY_KEY[self.key].title

    @property
    def sizes(self) -> tuple[Parameter, ...]:
        return BY_KEY[self.key].parameters

    def check(self, given: dict[str, float]) -> None:
        """Raises InputError ``bad_options`` for a number that it does not have, or that cannot be so much."""
        check_numbers("A feature of this kind", (*self.sizes, *self.asks), given, lambda p: p.high)


KINDS = (
    Kind("snap", "the face that its arm stands on, low on one that stands", None, (REPEATED, FRICTION)),
    Kind("window", "the wall that its catch goes through"),
    Kind("bead", "the pin, or the inside of the bore, where it sits", None, (HUB, FRICTION)),
    Kind("groove", "the bore, or the pin, where it sits", None, (HUB, FRICTION)),
    Kind("thread", "a pin, or the inside of a bore, near its open end", None, (FORCE,)),
    Kind("clamp", "the inside of the bore that closes", "the outside, where it is slit", (SCREW, PULL, FRICTION)),
    Kind("serpentine", "one face, where the spring begins", "the face across from it", (TRAVEL,)),
    Kind("texture", "a plane face that is seen"),
    Kind("broken_edges", "a face; the edges round it are broken"),
)
BY_KIND = {k.key: k for k in KINDS}
assert tuple(BY_KIND) == FEATURES
