"""A line of the log as a sentence: who did what to which part or record."""

from collections import defaultdict

from audit.models import Entry

SENTENCES = {
    "brought back": "brought {about} back from the bin",
    "cancelled": "stopped a calculation of {about}",
    "correction taken": "took a correction from trials into {about}: {factor}, {why}",
    "currency changed": "set the currency to {currency}",
    "difference settled": "settled a difference of a prepared file of {about}: {reason}",
    "direction asked": "asked for one more direction of {about}",
    "directions worked out after remedies": "had the remedies of {about} in its best directions calculated",
    "fault": "noted a fault at a plate of {about}: {words}",
    "fits drawn": "had the fits of {about} drawn",
    "fits taken": "took the fits of {about} as a revision",
    "hands' hours set": "set the hours of hands",
    "hardware taken": "took the hardware of {about} as a revision",
    "hardware worked out": "had the hardware of {about} calculated",
    "import ordered": "brought {file_name} in",
    "invitation revoked": "took back the invitation of {whom}",
    "invited": "invited {whom} as {role}",
    "joined": "joined the workshop",
    "layers checked": "had the layers of {about} checked",
    "order withdrawn": "withdrew an order of {about}",
    "ordered": "ordered {quantity} of {about}",
    "part taken in": "took {about} in",
    "password changed": "changed the password of {about}",
    "password link made": "made a password link for {about}",
    "password set by a link": "set the password of {about} by a link",
    "person changed": "changed what {about} may do: {role}",
    "photo of a trial": "added a photo to a trial of {about}",
    "pieces taken": "took {pieces} pieces of {about} as parts",
    "pieces worked out": "had {about} divided into pieces",
    "plan taken": "told everybody the plan of {plates} plates",
    "plate counted": "counted a plate of {about}: {good} good, {bad} bad",
    "plate filled": "had a plate filled with {about}",
    "plate pinned": "pinned plate {plate} of {about} to a machine",
    "plate unpinned": "let plate {plate} of {about} go where the plan puts it",
    "prepared file read": "had a prepared file read beside {about}",
    "print started": "started plate {plate} of {about}",
    "put in the bin": "put {about} in the bin",
    "release approved": "approved the release of {about}: {words}",
    "release asked": "asked for a {kind} release of {about}",
    "release refused": "refused the release of {about}: {words}",
    "release taken back": "took the release of {about} back",
    "released": "released {about} as a {kind} file",
    "remedies taken": "took {steps} remedies of {about} as a revision",
    "remedies worked out": "had the remedies of {about} calculated",
    "revision begun": "began a revision of {about} beside revision {beside}",
    "scaled variant ordered": "ordered {about} × {factor}",
    "strength checked": "had the strength of {about} checked",
    "thrown away": "left {about} in the bin for good",
    "trial changed": "changed a trial of {about}",
    "trial taken out": "took a trial of {about} out: {why}",
    "trial written": "wrote down a trial of {about}: {verdict}",
    "unit confirmed": "confirmed the unit of {about}",
    "unit corrected": "had {about} read anew in {units}",
    "walls measured": "had the walls of {about} measured",
    "workshop begun": "began the workshop {about}",
}
"""Of every action that is no edit of a sheet; names in braces are of the entry."""


def sentence(entry: Entry) -> str:
    """What was done, to be read after the person's name."""
    about = f"“{entry.about}”" if entry.about else f"a record ({entry.thing})"
    known = {k: v for k, v in ((entry.before or {}) | (entry.after or {})).items() if isinstance(v, str | int | float)}
    given = defaultdict(lambda: "…", known | {"about": about})
    if entry.action in SENTENCES:
        return SENTENCES[entry.action].format_map(given)
    if entry.action.startswith("print: "):
        return f"at a plate of {about}: {entry.action.removeprefix('print: ')}"
    return f"changed {about}: {entry.action}"
