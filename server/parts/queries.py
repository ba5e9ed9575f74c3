"""Reading parts. Everything is asked on behalf of a person and stays within their workshop."""

from hewel.refusal import not_found
from parts.models import Part


def parts_of(user, struck: bool = False):
    """Parts in use, or those in the bin."""
    rows = Part.objects.filter(workshop=user.workshop, sheet__struck__isnull=not struck)
    return rows.select_related("by", "sheet", "sheet__struck_by")


def part_of(user, part_id) -> Part:
    part = parts_of(user).filter(id=part_id).first()
    if part is None:
        raise not_found("part")
    return part
