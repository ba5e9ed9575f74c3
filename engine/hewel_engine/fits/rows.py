"""The touching faces of a part as one table, and the steps that draw each of them for its fit. Lengths mm."""

from dataclasses import dataclass
from math import radians, tan

import numpy as np

from hewel_engine.edits.rounding import corners_of
from hewel_engine.errors import InputError
from hewel_engine.fits.estimates import Correction, Estimate, Wish, estimate
from hewel_engine.fits.numbers import FitNumbers
from hewel_engine.geometry.measures import Feature, feature_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.regions import catch


@dataclass(frozen=True, eq=False)
class Corners:
    """Sharp inside corners that a sharp mate is to sit down into: ``angle`` of the sharpest, degrees between its walls;
    ``places`` (k, 3) mm, ``lengths`` (k,) mm of each.
    """

    angle: float
    places: Array
    lengths: Array


Measured = Feature | Corners


@dataclass(frozen=True, eq=False)
class FitRow:
    """A touching face: what it is (None: ``why`` it is nothing), what comes out of it, and the ``steps`` of a recipe
    that draw it for its fit; none where it is as it should be.
    """

    measured: Measured | None
    estimate: Estimate | None
    steps: list[dict]
    why: str = ""


def measured(mesh: Mesh, faces: Faces, rays: RayScene, shapes: list[dict], inside_corner: bool) -> Measured:
    """What one region of the surface is as a measure, or two: across from one to the other. Raises InputError where one
    catches nothing.
    """
    facets = np.unique(np.concatenate([catch(mesh, faces, shape).facets for shape in shapes]))
    return _corners(mesh, facets) if inside_corner else feature_of(mesh, rays, facets)


def _corners(mesh: Mesh, facets: np.ndarray) -> Corners:
    """Those of the part's sharp inside corners that run along some facets."""
    near = np.unique(mesh.faces[facets])
    found = [c for c in corners_of(mesh) if np.isin(c.ends, near).all(axis=1).any()]
    if not found:
        raise InputError("bad_options", "No sharp inside corner runs along this face.", "Point at a wall beside it.")
    angle = min(180 - c.turn for c in found)
    return Corners(angle, np.array([c.centre for c in found]), np.array([c.length for c in found]))


def row_of(found: Measured, wish: Wish, numbers: FitNumbers, up: Array, plate: float) -> FitRow:
    """``plate``: height along ``up`` at which the part stands."""
    if isinstance(found, Corners):
        return _relief(found, numbers)
    told = estimate(found, wish, numbers, up, plate)
    return FitRow(found, told, _steps(found, told, up) if told.change else [])


def _relief(found: Corners, numbers: FitNumbers) -> FitRow:
    """A corner keeps a fillet of half a line's width; its relief is centred on it (handbook 10; card *corner*), half
    the bore's loss larger, and no smaller than a line is wide.
    """
    fillet = numbers.width / 2
    loss = numbers.upright[0].counts / 2
    radius = max(fillet / tan(radians(found.angle) / 2) + loss, numbers.width)
    rows = [Correction("fillet that the line leaves", fillet), Correction("half the loss of a bore", loss)]
    says = ["A sharp mate stands off it: relieve it, or give the mate a fillet."]
    told = Estimate("corner", "", 0.0, fillet, 0.0, 0.0, radius, "off", corrections=rows, says=says)
    set_ = {"radius_mm": round(radius, 3)}
    steps = [step("relieved_corner", place, None, set_) for place in found.places]
    return FitRow(found, told, steps)


def _steps(found: Feature, told: Estimate, up: Array) -> list[dict]:
    by = told.change
    axis = found.axis
    assert axis is not None
    if found.is_round:
        key = f"resized_{found.kind}"
        return [step(key, place, axis, {"to_mm": round(told.to_draw, 3)}) for place in found.places]
    if found.kind == "flat":
        return [step("shifted_flat", found.places[0], axis, {"by_mm": round(by, 3)})]
    normals, outward = (axis, -axis), -1 if found.kind == "slot" else 1
    flats = list(zip(found.places, normals, strict=True))
    if told.lies == "level":  # the upper one moves: the lower lies on its layer, or on the plate
        place, normal = max(flats, key=lambda row: float(row[0] @ up))
        return [step("shifted_flat", place, normal, {"by_mm": round(outward * by, 3)})]
    return [step("shifted_flat", place, normal, {"by_mm": round(outward * by / 2, 3)}) for place, normal in flats]


def step(key: str, place: Array, axis: Array | None, numbers: dict[str, float]) -> dict:
    """What a recipe keeps of one change for a fit."""
    return {
        "key": key, "kind": "fit", "centre_mm": [float(x) for x in place], "on": True, "set": numbers, "may_fill": True,
        "axis": None if axis is None else [float(x) for x in axis], "end_mm": None,
    }  # fmt: skip


def region_after(shape: dict, row: FitRow) -> dict:
    """A region where its face is once it is drawn."""
    found, steps = row.measured, row.steps
    if isinstance(found, Feature) and steps and found.is_round and "cylinder" in shape:
        return {"cylinder": shape["cylinder"] | {"radius": steps[0]["set"]["to_mm"] / 2}}
    if isinstance(found, Feature) and steps and "plane" in shape:
        body = shape["plane"]
        point, normal = np.array(body["point"], float), np.array(body["normal"], float)
        for step in steps:
            axis = np.array(step["axis"])
            if abs((np.array(step["centre_mm"]) - point) @ normal) < body["tol"] and abs(axis @ normal) > 0.99:
                return {"plane": body | {"point": (point + step["set"]["by_mm"] * axis).tolist()}}
    return shape
