"""What somebody expected before anything was calculated, beside what was found."""

from dataclasses import dataclass
from math import hypot

from hewel_engine.strength.reserves import Reserve

SAME_PLACE = 0.15
"""Share of the part's diagonal within which two places are the same in an engineer's words; a layer is one place."""
EXPECTED = {
    "between layers": {"interlayer_tension", "interlayer_shear", "interlayer_mixed"},
    "across lines": {"in_layer"},
    "wears": {"compression"},
}
"""What each way of breaking is in the modes of a check; other ways are not what a check finds."""


@dataclass(frozen=True)
class Compared:
    """``way`` and ``place``: whether they are as expected, None where that cannot be said; ``away`` mm between, of what
    parts between layers in height only.
    """

    way: bool | None
    place: bool | None
    away: float | None


def compared(how: str, spot: list[float] | None, found: Reserve, diagonal: float) -> Compared:
    """An expected break ``how`` at ``spot`` (3,) mm against a case's worst place; ``diagonal`` mm of the part."""
    way = found.mode in EXPECTED[how] if how in EXPECTED else None
    if spot is None:
        return Compared(way, None, None)
    layers = found.mode in EXPECTED["between layers"]
    apart = [a - b for a, b in zip(spot, found.at, strict=True)]
    away = abs(sum(a * b for a, b in zip(apart, found.up, strict=True))) if layers else hypot(*apart)
    return Compared(way, away <= SAME_PLACE * diagonal, away)
