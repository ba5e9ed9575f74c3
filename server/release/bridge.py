"""The only file of this app that calls the engine."""

import base64

import numpy as np

from hewel_engine import ENGINE_VERSION
from hewel_engine.geometry.frames import direction_words, unit
from hewel_engine.geometry.pictures import Eye, picture
from hewel_engine.io.exports import AS_DRAWN, export
from hewel_engine.io.packing import unpack_solid
from hewel_engine.processes import Process
from hewel_engine.release.packet import VERSION, sealed
from parts.bridge import png

__all__ = ["AS_DRAWN", "ENGINE_VERSION", "VERSION", "direction_words", "sealed", "unit"]

OF_MATERIAL = ("material", "own")
"""What generic settings take over: the plastic, and what is known of it."""
WIDE, TALL = 900, 620
SIDES = {"from the front": (-0.62, 0.42), "from behind, below": (2.5, -0.5)}
"""Where a report looks at a part from: radians round it, and above the level."""


def generic(numbers: dict) -> dict:
    """The settings that anybody would print with, with the material of these."""
    plain = Process().as_dict()
    return {name: numbers[name] if name in OF_MATERIAL and name in numbers else plain[name] for name in plain}


def seen(solid: bytes, up: list, layer: float) -> list[dict]:
    """Pictures of the standing part for a page: ``words`` where it is seen from, ``data`` PNG in base64."""
    mesh = unpack_solid(solid)
    out = []
    for words, (yaw, pitch) in SIDES.items():
        drawn = picture(mesh, np.array(up, float), layer, WIDE, TALL, Eye.at(yaw, pitch))
        out.append({"words": words, "data": base64.b64encode(png(drawn)).decode()})
    return out


def oriented(solid: bytes, up: list, title: str, scale: tuple[float, float]) -> dict[str, bytes]:
    """The part as it stands, in millimetres, as 3MF and as STL."""
    mesh = unpack_solid(solid)
    return {kind: export(mesh, up, kind, title, scale) for kind in ("3mf", "stl")}


def volume_of(volume: float, copies: int, scale: tuple[float, float]) -> float:
    """mm³ of so many copies as they leave."""
    plan, along = scale
    return volume * copies * plan * plan * along
