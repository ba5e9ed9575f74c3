"""Back to CAD: the edits of a part that came as STEP, done on its exact solid too, and written as STEP.

Which edits are done is one truth, that of the faceted part; here each is repeated on the exact solid, and kept only
where it changes that by the same volume and leaves it sound. What could not be carried over is named.

The library that does it is an optional one (``requirements-cad.txt``); it works in a process of its own.
"""

import importlib.util
import json
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

from hewel_engine.edits.exact import Made
from hewel_engine.errors import InputError
from hewel_engine.io.apart import OUT_OF_MEMORY, run_apart

SECONDS = 240
MEMORY_BASE, MEMORY_PER_BYTE = 1500 * 2**20, 60
"""What the process may hold: the library itself, and in proportion to the file."""
ENDED = {OUT_OF_MEMORY: "it needs too much memory", 4: "the file holds no exact solid"}
CURVED = "It follows a curve: {} flat strips are no model of that. Its words tell how it is made."
WITHOUT = "STEP is written by an optional library that is not installed here."


@dataclass(frozen=True)
class Uncarried:
    """An edit that is not in the exact solid, and why."""

    name: str
    why: str

    def as_dict(self) -> dict:
        return {"name": self.name, "why": self.why}


@dataclass(frozen=True, eq=False)
class Exact:
    """A piece as STEP in millimetres, part frame."""

    name: str
    data: bytes
    volume: float
    left: list[Uncarried]


@dataclass(frozen=True, eq=False)
class Carried:
    """The pieces, and ``data`` with all of them in one STEP file, where they sit when put together."""

    data: bytes
    pieces: list[Exact]

    @property
    def left(self) -> list[dict]:
        """What is not in them, with the name of the piece where there are several."""
        several = len(self.pieces) > 1
        return [row.as_dict() | {"piece": p.name if several else None} for p in self.pieces for row in p.left]


def can_write_step() -> bool:
    return importlib.util.find_spec("OCP") is not None


def carried_over(source: bytes, title: str, pieces: dict[str, Made]) -> Carried:
    """The named pieces of the solid in the STEP file ``source``. Raises InputError ``no_step`` where the library is
    missing or fails.
    """
    if not can_write_step():
        raise InputError("no_step", WITHOUT, "Let whoever keeps this installation add requirements-cad.txt.")
    kept = [[edit for edit in made.edits if not edit.follows_a_curve] for made in pieces.values()]
    asked = [
        {"name": name, "of_part": made.of_part, "edits": [edit.as_dict() for edit in edits]}
        for (name, made), edits in zip(pieces.items(), kept, strict=True)
    ]
    with tempfile.TemporaryDirectory(prefix="hewel-exact-") as folder:
        place = Path(folder)
        (place / "in.step").write_bytes(source)
        (place / "order.json").write_text(json.dumps({"name": title, "pieces": asked}))
        memory = MEMORY_BASE + MEMORY_PER_BYTE * len(source)
        words = (place / "in.step", place / "order.json", place)
        try:
            ended = run_apart("exact_apart.py", *words, seconds=SECONDS, memory=memory)
        except subprocess.TimeoutExpired:
            raise _failed(f"it took more than {SECONDS} s") from None
        if ended or not (place / "result.json").exists():
            raise _failed(ENDED.get(ended, "the library broke off"))
        result = json.loads((place / "result.json").read_text())
        out = []
        for number, ((name, made), edits, row) in enumerate(zip(pieces.items(), kept, result, strict=True)):
            left = [Uncarried(e.name, CURVED.format(e.faces)) for e in made.edits if e.follows_a_curve]
            left += [Uncarried(edits[r["edit"]].name, r["why"]) for r in row["left"]]
            out.append(Exact(name, (place / f"{number}.step").read_bytes(), row["volume_mm3"], left))
        return Carried((place / "all.step").read_bytes(), out)


def _failed(why: str) -> InputError:
    return InputError(
        "no_step", f"The exact solid could not be changed: {why}.", "Use the list of changes, or the mesh, instead."
    )
