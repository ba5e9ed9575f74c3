"""The only file of this app that calls the engine. ``gauge`` runs in a process of its own."""

from collections.abc import Callable, Iterator

import numpy as np

from hewel.single_flight import SingleFlightCache
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.sizing import places
from hewel_engine.advice.widths import advised, burden_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import same_direction, unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.loaded_bodies import touched_by
from hewel_engine.strength.sizing import Bent, sized_boss
from hewel_engine.strength.sizing import sized as sized_bent
from hewel_engine.strength.stressing import COARSE, Stressed, stressed
from hewel_engine.walls.drawn import drawn, layers_drawn
from hewel_engine.walls.lines import Comb, Plates
from hewel_engine.walls.thickness import thickness_of
from hewel_engine.walls.zones import walls_of

__all__ = ["ENGINE_VERSION", "InputError", "same_direction"]

SEEN = 0.005
"""mm by which a drawn outline may stray: less than is seen."""
MOST_ZONES = 200
"""Zones that are told and drawn, the largest of what is wrong first."""


def gauge(
    solid: bytes, view: bytes, bores: list | None, up: list | None, process: dict, loads: dict | None, service: dict
) -> Iterator[tuple]:
    """Events of measuring the walls; results ``view`` (bytes) and ``result`` (dict), and ``layers`` (dict) where it is
    known how the part stands. ``loads``: a loads file; ``service``: the circumstances (``around``) and the required
    ``factor`` that a reserve is divided by.
    """
    yield ("doing", 0, 6, "measuring thicknesses")
    mesh, settings = unpack_solid(solid), Process(**process)
    stands = None if up is None else unit(up)
    found = thickness_of(mesh)
    yield ("doing", 1, 6, "joining them into zones")
    comb = Comb.of(settings)
    walls = walls_of(found, comb, None if up is None else Plates.of(settings, stands))
    zones = walls.zones[:MOST_ZONES]
    number = np.zeros(len(found.mesh.faces), np.int16)
    for i, zone in enumerate(zones, start=1):
        number[zone.facets] = i
    yield ("doing", 2, 6, "drawing them")
    yield ("result", "view", pack_view(found.mesh, find_faces(found.mesh), number))
    result = walls.as_dict(found)
    result["untold"] = len(walls.zones) - len(zones)
    result["comb"] = {
        "widths_mm": comb.widths.tolist(),
        "gaps_mm": [list(g) for g in comb.gaps],
        "least_mm": comb.least,
        "double_mm": comb.double,
        "heavy_mm": comb.heavy,
    }
    yield ("doing", 3, 6, "looking at bosses, holes and corners")
    known = bores_of(mesh, RayScene(mesh), solid, view, bores)
    stack = None if up is None else LayerStack(mesh, stands, settings.layer)
    result["places"] = places(mesh, stack, settings, known, found)
    yield ("doing", 4, 6, "calculating what the walls carry")
    touched, solved = _loaded(mesh, unpack_faces(view, mesh), loads, settings, stands, service)
    burden = burden_of(found, known, result["places"], touched, solved, settings, stands, service["factor"])
    result["zones"] = [z.as_dict() | advised(z, comb, settings, burden).as_dict() for z in zones]
    yield ("result", "result", result)
    if stack:
        yield ("doing", 5, 6, "drawing the lines of every layer")
        yield ("result", "layers", layers_drawn(stack, settings).as_dict() | {"layer_mm": settings.layer})


def _loaded(
    mesh: Mesh, faces: Faces, loads: dict | None, process: Process, up: np.ndarray | None, service: dict
) -> tuple[np.ndarray, Stressed | None]:
    """Facets that are held or loaded, and the stress of the part standing ``up``: None where no loads are written,
    where they find no rest (strength says why), or while no direction is known.
    """
    if not loads:
        return np.zeros(0, np.int64), None
    try:
        given = read_loads(loads, len(mesh.faces))
        touched = touched_by(mesh, faces, given)
        if up is None or not given.cases or not given.holds:
            return touched, None
        around = Circumstances(**service["around"])
        return touched, stressed(mesh, faces, given, process, around, COARSE)
    except InputError:
        return np.zeros(0, np.int64), None


_stacks: SingleFlightCache[LayerStack] = SingleFlightCache(2)


def lines(digest: str, solid: Callable[[], bytes], up: list, process: dict, number: int) -> dict:
    """The lines that the nozzle lays in one layer, and what they leave: loops of x, y in mm, by kind."""
    settings = Process(**process)
    key = f"{digest} {up} {settings.layer}"
    stack = _stacks.get(key, lambda: LayerStack(unpack_solid(solid()), unit(up), settings.layer))
    made = drawn(stack.plan(number), settings)
    loops = lambda plan: [np.round(loop, 3).ravel().tolist() for loop in plan.simplify(SEEN).to_polygons()]
    box = stack.points[:, :2]
    return {
        "box_mm": [*box.min(axis=0).tolist(), *box.max(axis=0).tolist()],
        "outline": loops(stack.plan(number)),
        "lines": [loops(line.middle) for line in made.lines],
        "core": loops(made.core),
        "slits": loops(made.slits),
        "bare": loops(made.bare),
        "slit_mm2": made.slits.area(),
        "bare_mm2": made.bare.area(),
        "width_mm": settings.width,
        "inner_mm": settings.inner_width,
    }


def sized(asked: dict, up: list, process: dict, around: dict) -> dict:
    """A piece sized by calculation in the circumstances of the job, see ``strength.sizing``. Raises InputError
    ``bad_options``.
    """
    settings, stands, service = Process(**process), unit(up), Circumstances(**around)
    if asked["kind"] == "boss":
        return {
            "bent": None,
            "boss": sized_boss(asked["load_n"], asked["hole_mm"], stands, asked["factor"], settings, service),
        }
    piece = Bent(asked["kind"], asked["span_mm"], asked["width_mm"], asked["load_n"], asked["sag_mm"])
    along, normal = unit(asked["along"]), asked["normal"] and unit(asked["normal"])
    result = sized_bent(piece, asked["thickness_mm"], along, stands, asked["factor"], settings, service, normal)
    return {"bent": result, "boss": None}
