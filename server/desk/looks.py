"""What is looked at without being asked for: the layers and the walls of a part in the direction that it stands in, as
soon as that is known and whenever another one is chosen. Looking at a page orders nothing.
"""

from accounts.models import User
from overhangs.stage import OVERHANGS
from parts.models import Part
from sheets.models import Sheet
from stages.stage import calculate
from studies.models import Study
from studies.view import DirectedJob
from walls.stage import WALLS
from work.models import Work

LOOKS = (OVERHANGS, WALLS)


def look(user: User, part: Part, later: bool = False) -> None:
    """Orders what has not been looked at in this direction; what else has changed is for somebody to decide."""
    view = DirectedJob(part)
    if view.up is None or not part.facts["watertight"]:
        return
    for stage in LOOKS:
        newest = stage.rows(part).values_list("inputs__up", flat=True).first()  # the rest of a result is large
        if newest != view.up:
            calculate(stage, user, view, more={"later": True} if later else None)


def once_directions_are_known(work: Work) -> None:
    study = Study.objects.filter(id=work.arguments["result"], part__sheet__struck=None).select_related("part").first()
    if study:
        look(work.by, study.part, later=bool(work.arguments.get("later")))


def after_writing(sender: object, sheet: Sheet, user: User, **_) -> None:
    part = Part.objects.filter(sheet=sheet).first()
    if part and part.job["choice"]:
        look(user, part)
