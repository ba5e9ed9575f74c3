"""The stress field as a VTK unstructured grid (.vtu), for any viewer: stress of the cubes, motion of the nodes.

Lengths mm, stresses MPa, in the part's frame. Stress is written [xx, yy, zz, xy, yz, zx], the order of the format.
"""

from pathlib import Path

import meshio
import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.materials import Material
from hewel_engine.strength.criterion import indices, von_mises
from hewel_engine.strength.reserves import allowed
from hewel_engine.strength.solution import stresses
from hewel_engine.strength.stressing import Stressed

ROUND = [0, 1, 3, 2, 4, 5, 7, 6]
"""Corners of a cube in the order of the format's hexahedron."""


def write_vtu(path: Path, found: Stressed, material: Material, up: Array) -> None:
    """Every case of ``found``, with the indices at its cubes' middles on the layers normal to ``up``. What is
    calculated on the surface and in windows is finer than this and not in it.
    """
    model = found.model
    nodes = model.grid.origin + model.lattice.nodes[:, ::-1] * model.grid.size
    cells = {"material share": [model.share], "stiffness share": [model.stiffness]}
    points = {}
    for row in found.cases:
        stress = stresses(model, row.answered)
        used = indices(stress, np.asarray(up, float), allowed(material, row.factors))
        name = row.case.name
        cells[f"{name}: stress, MPa"] = [stress]
        cells[f"{name}: von Mises, MPa"] = [von_mises(stress)]
        cells[f"{name}: interlayer index"] = [used.interlayer]
        cells[f"{name}: worst index"] = [used.worst]
        points[f"{name}: displacement, mm"] = row.answered.displacement
    hexahedra = [("hexahedron", model.lattice.corners[:, ROUND])]
    meshio.Mesh(nodes, hexahedra, point_data=points, cell_data=cells).write(path, file_format="vtu")
