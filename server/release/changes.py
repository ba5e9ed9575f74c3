"""Everything that was changed on a solid since its file came in, revision by revision: in a few words for the report,
and with places and sizes for whoever owns the CAD model.
"""

from dataclasses import dataclass

from parts.models import Part
from remedies import queries as remedies


@dataclass(frozen=True)
class Changes:
    """What one revision changed: ``lines`` in short, and the ``text`` for the owner of the model."""

    lines: list[str]
    text: str


def of_part(part: Part) -> list[Changes]:
    """From the first revision that changed anything to this one."""
    chain, at = [], part
    while at:
        chain.append(at)
        at = at.before_id and Part.objects.select_related("sheet").get(id=at.before_id)
    return [found for revision in reversed(chain) if (found := _of_revision(revision))]


def _of_revision(part: Part) -> Changes | None:
    if proposal := remedies.made_of(part):
        return Changes([row["words"] for row in proposal.result["applied"]], remedies.changes_text(proposal))
    recipe = part.recipe
    if recipe is None:
        return None
    lines = [*_drawn(part, recipe), *_made(part, recipe), *_seated(part, recipe)]
    if recipe.get("piece"):
        lines.append(f"One of the pieces that it was cut into: {recipe['piece']}.")
    if recipe.get("scale"):
        lines.append(f"Scaled by {recipe['scale']:g} in all directions.")
    lines = lines or [f"{step['key'].replace('_', ' ').capitalize()}." for step in recipe["steps"]]
    head = f"{part.name}, revision {part.revision}. Lengths in mm, places in the model's own coordinates."
    return Changes(lines, "\n".join([head, "", *(f"{i}. {line}" for i, line in enumerate(lines, 1))]) + "\n")


def _drawn(part: Part, recipe: dict) -> list[str]:
    """Faces that were drawn for their fits; a round one with the diameter that it has now."""
    job = part.job
    names = {r["id"]: r["name"] for r in job["regions"]["rows"]}
    out = []
    for row in job["touching"]["rows"]:
        if row["id"] not in recipe.get("drawn", {}):
            continue
        shape = recipe["regions"].get(row["on"], {})
        now = f" It is ⌀ {2 * shape['cylinder']['radius']:.2f} mm now." if "cylinder" in shape else ""
        meant = recipe["drawn"][row["id"]]["nominal"]
        fit = f" for its {row['fit']} fit" if row["fit"] != "none" else ""
        out.append(f"{names.get(row['on'], 'A face')}, {meant:.2f} mm, drawn anew{fit}.{now}")
    return out


def _made(part: Part, recipe: dict) -> list[str]:
    rows = part.job["features"]["rows"]
    return [f"{r['name']}: {r['kind']} made." for r in rows if r["id"] in recipe.get("made", [])]


def _seated(part: Part, recipe: dict) -> list[str]:
    """Places cut for hardware, with the sizes of each."""
    out = []
    for row in part.job["hardware"]["rows"]:
        cut = recipe.get("hardware", {}).get(row["id"])
        if cut:
            where = {key: value for key, value in cut["where"].items() if isinstance(value, int | float)}
            sizes = ", ".join(_size(key, value) for key, value in where.items())
            place = f"in at {remedies.point_words(row['at'])} along {remedies.point_words(row['axis'])}"
            out.append(f"{row['name']}: {row['kind']} {row['size']}, {place}; {sizes}.")
    return out


def _size(key: str, value: float) -> str:
    unit = " mm" if key.endswith("_mm") else ""
    return f"{key.removesuffix('_mm').replace('_', ' ')} {value:.2f}{unit}"
