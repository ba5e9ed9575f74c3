"""One of everything that an address of the API can name."""

import json

from farm.actions import begin

from accounts.actions import invite
from hewel.api import api
from sheets import actions as sheets


def schema() -> dict:
    return json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))


def operations() -> list[tuple[str, str]]:
    """(verb, path) of every operation."""
    return sorted((verb, path) for path, verbs in schema()["paths"].items() for verb in verbs)


def things_of(engineer, part, study) -> dict:
    """Values for the parameters of paths; all of the engineer's workshop."""
    invitation, _ = invite(engineer, "viewer", "Wim")
    sheets.amend(engineer, part.sheet_id, 1, {"desk": {"weights": None, "pins": [[0, 0, 1]]}}, "comparison desk")
    return {
        "part_id": part.id,
        "study_id": study.id,
        "work_id": study.work_id,
        "digest": part.view_id,
        "sheet_id": part.sheet_id,
        "record_id": begin(engineer, "machine", {"name": "Bench printer"}).id,
        "invitation_id": invitation.id,
        "person_id": engineer.id,
    }
