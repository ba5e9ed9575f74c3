"""The only file of this app that calls the engine. ``check_layers`` runs in a process of its own."""

from collections.abc import Iterator

import numpy as np

from hewel.rounding import significant
from hewel_engine import ENGINE_VERSION
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words, same_direction, unit
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.packing import bores_of, pack_outlines, unpack_solid
from hewel_engine.overhangs.findings import finding_of
from hewel_engine.overhangs.truth import truth_of
from hewel_engine.printing.paths import between_s, hop, layer_paths, seconds_of
from hewel_engine.processes import Process

__all__ = ["ENGINE_VERSION", "InputError", "direction_words", "same_direction", "unit"]


def check_layers(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, carried: list | None = None
) -> Iterator[tuple]:
    """Events of a check of the layers. Results ``truth`` (dict) and ``facets`` (int16 a facet: 1 + its region, 0 for
    none) answer what hangs; ``outlines`` (bytes) and ``log`` (dict of columns) complete it. What hangs at a height (mm)
    among ``carried`` is laid on what is put in there: everywhere, or within so far of an axis through a point.
    """
    yield ("doing", 0, 4, "preparing the part")
    mesh, settings = unpack_solid(solid), Process(**process)
    rays = RayScene(mesh)
    known = bores_of(mesh, rays, solid, view, bores)
    stack = LayerStack(mesh, unit(up), settings.layer)
    yield ("doing", 1, 4, f"cutting {stack.count:,} layers")
    yield ("result", "outlines", pack_outlines(stack))
    yield ("doing", 2, 4, "looking at what hangs")
    truth = truth_of(stack, settings, known, rays)
    label = np.zeros(len(mesh.faces), "<i2")
    for number, region in enumerate(truth.regions, start=1):
        label[region.facets] = number
    result = truth.as_dict()
    for row in result["regions"]:
        row["carried"] = any(_carries(put_in, row, settings.layer) for put_in in carried or [])
        row["needs_support"] &= not row["carried"]
        row["diameter_mm"] = None if row["bore"] is None else known[row["bore"]].diameter
    result["needs_support"] = any(row["needs_support"] for row in result["regions"])
    yield ("result", "facets", label.tobytes())
    yield ("result", "truth", result)
    yield ("doing", 3, 4, "drawing the lines of every layer")
    yield ("result", "log", _log(stack, settings))


def _carries(put_in: dict, region: dict, layer: float) -> bool:
    if abs(region["z_mm"] - put_in["height_mm"]) >= layer + 1e-6:
        return False
    if "at" not in put_in:
        return True
    off = np.array(region["centre_mm"]) - put_in["at"]
    return bool(np.linalg.norm(np.cross(off, put_in["axis"])) <= put_in["within_mm"])


def _log(stack: LayerStack, process: Process) -> dict:
    paths = layer_paths(stack, process)
    short = lambda column: significant(column, 6).tolist()
    return {
        "layer_mm": stack.pitch,
        "first_mm": stack.first,
        "hop_mm": hop(stack),
        "area_mm2": short(stack.integrals[:, 0]),
        "perimeters_mm": short(paths.perimeters),
        "solid_mm": short(paths.solid),
        "sparse_mm": short(paths.sparse),
        "path_s": short(paths.seconds),
    }


def seconds(log: dict, process: dict, copies: int) -> list[float]:
    """Seconds from each layer to the next with so many copies printed together."""
    laid = Process(**process)
    got = seconds_of(np.array(log["path_s"]), laid, copies, between_s(log["hop_mm"], laid, copies))
    return significant(got, 5).tolist()


def areas(labels: bytes, patches: list, count: int) -> list[float]:
    """mm² of each of ``count`` regions that ``patches`` (pieces of facets) cover."""
    region = np.frombuffer(labels, "<i2")
    out = np.zeros(count + 1)
    for patch in patches:
        np.add.at(out, region[patch.facets], patch.areas)
    return out[1:].tolist()


def fit_of(bore: dict, fitted: list[tuple[dict, str]]) -> str | None:
    """The fit of a bore (as the facts tell it) among (cylinder, fit) of the faces that have one."""
    centre, axis = np.array(bore["centre_mm"]), np.array(bore["axis"])
    for shape, fit in fitted:
        body = shape["cylinder"]
        off = np.array(body["point"]) - centre
        beside = np.linalg.norm(off - axis * (off @ axis))
        radius = bore["diameter_mm"] / 2
        if (
            abs(np.array(body["axis"]) @ axis) > 0.9998
            and beside < 0.1 + 0.01 * radius
            and abs(body["radius"] - radius) < 0.1 + 0.01 * radius
        ):
            return fit
    return None


def finding(region: dict, process: dict, fit: str | None, protected: float) -> dict:
    """A region as a finding in words and numbers."""
    found = finding_of(region, Process(**process), region["diameter_mm"], fit, protected)
    return {
        "kind": found.code,
        "verdict": found.verdict,
        "sentence": found.sentence,
        "number": found.number,
        "unit": found.unit,
        "limit": found.limit,
        "because": list(found.because),
        "clearance_mm": found.clearance,
    }
