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


def plate_file(
    mesh: Mesh,
    up: Array | Sequence[float],
    items: Sequence[Sequence[float]],
    title: str,
    stops: Sequence[str],
    mode: str,
    mark: str,
) -> bytes:
    """A whole plate as 3MF: the part standing with ``up`` upward, a copy at every item (x, y of its own origin in mm
    from the bed's corner, degrees anticlockwise about it), in the order of printing; its ``stops`` and a short
    name of its content in words.
    """
    turned = mesh.moved(upright(up))
    places = []
    for x, y, degrees in items:
        c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
        places.append(np.array([[c, s, 0.0], [-s, c, 0.0], [0.0, 0.0, 1.0], [x, y, -turned.box[0][2]]]))
    words = {
        "Description": f"{len(items)} copies on a plate, {mode}; the items stand in the order of printing.",
        "Mark": mark,
        "Copies": str(len(items)),
        "Mode": mode,
        "Pauses": "; ".join(stops) or "none",
    }
    return write_3mf(turned, title, words, places)
