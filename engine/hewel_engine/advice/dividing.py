"""One part as several pieces: split on a plane, a feature apart, a plate to be put in at a pause; each piece with the
direction that suits it. Lengths mm.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from manifold3d import Manifold

from hewel_engine.advice.placed_part import PlacedPart, same_region
from hewel_engine.edits.exact import Made
from hewel_engine.edits.inserts import embed
from hewel_engine.edits.solids import made_by, mesh_of, solid_of, sound
from hewel_engine.edits.splits import Joint, split
from hewel_engine.edits.tenons import separate
from hewel_engine.edits.tools import Impossible
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.features import Bore, find_bores
from hewel_engine.geometry.frames import same_direction, unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack, Pose
from hewel_engine.orientation.candidates import Candidate, typed
from hewel_engine.orientation.ranking import STANDS, rank
from hewel_engine.overhangs.truth import Overhang
from hewel_engine.processes import Process
from hewel_engine.tolerances import SLIVER

GAP = 5.0
"""mm between pieces that stand side by side."""
ALIKE = 1e-3
"""Pegs whose volumes agree to this share are one piece, made several times."""
UNSAID = "Another piece of the part stands beside it, so how it is cut cannot be said in planes."
"""Why a piece is not made of an exact solid."""
WAYS = ("split", "separate", "embed")
"""How a part becomes several pieces."""


@dataclass(frozen=True, eq=False)
class Piece:
    """``mesh`` where it sits in the whole, part frame; ``up`` the direction it is printed in; made ``count`` times."""

    name: str
    mesh: Mesh
    measured: Candidate
    count: int = 1
    carried: bool = False
    """What hangs in it is carried by a piece that is put in while it prints."""
    made: Made | None = None
    """How it is made exactly, of a part that has an exact solid; None where that cannot be said."""

    @property
    def up(self) -> Array:
        return self.measured.up

    @property
    def needs_support(self) -> bool:
        return not self.carried and any(r.needs_support for r in self.measured.regions)

    def as_dict(self) -> dict:
        m = self.measured.measures
        return {
            "name": self.name,
            "count": self.count,
            "up": (self.up + 0.0).tolist(),
            "volume_mm3": self.mesh.volume,
            "watertight": self.mesh.closed,
            "needs_support": self.needs_support,
            "overhang_area_mm2": m["overhang_area_mm2"],
            "support_volume_mm3": m["support_volume_mm3"],
            "height_mm": m["height_mm"],
            "time_s": m["time_s"],
        }


@dataclass(frozen=True)
class Pause:
    """The machine waits after ``layer`` layers, ``height`` mm up, and a person does ``what``."""

    height: float
    layer: int
    what: str

    def as_dict(self) -> dict:
        return {"height_mm": self.height, "layer": self.layer, "what": self.what}


@dataclass(frozen=True, eq=False)
class DividedPart:
    """What became of the part; ``words`` for whoever puts it together."""

    way: str
    words: str
    numbers: dict[str, float]
    pieces: list[Piece]
    warnings: list[str] = field(default_factory=list)
    pauses: list[Pause] = field(default_factory=list)
    seats: list[dict] = field(default_factory=list)
    """Sockets of a split: place, diameter, peg, depth, wall."""

    def as_dict(self) -> dict:
        return {
            "way": self.way,
            "words": self.words,
            "numbers": self.numbers,
            "pieces": [p.as_dict() for p in self.pieces],
            "warnings": self.warnings,
            "pauses": [p.as_dict() for p in self.pauses],
            "seats": self.seats,
        }


def divided_by_plane(mesh: Mesh, point: Array, normal: Array, process: Process, joint: Joint) -> DividedPart:
    """Two halves and the pegs between them. Raises Impossible, InputError ``not_closed``."""
    normal = unit(normal)
    solid = solid_of(mesh)
    made = split(solid, point, normal, process, joint)
    pieces = [
        _piece("half below", made.below, process, [-normal, normal], made.made[0]),
        _piece("half above", made.above, process, [normal, -normal], made.made[1]),
        *_pegs(made.pegs, normal, process, made.made[2:]),
    ]
    _proved(pieces)
    warnings = [*made.warnings, *_loose(pieces[:2])]
    words = f"Cut at ({_written(point)}), normal to ({_written(normal)})"
    if made.seats:
        pegs = " and ".join(f"{s.peg:.2f}" for s in made.seats)
        words += (
            f"; {len(made.seats)} loose peg{'s' if len(made.seats) > 1 else ''} of {pegs} mm in sockets "
            f"{joint.clearance:.2f} mm wider per side, {made.seats[0].depth:.2f} mm deep in each half."
        )
        if len(made.seats) > 1:
            words += " The first is thicker, so the halves go together one way."
    else:
        words += ", without pegs."
    numbers = {"clearance_mm": joint.clearance, "pegs": float(len(made.seats)), "end_gap_mm": joint.end_gap}
    return DividedPart("split", words, numbers, pieces, warnings, seats=[s.as_dict() for s in made.seats])


def with_a_feature_apart(
    mesh: Mesh, point: Array, normal: Array, process: Process, clearance: float, how: str = "glued",
    depth: float | None = None, pick: Array | None = None,
) -> DividedPart:  # fmt: skip
    """The body, and the feature beyond the plane with a tenon. Raises Impossible, InputError ``not_closed``."""
    normal = unit(normal)
    made = separate(solid_of(mesh), point, normal, process, clearance, how, depth, pick)
    beside = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
    lying = [] if made.lies_on is None else [-made.lies_on]
    exactly = made.made or [None, None]
    ways = [*lying, unit(beside), unit(np.cross(normal, beside)), -normal]
    pieces = [
        _piece("body", made.body, process, [normal, -normal], exactly[0]),
        _piece("feature", made.feature, process, ways, exactly[1]),
    ]
    _proved(pieces)
    return DividedPart("separate", made.words, made.numbers, pieces, made.warnings)


def with_a_plate_put_in(
    mesh: Mesh, up: Array, process: Process, bores: list[Bore], clearance: float, centre: Array | None = None,
    thickness: float | None = None, seat: float | None = None,
) -> DividedPart:  # fmt: skip
    """The body, printed with a pause, and the plate that then carries what would hang: under the level ceiling nearest
    to ``centre`` (part frame), or the first that needs support. Raises Impossible, InputError ``not_closed``.
    """
    placed, pose = PlacedPart.stood(mesh, up, process, bores)
    under = _ceiling(placed, None if centre is None else pose.over_plate(np.asarray(centre, float)))
    made = embed(under, placed.solid, placed.rays, process, clearance, thickness, seat)
    left = _left_over(made.body, made.plate, process)
    known = [r for r in placed.truth.regions if r.needs_support]
    fresh = [r for r in left if not any(same_region(r, k) for k in known)]
    if fresh:
        new = ", ".join(f"{r.kind.replace('_', ' ')} {r.low:.1f} mm up" for r in fresh)
        raise Impossible(f"With the plate in, something else would need support: {new}.")
    back = lambda solid: pose.lying_back(mesh_of(solid))
    body, plate = back(made.body), back(made.plate)
    down = -np.asarray(up, float)
    exactly = [replace(m, edits=[e.placed(*pose.back) for e in m.edits]) for m in made.made]
    pieces = [
        Piece("body", body, typed(body, RayScene(body), up, process, bores), carried=not left, made=exactly[0]),
        _piece_of("plate", plate, process, [up, down], exactly[1]),
    ]
    pause = Pause(made.pause, made.layer, "lay the plate in, its tab in the notch; nothing may stand proud")
    return DividedPart("embed", made.words, made.numbers, pieces, made.warnings, [pause])


def _ceiling(placed: PlacedPart, near: Array | None) -> Underside:
    found = [
        (0.0 if near is None else float(np.linalg.norm(r.centre - near)), n, piece)
        for n, r in enumerate(placed.truth.regions)
        if r.kind in ("bridge", "ledge") and (near is not None or r.needs_support)
        for piece in placed.undersides(r)
    ]
    if not found:
        raise Impossible("No ceiling needs support in this direction, so there is nothing for a plate to carry.")
    return min(found, key=lambda row: row[:2])[2]


def _left_over(body: Manifold, plate: Manifold, process: Process) -> list[Overhang]:
    """What would still need support while the body is printed on over the plate; the plate itself is put in."""
    body, plate = body.as_original(), plate.as_original()
    whole = body + plate
    placed = PlacedPart.after(whole, process)
    area = placed.mesh.areas * (
        made_by(whole) != plate.original_id()
    )  # rounding may leave facets without area beside it
    return [r for r in placed.truth.regions if r.needs_support and area[r.facets].sum() > SLIVER * r.area]


def _loose(pieces: list[Piece]) -> list[str]:
    """What is said of pieces that fall into several bodies."""
    counts = [(p, len(solid_of(p.mesh).decompose())) for p in pieces]
    return [
        f"The {p.name} falls into {n} separate bodies: each of them wants two pegs, or cut elsewhere."
        for p, n in counts
        if n > 1
    ]


def _pegs(pegs: list[Manifold], normal: Array, process: Process, made: list[Made]) -> list[Piece]:
    """Pegs of one size as one piece; the first of each is drawn where it sits."""
    out: list[Piece] = []
    for peg, exactly in zip(pegs, made, strict=True):
        volume = peg.volume()
        same = next((i for i, p in enumerate(out) if abs(p.mesh.volume - volume) < ALIKE * volume), None)
        if same is None:
            out.append(_piece(f"peg {len(out) + 1}", peg, process, [normal], exactly))
        else:
            out[same] = replace(out[same], count=out[same].count + 1)
    return out


def _piece(name: str, solid: Manifold, process: Process, ups: list[Array], made: Made | None) -> Piece:
    if not sound(solid):
        raise Impossible(f"It would leave no closed solid for the {name}.")
    return _piece_of(name, mesh_of(solid), process, ups, made)


def _piece_of(name: str, mesh: Mesh, process: Process, ups: list[Array], made: Made | None) -> Piece:
    """A piece in the first of the directions ``ups`` in which it stands and needs no support; failing that, the best of
    those and the axes.
    """
    tried: list[Candidate] = []
    rays = RayScene(mesh)
    bores = find_bores(mesh, rays)
    for up in [*ups, *np.eye(3), *-np.eye(3)]:
        if not any(same_direction(up, c.up) for c in tried):
            found = typed(mesh, rays, up, process, bores)
            tried.append(found)
            if found.measures["tipping_deg"] >= STANDS and not any(r.needs_support for r in found.regions):
                return Piece(name, mesh, found, made=made)
    return Piece(name, mesh, rank(tried)[0], made=made)


def _proved(pieces: list[Piece]) -> None:
    for piece in pieces:
        if not piece.mesh.closed:
            raise Impossible(f"It would leave an open surface on the {piece.name}.")


def side_by_side(pieces: list[Piece], process: Process) -> list[tuple[str, Mesh]]:
    """Every copy of every piece in its printing pose on one plate, in a row along x, GAP mm apart."""
    at, out = 0.0, []
    for piece in pieces:
        standing = Pose.of(LayerStack(piece.mesh, piece.up, process.layer)).standing(piece.mesh)
        low, high = standing.box
        for number in range(piece.count):
            name = piece.name if piece.count == 1 else f"{piece.name}, {number + 1} of {piece.count}"
            out.append((name, standing.moved(np.eye(3), np.array([at - low[0], -low[1], -low[2]]))))
            at += float(high[0] - low[0]) + GAP
    return out


def one_mesh(pieces: list[tuple[str, Mesh]]) -> Mesh:
    """Several as one, for files that know no pieces."""
    vertices = np.concatenate([m.vertices for _, m in pieces])
    starts = np.cumsum([0, *(len(m.vertices) for _, m in pieces[:-1])])
    return Mesh(vertices, np.concatenate([m.faces + s for (_, m), s in zip(pieces, starts, strict=True)]))


def _written(v: Array) -> str:
    return ", ".join(f"{round(float(x), 3) + 0.0:g}" for x in v)
