"""A lump made into a shell: what lies deeper than a wall is taken out, and the roof over it carries itself. mm.

The wall is what lies within its thickness of the surface: every face pushed inward, and what stands in the wedge at an
edge that is hollow seen from outside. So a bore through the lump keeps a wall of its own.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil

import numpy as np
import shapely
from manifold3d import CrossSection, JoinType, Manifold, OpType

from hewel_engine.edits.fans import OVERLAP, between, slope
from hewel_engine.edits.solids import mesh_of, solid_of
from hewel_engine.edits.tents import ROUNDING, rise_over, tent
from hewel_engine.edits.tools import Impossible, Tool, faceted
from hewel_engine.geometry.features import edge_geometry, ends_of, rises
from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.offsets import outward
from hewel_engine.geometry.plans import as_polygons, loops_of
from hewel_engine.processes import Process
from hewel_engine.tolerances import CONTACT_BAND, OVERHANG_MARGIN, SMOOTH_EDGE

LEAST_ROOM = 100.0
"""mm³ of a cavity below which it saves nothing that could be noticed."""
MOST_SLABS = 3000
"""Facets of a face that are pushed inward one by one; each costs a boolean."""
LOOKS = 10
"""Halvings by which the height at which a roof starts is found."""
SLICES = 12
"""Heights at which a roof's room must lie inside the cavity."""


@dataclass(frozen=True)
class Shell:
    """What is asked of a hollow. ``floor`` mm above the plate, 0: open to the plate, so that it can be looked into;
    ``pitch`` mm between ribs that carry the roof, 0: it carries itself; ``hole`` mm in the floor of each room.
    """

    wall: float
    floor: float
    pitch: float = 0.0
    hole: float = 0.0

    @property
    def used(self) -> dict[str, float]:
        return {"wall_mm": self.wall, "floor_mm": self.floor, "pitch_mm": self.pitch, "hole_mm": self.hole}


def rooms_of(mesh: Mesh, shell: Shell) -> list[Manifold]:
    """The cavities inside the walls of a ``shell``, neither roofed nor ribbed yet. Raises Impossible."""
    on_plate = mesh.triangles[:, :, 2].max(axis=1) < CONTACT_BAND
    rooms = inner(mesh, np.where(on_plate, shell.floor, shell.wall))
    if shell.floor == 0 and not rooms.is_empty():
        mouth = Manifold.extrude(rooms.slice(OVERLAP), 2 * OVERLAP)
        rooms += mouth.translate((0, 0, -OVERLAP))
    return _worth(rooms, f"Nothing is left inside walls of {shell.wall:.2f} mm that would be worth taking out.")


def ribbed(rooms: list[Manifold], shell: Shell) -> list[Manifold]:
    """The rooms between upright ribs as thick as the wall. Raises Impossible."""
    whole = Manifold.batch_boolean(rooms, OpType.Add)
    return _worth(whole - _ribs(whole, shell.wall, shell.pitch), "Between the ribs nothing would be left to take out.")


def roofed(rooms: list[Manifold], process: Process, lowest: bool) -> list[Manifold]:
    """The rooms under roofs that lean at the limit up to a clean bridge: over all of a room, or, with ``lowest``, from
    its lowest ceiling on. Raises Impossible.
    """
    made = [_under_a_roof(room, process, lowest) for room in rooms]
    return _worth(
        Manifold.batch_boolean(made, OpType.Add),
        "A roof that carries itself would leave no room: give it ribs, or open it to the plate.",
    )


def hollow(rooms: list[Manifold], shell: Shell, process: Process) -> Tool:
    """Takes the ``rooms`` out of the part. Raises Impossible where a hole finds no room."""
    drained = shell.hole > 0 and shell.floor > 0
    if drained:
        rooms = [room + _hole(room, shell.hole) for room in rooms]
    taken = sum(room.volume() for room in rooms)
    count = len(rooms)
    words = f"Hollow it to walls of {shell.wall:.2f} mm"
    words += f" and a floor of {shell.floor:.2f} mm; " if shell.floor > 0 else ", open to the plate; "
    if shell.pitch > 0:
        words += f"ribs of {shell.wall:.2f} mm, at most {shell.pitch:.1f} mm apart, carry the roof. "
    else:
        words += f"the roof rises at {process.limit:.0f}° to a flat of at most {process.clean_bridge:.1f} mm. "
    words += f"{taken:.0f} mm³ come out{f' in {count} rooms' if count > 1 else ''}."
    if drained:
        words += f" A hole of {shell.hole:.1f} mm in the floor{' of each' if count > 1 else ''} lets it be looked into."
    numbers = {"wall_mm": shell.wall, "floor_mm": shell.floor, "taken_mm3": taken, "rooms": float(count)}
    remove = Manifold.batch_boolean(rooms, OpType.Add)
    return Tool("hollow", words, numbers, remove=remove, used=shell.used, round_=faceted(remove))


def _worth(rooms: Manifold, else_: str) -> list[Manifold]:
    kept = [room for room in rooms.decompose() if room.volume() > LEAST_ROOM]
    if not kept:
        raise Impossible(else_)
    return kept


def inner(mesh: Mesh, thick: Array) -> Manifold:
    """What of the solid lies deeper than ``thick`` (m,) mm below every facet."""
    return solid_of(mesh) - Manifold.batch_boolean(list(_linings(mesh, thick)), OpType.Add)


def _linings(mesh: Mesh, thick: Array) -> Iterator[Manifold]:
    """Every smooth face pushed inward by its thickness, and the wedges at hollow edges."""
    pairs, _, _, angle = edge_geometry(mesh)
    same = (angle < SMOOTH_EDGE) & (thick[pairs[:, 0]] == thick[pairs[:, 1]])
    count, label = components(len(mesh.faces), pairs[same])
    order = np.argsort(label, kind="stable")
    for rows in np.split(order, np.cumsum(np.bincount(label, minlength=count))[:-1]):
        depth = float(thick[rows[0]])
        if depth <= 0:
            continue
        faces = mesh.faces[rows]
        out = outward(mesh, rows)
        pushed = mesh.vertices - depth * out
        if _turned(mesh, rows, pushed):  # rounder than the wall is thick: facet by facet
            if len(rows) > MOST_SLABS:
                raise Impossible(f"Its surface is rounder than a wall of {depth:.2f} mm is thick: take a thinner one.")
            yield from (_slab(mesh, row, depth) for row in rows)
        else:
            yield between(mesh.vertices + OVERLAP * out, pushed, faces)
    yield from _wedges(mesh, thick, pairs, angle)


def _turned(mesh: Mesh, rows: np.ndarray, pushed: Array) -> bool:
    """Whether some facet would face the other way, or nearly vanish, once its face is pushed inward."""
    a, b, c = (pushed[mesh.faces[rows, i]] for i in range(3))
    across = np.cross(b - a, c - a)
    return bool(((across * mesh.normals[rows]).sum(axis=1) < 0.02 * 2 * mesh.areas[rows]).any())


def _slab(mesh: Mesh, row: int, depth: float) -> Manifold:
    corners, normal = mesh.triangles[row], mesh.normals[row]
    return Manifold.hull_points(np.concatenate([corners + OVERLAP * normal, corners - depth * normal]))


def _wedges(mesh: Mesh, thick: Array, pairs: np.ndarray, angle: Array) -> Iterator[Manifold]:
    """What stands between two faces pushed inward from an edge that is hollow seen from outside, mitred, and drawn out
    past an end where such edges meet until it meets theirs.
    """
    reflex = pairs[(angle >= SMOOTH_EDGE) & (rises(mesh, pairs) > 0)]
    edges = ends_of(mesh, reflex)
    leaving: dict[int, list[Array]] = {}
    for p, q in edges:
        way = mesh.vertices[q] - mesh.vertices[p]
        way = way / max(float(np.linalg.norm(way)), 1e-12)
        leaving.setdefault(int(p), []).append(way)
        leaving.setdefault(int(q), []).append(-way)
    for (a, b), (p, q) in zip(reflex, edges, strict=True):
        depth = max(float(thick[a]), float(thick[b]))
        way = mesh.vertices[q] - mesh.vertices[p]
        size = float(np.linalg.norm(way))
        if depth <= 0 or size == 0:
            continue
        way = way / size
        na, nb = mesh.normals[a], mesh.normals[b]
        tip = (na + nb) / max(1 + float(na @ nb), 0.3)
        past = depth * np.array([_half_turn(way, leaving[int(p)]), _half_turn(-way, leaving[int(q)])])
        ends = mesh.vertices[[p, q]] + np.outer([-past[0], past[1]], way)
        spots = [ends + OVERLAP * (na + nb), ends - depth * na, ends - depth * nb, ends - depth * tip]
        yield Manifold.hull_points(np.concatenate(spots))


def _half_turn(leaves: Array, others: list[Array]) -> float:
    """tan of half the sharpest turn from an edge that ``leaves`` a point into another; 1 at most."""
    straight = min((float(-leaves @ other) for other in others if leaves @ other < 1 - 1e-9), default=1.0)
    return float(np.tan(np.arccos(np.clip(straight, 0, 1)) / 2))


def _ribs(rooms: Manifold, thick: float, pitch: float) -> Manifold:
    """Upright plates across the longer side of the rooms, as far apart as ``pitch`` allows."""
    x0, y0, z0, x1, y1, z1 = rooms.bounding_box()
    along = 0 if x1 - x0 >= y1 - y0 else 1
    low, high = (x0, x1) if along == 0 else (y0, y1)
    cells = max(1, ceil((high - low + thick) / (pitch + thick) - 1e-9))
    clear = (high - low - (cells - 1) * thick) / cells
    plates = []
    for i in range(1, cells):
        at = low + i * clear + (i - 1) * thick
        size = [x1 - x0 + 2, y1 - y0 + 2, z1 - z0 + 2]
        corner = [x0 - 1, y0 - 1, z0 - 1]
        size[along], corner[along] = thick, at
        plates.append(Manifold.cube(tuple(size)).translate(tuple(corner)))
    return Manifold.batch_boolean(plates, OpType.Add) if plates else Manifold()


def _under_a_roof(room: Manifold, process: Process, lowest: bool) -> Manifold:
    """Below some height the room as it is, above it a tent over its outline there: the highest that lies inside."""
    _, _, low, _, _, high = room.bounding_box()
    if lowest:
        mesh = mesh_of(room)
        ceiling = mesh.normals[:, 2] > np.sin(np.radians(process.limit + OVERHANG_MARGIN))
        high = float(mesh.triangles[ceiling][:, :, 2].min(initial=high))
    good, bad = low, high
    for _ in range(LOOKS):
        at = (good + bad) / 2
        good, bad = (at, bad) if _fits(room, at, process) else (good, at)
    return room.trim_by_plane((0, 0, -1), -good) + _tent(room, good, process)


def _tops(room: Manifold, start: float, process: Process) -> list[tuple[shapely.Polygon, float]]:
    """The pieces of a room's outline at ``start``, and how far a roof rises over each; 0 where it is narrow enough."""
    plan = as_polygons(room.slice(start))
    tops = []
    for part in getattr(plan, "geoms", [plan]):
        if part.area >= 1.0:
            tops.append((part, rise_over(part, process)))
    return tops


def _fits(room: Manifold, start: float, process: Process) -> bool:
    """Whether the roofs over the room's outline at ``start`` lie inside the room, and all above it under them."""
    for part, rise in _tops(room, start, process):
        outline = CrossSection(loops_of(part))
        for share in np.linspace(0, 1, SLICES)[1:]:
            here = outline.offset(-share * rise * slope(process.limit) - ROUNDING, JoinType.Miter)
            if (here - room.slice(start + share * rise)).area() > ROUNDING * ROUNDING:
                return False
    return True


def _tent(room: Manifold, start: float, process: Process) -> Manifold:
    """The room above ``start`` under its roofs."""
    tops = _tops(room, start, process)
    tents = [tent(part, start - OVERLAP, start, rise, process) for part, rise in tops if rise > 0]
    return (Manifold.batch_boolean(tents, OpType.Add) ^ room) if tents else Manifold()


def _hole(room: Manifold, diameter: float) -> Manifold:
    """An upright hole from the plate into a room, where the room is widest just above its floor."""
    low = room.bounding_box()[2]
    plan = as_polygons(room.slice(low + 2 * OVERLAP))
    parts = [p for p in getattr(plan, "geoms", [plan]) if not p.is_empty]
    circles = [shapely.maximum_inscribed_circle(p, tolerance=ROUNDING) for p in parts]
    widest = max(circles, key=lambda c: c.length, default=None)
    if widest is None or 2 * widest.length < diameter:
        wide = 2 * widest.length if widest else 0.0
        raise Impossible(f"A hole of {diameter:.1f} mm finds no room in a floor {wide:.1f} mm wide.")
    rod = Manifold.cylinder(low + 2 * OVERLAP + 1.0, diameter / 2, circular_segments=48)
    return rod.translate((*widest.coords[0], -1.0))
