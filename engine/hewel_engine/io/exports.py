"""The part as it stands on the plate, for the machine's own software."""

from collections.abc import Sequence

import numpy as np

from hewel_engine.geometry.frames import unit, upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf


def standing(mesh: Mesh, up: Array | Sequence[float]) -> Mesh:
    """The part turned so that ``up`` is +z, resting on z = 0 with its box from x = y = 0."""
    turned = mesh.moved(upright(up))
    return Mesh(turned.vertices - turned.box[0], turned.faces)


def export(mesh: Mesh, up: Array | Sequence[float], kind: str, title: str) -> bytes:
    """The oriented part as ``stl`` or ``3mf``; the 3MF carries the direction in the part's own frame."""
    turned = standing(mesh, up)
    if kind == "stl":
        return write_stl(turned, "oriented part in millimetres")
    direction = " ".join(f"{v:.9g}" for v in unit(up) + np.zeros(3))
    return write_3mf(
        turned, title, {"Description": "Stands in its build direction, z up.", "BuildDirection": direction}
    )
