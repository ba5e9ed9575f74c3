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


def family(user, part) -> list[Part]:
    """Every revision of the same part that is in use, itself among them, in the order of their numbers."""
    rows = {p.id: p for p in parts_of(user)}
    root, seen = part, {part.id}
    while root.before_id in rows and root.before_id not in seen:
        root = rows[root.before_id]
        seen.add(root.id)
    found = {root.id, part.id}
    while True:
        more = {p.id for p in rows.values() if p.before_id in found} - found
        if not more:
            break
        found |= more
    return sorted((rows[i] for i in found if i in rows), key=lambda p: (p.revision, p.created))
