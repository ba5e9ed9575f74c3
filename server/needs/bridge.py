"""The only file of this app that calls the engine: regions, equilibrium, the duties of a part by direction.

All of it answers within a request. The last few parts are kept in memory under their digest, which names their
content, so what is kept can never be out of date.
"""

import json
from base64 import b64encode
from collections.abc import Callable

import numpy as np
from manifold3d import Manifold

from hewel.rounding import significant
from hewel.single_flight import SingleFlightCache
from hewel_engine.edits.solids import mesh_of, solid_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.packing import unpack_faces, unpack_solid
from hewel_engine.loads.cases import read_loads, without_patches, write_loads
from hewel_engine.loads.equilibrium import balance
from hewel_engine.loads.regions import Patch, catch, checked_shape, pointed
from hewel_engine.orientation.needs import landing_on_protected, needs_columns
from hewel_engine.overhangs.duties import ROUND_LYING, Needs, how_it_lies
from hewel_engine.processes import Process
from hewel_engine.spaces.free import space_of
from hewel_engine.spaces.likely import likely_spaces

__all__ = ["InputError"]

KEPT = 3


class Held:
    """A part in memory, ready to be asked."""

    def __init__(self, mesh: Mesh, faces: Faces):
        self.mesh, self.faces = mesh, faces
        self.known = (mesh.normals, mesh.areas, mesh.centroids)  # worked out now, so that pointing need not wait
        self._rays: RayScene | None = None
        self._landed = SingleFlightCache[float](LANDINGS)
        self._measured = SingleFlightCache[tuple[Needs, dict[str, np.ndarray]]](MEASURED)

    @property
    def rays(self) -> RayScene:
        if self._rays is None:
            self._rays = RayScene(self.mesh)
        return self._rays

    def measured(
        self, named: str, needs: Callable[[], Needs], ups: np.ndarray, limit: float
    ) -> tuple[Needs, dict[str, np.ndarray]]:
        """What duties, which ``named`` names, measure in directions ``ups``; kept, for other weights ask it again."""

        def looked() -> tuple[Needs, dict[str, np.ndarray]]:
            found = needs()
            return found, needs_columns(self.mesh, found, ups, limit)

        return self._measured.get((named, ups.tobytes(), limit), looked)

    def landed(self, needs: Needs, protected: str, up: np.ndarray, limit: float) -> float:
        """Support standing on protected faces; calculated once, since a page asks every moment while a study runs.

        ``protected`` names the faces in ``needs``.
        """
        land = lambda: landing_on_protected(self.mesh, self.rays, needs, up, limit)
        return self._landed.get((protected, tuple(up), limit), land)


LANDINGS, MEASURED = 2000, 16
_kept: SingleFlightCache[Held] = SingleFlightCache(KEPT)


def held(solid: str, view: str, fetch: Callable[[str], bytes]) -> Held:
    """The part with these digests; ``fetch`` gives the bytes of a digest."""

    def unpacked() -> Held:
        mesh = unpack_solid(fetch(solid))
        return Held(mesh, unpack_faces(fetch(view), mesh))

    return _kept.get(solid, unpacked)


def density_of(process: dict) -> float:
    """g/cm³ of a process's material."""
    return Process(**process).stock.density


def with_body(row: dict, bodies: dict[str, bytes]) -> dict:
    """A space as the engine reads it, its mating part, named by its digest, taken from ``bodies`` and placed."""
    if "body" not in row:
        return row
    body = row["body"]
    mesh = unpack_solid(bodies[body["solid"]])
    place = np.array(body.get("place") or np.c_[np.eye(3), body["shift"]], float).reshape(3, 4)
    placed = (mesh.vertices @ place[:, :3].T + place[:, 3]).tolist()
    moved = {name: body[name] for name in ("way", "turn")}
    return {"name": row["name"], "body": {"vertices": placed, "faces": mesh.faces.tolist()} | moved}


def spaces(part: Held, rows: list[dict], bodies: dict[str, bytes]) -> list[dict]:
    """Every space as a body to be drawn: those given, and those of the part that look used."""
    written = [space_of(with_body(row, bodies), part.mesh, part.faces) for row in rows]
    likely = likely_spaces(part.mesh, find_bores(part.mesh, part.rays)) if part.mesh.closed else []
    solid = solid_of(part.mesh) if part.mesh.closed else Manifold()
    out = []
    for row in [*written, *likely]:
        corners = mesh_of(row.solid - solid).triangles.astype("<f4")
        out.append({"name": row.name, "likely": row.likely, "corners": b64encode(corners.tobytes()).decode()})
    return out


def space(part: Held, row: dict) -> None:
    """Proves that a space can be kept free; a mating part is read when it is used. Raises InputError."""
    if "body" not in row:
        space_of(row, part.mesh, part.faces)


def point(part: Held, facet: int, wide: bool) -> dict:
    """What pointing at a facet means; raises InputError."""
    return pointed(part.mesh, part.faces, facet, wide)


def shape_of(part: Held, shape: dict) -> dict:
    """A region's shape in its full form; raises InputError."""
    return checked_shape(shape, len(part.mesh.faces))


def region(part: Held, shape: dict, name: str) -> dict:
    """What a region catches: area mm², centre, mean direction; raises InputError where that is nothing."""
    found = catch(part.mesh, part.faces, shape, name)
    axis = shape["cylinder"]["axis"] if "cylinder" in shape else None
    normal = found.normal
    if axis is None and np.linalg.norm(normal) > 0.999:
        axis = (normal / np.linalg.norm(normal)).tolist()
    return {
        "area_mm2": found.area,
        "centre_mm": found.centre.tolist(),
        "axis": axis,
        "diameter_mm": 2 * shape["cylinder"]["radius"] if "cylinder" in shape else None,
    }


def paint(part: Held, shapes: list[tuple[dict, str]]) -> bytes:
    """(m,) uint8: 1 + the number of the last region that a facet lies in for its greater part, 0 for none."""
    out = np.zeros(len(part.mesh.faces), np.uint8)
    for i, (shape, name) in enumerate(shapes, start=1):
        try:
            found = catch(part.mesh, part.faces, shape, name)
        except InputError:
            continue  # told among the troubles of the job
        share = np.zeros(len(out))
        np.add.at(share, found.facets, found.areas)
        out[share > 0.5 * part.mesh.areas] = i
    return out.tobytes()


def balances(part: Held, loads: dict, density: float) -> dict:
    """Equilibrium of every case and combination of a loads file; raises InputError.

    {name: {force_n, moment_nmm (about the centre of mass), answers [{force_n, moment_nmm, centre_mm}], free [words]}}
    """
    read = read_loads(loads, len(part.mesh.faces))
    out = {}
    for case in [*read.cases, *read.combined()]:
        found = balance(part.mesh, part.faces, case, list(read.holds), density)
        out[case.name] = {
            "force_n": found.force.tolist(),
            "moment_nmm": found.moment.tolist(),
            "answers": [
                {"force_n": a.force.tolist(), "moment_nmm": a.moment.tolist(), "centre_mm": a.centre.tolist()}
                for a in found.answers
            ],
            "free": found.free,
        }
    return out


def checked_loads(part: Held, loads: dict | None) -> dict:
    """A loads file from outside in its full form, its regions on the part; raises InputError."""
    read = read_loads(loads, len(part.mesh.faces))
    for hold in read.holds:
        catch(part.mesh, part.faces, hold.on.shape, hold.on.name)
    for case in read.cases:
        for load in case.loads:
            if load.on:
                catch(part.mesh, part.faces, load.on.shape, load.on.name)
    return write_loads(read)


def plain_loads(part: Held, loads: dict) -> dict:
    """A loads file that any reader understands: faces as their facets."""
    read = read_loads(loads, len(part.mesh.faces))
    return write_loads(without_patches(read, lambda shape: catch(part.mesh, part.faces, shape).facets))


def face_of(part: Held, shape: dict) -> dict:
    """A list of facets that is exactly one face, as that face; any other shape as it is."""
    facets = shape.get("facets")
    if facets:
        for wide in (False, True):
            if part.faces.around(facets[0], wide).tolist() == sorted(facets):
                return {"patch": {"facet": facets[0], "wide": wide}}
    return shape


def patches(part: Held, shapes: list[dict]) -> list[Patch]:
    """The pieces of the surface that the shapes catch."""
    found = []
    for shape in shapes:
        try:
            found.append(catch(part.mesh, part.faces, shape))
        except InputError:
            continue  # told among the troubles of the job
    return found


def _needs(part: Held, protected: list[dict], bores: list[dict]) -> Needs:
    fitted = [(np.array(b["cylinder"]["axis"]), 2 * b["cylinder"]["radius"]) for b in bores]
    return Needs(patches(part, protected), fitted)


def columns(part: Held, protected: list, bores: list, ups: list, process: dict, needing: list[float] | None) -> dict:
    """Measures of the job's duties for every direction of ``ups``: {name: [values]}. ``needing`` is the
    share of the overhang that needs support by layer truth, where the layers of a direction are known: then the
    support is followed down as well, and what holds itself scars nothing.
    """
    directions, limit = np.array(ups, float).reshape(-1, 3), Process(**process).limit
    named = json.dumps(protected, sort_keys=True)
    duties = named + json.dumps(bores, sort_keys=True)
    needs, known = part.measured(duties, lambda: _needs(part, protected, bores), directions, limit)
    out = dict(known)
    if needing is not None and needs.protected:
        landed = [part.landed(needs, named, up, limit) for up in directions]
        out["protected_scar_mm2"] = (out["protected_scar_mm2"] + landed) * needing
    return {name: significant(values, 6).tolist() for name, values in out.items()}


def bore_in(shape: dict, up: list, process: dict) -> dict:
    """How a bore lies in a direction: word, tilt in degrees, overhanging chord in mm, whether it stays round."""
    body, p = shape["cylinder"], Process(**process)
    word, tilt, chord = how_it_lies(np.array(body["axis"]), 2 * body["radius"], np.array(up), p.limit, p.clean_bridge)
    return {
        "word": word,
        "tilt_deg": tilt,
        "chord_mm": chord,
        "prints": chord <= p.clean_bridge,
        "round": chord == 0 or 2 * body["radius"] <= ROUND_LYING,
    }
