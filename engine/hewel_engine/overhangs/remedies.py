"""What would remove the need for support, as numbers: every remedy's size by the sums of the trade. Lengths mm."""

import math


def _tan(limit: float) -> float:
    return math.tan(math.radians(limit))


def teardrop(diameter: float, limit: float) -> dict:
    """Two roof planes tangent to a lying bore; the apex stands (D/2)/sin α above the axis.

    >>> round(teardrop(12.0, 45.0)["apex_mm"], 3)
    8.485
    """
    apex = diameter / 2 / math.sin(math.radians(limit))
    return {"key": "teardrop", "apex_mm": apex, "included_deg": 2 * limit}


def capped_teardrop(diameter: float, limit: float) -> dict:
    """The apex cut flat level with the bore's top: the flat, 2·(apex − c)·tan α, is a short bridge."""
    apex = teardrop(diameter, limit)["apex_mm"]
    return {"key": "capped_teardrop", "cap_mm": diameter / 2, "flat_mm": 2 * (apex - diameter / 2) * _tan(limit)}


def round_chamfer(height: float, limit: float) -> dict:
    """A chamfer at the limit that blends into a round at ``height`` and ends that height × tan α further in."""
    return {"key": "round_chamfer", "starts_mm": height, "inward_mm": height * _tan(limit)}


def pointed_arch(span: float, limit: float) -> dict:
    return {"key": "pointed_arch", "rise_mm": span / (2 * _tan(limit))}


def corner_chamfers(span: float, limit: float, clean_bridge: float) -> dict:
    """Chamfers at both ends of a bridge that leave the clean-bridge limit between them.

    >>> made = corner_chamfers(18.0, 45.0, 10.0)
    >>> round(made["rise_mm"], 6), made["left_mm"]
    (4.0, 10.0)
    """
    inward = max(0.0, (span - clean_bridge) / 2)
    return {"key": "corner_chamfers", "rise_mm": inward / _tan(limit), "left_mm": min(span, clean_bridge)}


def gusset(reach: float, limit: float) -> dict:
    return {"key": "gusset", "rise_mm": reach / _tan(limit)}


def sprue(drop: float, width: float) -> dict:
    """A post under the tip, at least 1 mm and two lines thick."""
    return {"key": "sprue", "height_mm": drop, "thickness_mm": max(1.0, 2 * width)}
