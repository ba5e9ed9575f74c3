"""Parts that are bought, not printed, and meet a printed one: a shaft, a rolling bearing, a screw. Their bodies with
the faces that meet something, each by its name. Lengths mm, the axis along z.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.solids import mesh_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.reckoning.sizes import size_of, sizes

SIDES = 96
"""Flats of a round body."""
EXPANSION = 11.5e-6
"""1/K of steel."""


@dataclass(frozen=True)
class Number:
    """A size that is asked for: mm, with what it is before anybody types one."""

    name: str
    words: str
    usual: float


@dataclass(frozen=True, eq=False)
class Body:
    """``faces``: of each a place on it and the outward normal there."""

    mesh: Mesh
    faces: dict[str, tuple[Array, Array]]


@dataclass(frozen=True)
class Kind:
    key: str
    title: str
    numbers: tuple[Number, ...]
    sizes: tuple[str, ...]
    """Threads to choose among; none where the numbers say all."""
    faces: tuple[str, ...]
    make: Callable[[dict[str, float], str], Body]


def _round(diameter: float, low: float, high: float) -> Manifold:
    """Its corners on its circle, a flat in the direction of x."""
    body = Manifold.cylinder(high - low, diameter / 2, circular_segments=SIDES)
    return body.rotate((0, 0, 180 / SIDES)).translate((0, 0, low))


def _at(x: float, z: float, nx: float, nz: float) -> tuple[Array, Array]:
    return np.array([x, 0.0, z]), np.array([nx, 0.0, nz])


def _flat(diameter: float) -> float:
    """From the axis to a flat of a round body."""
    return diameter / 2 * float(np.cos(np.pi / SIDES))


def _shaft(n: dict[str, float], _: str) -> Body:
    wide, long = n["diameter"], n["length"]
    faces = {
        "round face": _at(_flat(wide), long / 2, 1, 0),
        "end": _at(wide / 8, long, 0, 1),
        "other end": _at(wide / 8, 0, 0, -1),
    }
    return Body(mesh_of(_round(wide, 0, long)), faces)


def _bearing(n: dict[str, float], _: str) -> Body:
    bore, outer, wide = n["bore"], n["outer"], n["width"]
    if bore >= outer:
        raise InputError("bad_options", f"A bore of {bore:g} mm is no less than {outer:g} mm.", "Type both again.")
    middle = (bore + outer) / 4
    faces = {
        "outer face": _at(_flat(outer), wide / 2, 1, 0),
        "bore": _at(_flat(bore), wide / 2, -1, 0),
        "side": _at(middle, wide, 0, 1),
        "other side": _at(middle, 0, 0, -1),
    }
    return Body(mesh_of(_round(outer, 0, wide) - _round(bore, -1, wide + 1)), faces)


def _screw(n: dict[str, float], size: str) -> Body:
    wide, long = float(size.removeprefix("M")), n["length"]
    head, tall = (size_of("socket_head_screw", size, key) for key in ("head_diameter_max", "head_height"))
    if head is None or tall is None:
        raise InputError("bad_options", f"There is no screw {size}.", "Choose one of: " + ", ".join(screws()) + ".")
    faces = {
        "shank": _at(_flat(wide), long / 2, 1, 0),
        "under its head": _at((wide + head.value) / 4, 0, 0, 1),
        "end": _at(wide / 8, long, 0, 1),
    }
    return Body(mesh_of(_round(head.value, -tall.value, 0) + _round(wide, -tall.value / 2, long)), faces)


@cache
def screws() -> tuple[str, ...]:
    found = {s.size for s in sizes() if s.item == "socket_head_screw" and s.key == "head_height"}
    return tuple(sorted(found, key=lambda size: float(size.removeprefix("M"))))


def kinds() -> tuple[Kind, ...]:
    length = Number("length", "length", 20.0)
    return (
        Kind("shaft", "shaft or pin", (Number("diameter", "diameter", 8.0), length), (),
             ("round face", "end", "other end"), _shaft),
        Kind("bearing", "rolling bearing", (
            Number("bore", "bore", 8.0), Number("outer", "outer diameter", 22.0), Number("width", "width", 7.0),
        ), (), ("outer face", "bore", "side", "other side"), _bearing),
        Kind("screw", "socket head screw", (length,), screws(), ("shank", "under its head", "end"), _screw),
    )  # fmt: skip


def body_of(key: str, numbers: dict[str, float], size: str) -> Body:
    """A part of a kind; numbers that are not given are the usual ones. Raises InputError ``bad_options``."""
    kind = next((k for k in kinds() if k.key == key), None)
    if kind is None:
        raise InputError("bad_options", f"There is no {key} to be bought.", "Choose another kind.")
    full = {n.name: numbers.get(n.name, n.usual) for n in kind.numbers}
    if any(not 0.2 <= v <= 2000 for v in full.values()):
        raise InputError("bad_options", "A size lies outside 0.2 to 2000 mm.", "Type it again.")
    return kind.make(full, size or (kind.sizes[0] if kind.sizes else ""))
