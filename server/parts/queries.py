"""Reading parts. Everything is asked on behalf of a person and stays within their workshop."""

from django.db.models import OuterRef, Subquery

from hewel.refusal import not_found
from parts.models import Part
from studies.models import Choice


def parts_of(user):
    newest = Choice.objects.filter(study__part=OuterRef("pk")).order_by("-at")
    return (
        Part.objects.filter(workshop=user.workshop)
        .select_related("by")
        .annotate(choice_id=Subquery(newest.values("id")[:1]))
    )


def part_of(user, part_id) -> Part:
    part = parts_of(user).filter(id=part_id).first()
    if part is None:
        raise not_found("part")
    return part
