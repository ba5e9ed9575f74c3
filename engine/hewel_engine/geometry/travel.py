"""Where a body is along the way that it moves. Lengths mm, angles degrees."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Array


@dataclass(frozen=True)
class Travel:
    """Along ``way`` for ``length`` mm, or, with ``about``, round the axis through that point for ``length`` degrees;
    part frame.
    """

    way: Array
    length: float
    about: Array | None = None

    def at(self, share: float) -> Array:
        """(3, 4) where a body is after a share of the travel."""
        way = unit(self.way)
        if self.about is None:
            return np.c_[np.eye(3), share * self.length * way]
        angle = np.radians(share * self.length)
        cross = np.array([[0, -way[2], way[1]], [way[2], 0, -way[0]], [-way[1], way[0], 0]])
        turn = np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
        centre = np.asarray(self.about, float)
        return np.c_[turn, centre - turn @ centre]

    def reach(self, points: Array) -> float:
        """mm that the outermost of ``points`` (n, 3) goes."""
        if self.about is None:
            return abs(self.length)
        off = points - np.asarray(self.about, float)
        away = np.linalg.norm(np.cross(off, unit(self.way)), axis=1).max()
        return float(away * np.radians(abs(self.length)))
