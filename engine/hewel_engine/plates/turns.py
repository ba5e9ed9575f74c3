"""Printing one copy after another: what the head and its rail may not strike. Lengths mm.

A copy that is printed while another stands finished beside it comes to harm where the finished one is higher than the
clearance under the head and its outline meets the later one grown by the head's radius, or where it is higher than the
rail and their bands under the rail meet. Whatever is printed last may be of any height.
"""

from dataclasses import dataclass

import shapely

from hewel_engine.plates.nesting import Item, Rule


@dataclass(frozen=True)
class Head:
    """``radius`` of the head round the nozzle, ``clearance`` under it, height of the ``gantry`` that carries it, and
    the axis (x or y) that the ``rail`` runs along.
    """

    radius: float = 45.0
    clearance: float = 3.0
    gantry: float = 30.0
    rail: str = "x"

    def rule(self, height: float, spacing: float) -> Rule:
        """How near copies of one height may stand that are printed one after another, in whatever order."""
        gap = max(spacing, self.radius) if height > self.clearance else spacing
        return Rule(gap, self.rail if height > self.gantry else "")


@dataclass(frozen=True)
class Collision:
    """Numbers of the copy being printed and of the finished one that is struck, and by what."""

    printed: int
    finished: int
    by: str


def in_order(items: list[Item], outline: shapely.Geometry, rail: str) -> list[Item]:
    """From the far corner on: the bands across the rail from the farthest to the nearest, so that the head comes to
    rest in front of what is finished.
    """
    key = lambda item: (lambda b: (-b[1], b[0]) if rail == "x" else (-b[0], b[1]))(item.on(outline).bounds)
    return sorted(items, key=key)


def collisions(placed: list[shapely.Geometry], heights: list[float], head: Head) -> list[Collision]:
    """What is struck while outlines of these heights are printed in this order; empty where the order is proved. The
    areas that the head sweeps are cut with the outlines of what is finished.
    """
    out = []
    for later in range(1, len(placed)):
        swept = placed[later].buffer(head.radius * (1 - 1e-6), quad_segs=64)
        x0, y0, x1, y1 = placed[later].bounds
        for before in range(later):
            other = placed[before]
            a0, b0, a1, b1 = other.bounds
            if heights[before] > head.clearance and swept.intersection(other).area > 1e-9:
                out.append(Collision(later, before, "head"))
            elif heights[before] > head.gantry:
                meet = (b0 < y1 - 1e-6 and y0 < b1 - 1e-6) if head.rail == "x" else (a0 < x1 - 1e-6 and x0 < a1 - 1e-6)
                if meet:
                    out.append(Collision(later, before, "rail"))
    return out
