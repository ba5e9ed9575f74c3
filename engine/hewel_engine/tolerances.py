"""Named tolerances, each with its reason. Lengths mm, angles degrees."""

from math import radians, sin

CONTACT_BAND = 0.005
"""A facet lies on the plate when all its vertices are within this of the lowest plane."""

OVERHANG_MARGIN = 0.1
"""A facet counts as overhanging when it passes the limit by more than this, so that a face built
exactly at the limit is not flagged by rounding."""

SLIVER = 0.02
"""Unsupported regions narrower than this are rounding of the outlines, not hanging material."""

SMOOTH_EDGE = 46.0
"""Facets that meet under less than this belong to one smooth face (an octagonal bore turns 45)."""

FLAT_EDGE = 0.3
"""Facets that meet under less than this lie in one plane."""


def overhang_threshold(limit: float) -> float:
    """n·b below which a facet overhangs for a limit in degrees from the vertical."""
    return -sin(radians(limit + OVERHANG_MARGIN))


CIRCLE_RESIDUAL = 0.02
CIRCLE_RESIDUAL_SHARE = 0.005
"""A vertex belongs to a cylinder when it is this near, or within this share of the radius."""

MAX_TRIANGLES = 1_500_000
MAX_VERTICES = 3 * MAX_TRIANGLES
MAX_BYTES = 200 * 1024 * 1024
"""Above any of these, a file is refused: it would not fit the memory promised to a worker."""
