"""Rows of a job's hardware cut into the solid, each proved like any other step, with the steel that goes in.

A row: ``id``, ``name``, ``kind`` (see KINDS), ``size``, ``at`` (3,) mm and ``axis`` (3,) into the part, in its own
frame; of a key the other ``end``; of a bolt ``head``, ``washer``, ``nut``, ``pocket``, ``steel``, ``sunk`` and
``cover`` mm; of others ``deep`` and ``rise`` mm; ``own`` sizes of the workshop (see Sizes).
``cut``: where it sits, for a row whose place is cut already.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.advice.adapting import Adapted, reworked
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.protected import NOTHING
from hewel_engine.edits.solids import mesh_of, solid_of
from hewel_engine.edits.steel import Line
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.hardware.catalogue import Bolt, Piece, bolt_numbers, bolt_of, piece_of
from hewel_engine.processes import Process
from hewel_engine.strength.clamping import Clamp, Seat

KINDS = ("bolt", "rod", "insert", "key", "boss", "pad")


@dataclass(frozen=True, eq=False)
class Placed:
    """A row in the part: ``what`` it is; ``where`` it sits (numbers of its cut), None with the reason ``why`` where it
    cannot.
    """

    row: dict
    what: Bolt | Piece | None
    step: dict | None
    where: dict | None
    why: str = ""
    words: str = ""

    @property
    def line(self) -> Line:
        return Line(np.array(self.row["at"], float), unit(self.row["axis"]))

    def clamp(self, modulus: float) -> Clamp | None:
        """Where a bolt bears; None of anything else."""
        if not isinstance(self.what, Bolt) or self.where is None:
            return None
        head, nut = self.what.seats(self.where["grip_mm"], modulus)
        seat = lambda at, out, wide: Seat(self.line.at(self.where[at]), out, self.where["hole_mm"], wide)
        return Clamp(self.row["name"], seat("head_at_mm", -self.line.way, head), seat("nut_at_mm", self.line.way, nut))

    def steel(self) -> Manifold:
        """What goes in, in the part's own frame, plainly."""
        if self.where is None:
            return Manifold()
        line, where, what = self.line, self.where, self.what
        if isinstance(what, Bolt):
            head, nut = where["head_at_mm"], where["nut_at_mm"]
            thick = what.washer[1] if what.washer else 0.0
            end = nut + what.nut_tall + 2 * what.pitch
            bodies = [
                line.prism(head - what.head_tall, end, what.diameter),
                line.prism(head - what.head_tall, head - thick, what.head_bearing),
                line.prism(nut, nut + what.nut_tall, what.nut_flats, what.nut_sides),
            ]
            if what.washer:
                bodies.append(line.prism(head - thick, head, what.washer[0]))
            return Manifold.batch_boolean(bodies, OpType.Add)
        facts = what.facts
        if self.row["kind"] == "key":
            start, end = np.array(self.row["at"], float), np.array(self.row["end"], float)
            along = unit(end - start)
            way = unit(line.way - (line.way @ along) * along)
            size = (float(np.linalg.norm(end - start)), facts["width_mm"], facts["height_mm"])
            box = Manifold.cube(size).translate((0, -size[1] / 2, facts["depth_mm"] - size[2]))
            return box.transform(np.c_[np.column_stack([along, np.cross(way, along), way]), start])
        at = where["head_at_mm"]
        if self.row["kind"] == "pad":
            return line.prism(at - self.step["set"]["deep_mm"], at, facts["diameter_mm"])
        wide = facts.get("outer_mm") or facts["diameter_mm"]
        deep = facts.get("length_mm") or where["depth_mm"]
        top = at - facts["diameter_mm"] if self.row["kind"] == "boss" else at
        return line.prism(top, at + deep, wide)


@dataclass(frozen=True, eq=False)
class Seated:
    """The part with all places cut that can be: how it ``came`` about, and every row."""

    came: Adapted
    rows: list[Placed]

    @property
    def mesh(self) -> Mesh:
        return self.came.mesh


def bolt_for(row: dict, up: Array) -> Bolt:
    """Raises InputError ``bad_options`` where there is no such size."""
    return bolt_of(
        row["size"], row["head"], row["washer"], row["nut"], row["steel"], unit(row["axis"]), up, row["pocket"],
        row.get("own", ()),
    )  # fmt: skip


def what_of(row: dict, up: Array, process: Process) -> tuple[Bolt | Piece, dict]:
    """What a row is, and its step in a recipe. Raises InputError ``bad_options``."""
    axis = unit(row["axis"])
    what: Bolt | Piece
    if row["kind"] == "bolt":
        what = bolt_for(row, up)
        numbers = bolt_numbers(what, row["pocket"], row.get("sunk") or 0.0, row.get("cover") or 0.0)
        if row["pocket"] == "closed" and not row.get("cover"):
            raise InputError(
                "bad_options", "A closed pocket lies under material: how much of it is not said.", "Type it, like 6 mm."
            )
    else:
        piece = piece_of(
            row["kind"], row["size"], row.get("deep"), row.get("rise") or 0.0, axis, up, process, row.get("own", ())
        )
        what, numbers = piece, piece.numbers
    step = {
        "key": row["kind"], "kind": "hardware", "centre_mm": list(row["at"]), "axis": axis.tolist(), "on": True,
        "set": numbers, "may_fill": False, "end_mm": row.get("end"),
    }  # fmt: skip
    return what, step


def seated(
    mesh: Mesh, up: Array, process: Process, bores: list[Bore], rows: list[dict], protected: Array | None = None,
    bounds: Bounds | None = None, watch: Callable[[str, int, int], None] = lambda what, done, total: None,
) -> Seated:  # fmt: skip
    """Cuts what is not cut yet. What cannot be is said with its reason; it keeps nothing else from being cut. Raises
    InputError ``not_closed``.
    """
    made: list[Placed] = []
    for row in rows:
        try:
            what, step = what_of(row, up, process)
            made.append(Placed(row, what, step, row.get("cut")))
        except InputError as no:
            made.append(Placed(row, None, None, None, f"{no.message} {no.hint}"))
    open_ = [p for p in made if p.step and p.where is None]
    came = reworked(mesh, up, process, bores, [p.step for p in open_], protected, watch=watch, bounds=bounds)
    why = {id(step): words for step, words in came.unfit}
    done = iter(came.applied)
    found = {}
    for p in open_:
        if id(p.step) in why:
            found[p.row["id"]] = replace(p, why=why[id(p.step)])
        else:
            applied = next(done)
            found[p.row["id"]] = replace(p, where=dict(applied.tool.numbers), words=applied.tool.words)
    rows_ = [found.get(p.row["id"], p) for p in made]
    if bounds:
        solid = solid_of(came.mesh)
        rows_ = [_clear(p, solid, bounds) for p in rows_]
    return Seated(came, rows_)


def _clear(placed: Placed, solid: Manifold, bounds: Bounds) -> Placed:
    """Says where steel would stand in a space that stays free; its place stays cut, but it is not counted."""
    if placed.where is None:
        return placed
    proud = placed.steel() - solid
    for space in bounds.spaces:
        reaches = 0.0 if space.likely else (proud ^ space.solid).volume()
        if reaches > NOTHING:
            words = f"Its steel would reach {reaches:.1f} mm³ into “{space.name}”, which stays free. Sink it deeper."
            return replace(placed, where=None, why=words)
    return placed


def triangles(placed: Placed) -> Array:
    """(k, 3, 3) mm, part frame: the steel of a row."""
    body = placed.steel()
    return mesh_of(body).triangles if not body.is_empty() else np.zeros((0, 3, 3))
