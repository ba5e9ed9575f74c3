"""How far advice may go: how much of the part it may change, what stays free, and what the part must still hold."""

from dataclasses import dataclass

from hewel_engine.advice.costs import Holds
from hewel_engine.advice.placed_part import PlacedPart, over_plate
from hewel_engine.advice.protected import Clear, pins_of
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.sections import Pose
from hewel_engine.spaces.free import Space

MOST_CHANGE = 0.15
"""Share of the part's volume that remedies together may add and take away."""


@dataclass(frozen=True, eq=False)
class Bounds:
    """``most_change`` of the part's volume; ``spaces`` in the part's frame; ``holds`` what the part carries, None where
    no loads are written; ``fits`` bores that must stay round. ``full``: every region gets its full remedy, without
    bounds on change and strength, and only written spaces stay free.
    """

    most_change: float = MOST_CHANGE
    spaces: tuple[Space, ...] = ()
    holds: Holds | None = None
    fits: tuple[Bore, ...] = ()
    full: bool = False

    def clear(self, placed: PlacedPart, pose: Pose) -> Clear:
        """What stays free, where the part stands."""
        spaces = [s for s in self.spaces if not (self.full and s.likely)]
        return Clear(pins_of(placed), tuple(s.placed(pose.there) for s in spaces))

    def fitted(self, pose: Pose) -> list[Bore]:
        return over_plate(self.fits, pose)


FULL = Bounds(full=True)
