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


Scale = tuple[float, float]
"""What leaves over what is drawn: in plan, and along the build direction."""
AS_DRAWN: Scale = (1.0, 1.0)


def export(mesh: Mesh, up: Array | Sequence[float], kind: str, title: str, scale: Scale = AS_DRAWN) -> bytes:
    """The oriented part as ``stl`` or ``3mf``; the 3MF carries the direction in the part's own frame."""
    turned = standing(mesh, up)
    turned = Mesh(turned.vertices * [scale[0], scale[0], scale[1]], turned.faces)
    if kind == "stl":
        return write_stl(turned, "oriented part in millimetres")
    direction = " ".join(f"{v:.9g}" for v in unit(up) + np.zeros(3))
    return write_3mf(
        turned, title, {"Description": "Stands in its build direction, z up.", "BuildDirection": direction}
    )


def plate_file(
    mesh: Mesh,
    up: Array | Sequence[float],
    items: Sequence[Sequence[float]],
    title: str,
    stops: Sequence[str],
    mode: str,
    mark: str,
    scale: Scale = AS_DRAWN,
) -> bytes:
    """A whole plate as 3MF: the part standing with ``up`` upward, a copy at every item (x, y of its own origin in mm
    from the bed's corner, degrees anticlockwise about it), in the order of printing; its ``stops`` and a short
    name of its content in words. A copy that is scaled keeps its middle in plan where it stood.
    """
    turned = mesh.moved(upright(up))
    plan, along = scale
    low, high = turned.box
    middle = (low[:2] + high[:2]) / 2
    places = []
    for x, y, degrees in items:
        c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
        turn = np.array([[c, s], [-s, c]])
        x, y = (x, y) + (1 - plan) * middle @ turn
        places.append(np.vstack([np.c_[plan * turn, [0, 0]], [0.0, 0.0, along], [x, y, -along * low[2]]]))
    words = {
        "Description": f"{len(items)} copies on a plate, {mode}; the items stand in the order of printing.",
        "Mark": mark,
        "Copies": str(len(items)),
        "Mode": mode,
        "Pauses": "; ".join(stops) or "none",
    }
    return write_3mf(turned, title, words, places)
