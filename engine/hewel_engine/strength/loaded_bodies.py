"""Which of a part's bodies carry anything: a block that is taken out after printing does not, however near it lies."""

import numpy as np
from manifold3d import Manifold, Mesh64

from hewel_engine.geometry.mending import bodies_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.loads.cases import LoadSet
from hewel_engine.loads.regions import catch

APART = 0.05
"""mm of air between two bodies from which on they are separate."""


def loaded_bodies(mesh: Mesh, faces: Faces | None, loads: LoadSet) -> Mesh:
    """The part without the bodies that nothing holds or loads and that stand APART from the rest: voxels would bridge
    so small a gap. Facets keep their numbers; those of what is left out have no area. Raises ``bad_loads``.
    """
    if not mesh.closed:
        return mesh
    bodies = bodies_of(mesh)
    if len(bodies) == 1:
        return mesh
    label = np.full(len(mesh.faces), -1)
    for number, rows in enumerate(bodies):
        label[rows] = number
    touched = set(label[touched_by(mesh, faces, loads)].tolist())
    solids = [_solid(mesh, rows) for rows in bodies]
    apart = lambda i: all(solids[i].min_gap(s, APART) >= APART for j, s in enumerate(solids) if j != i)
    spare = [i for i in range(len(bodies)) if i not in touched and apart(i)]
    if not spare or len(spare) == len(bodies):
        return mesh
    out = mesh.faces.copy()
    gone = np.concatenate([bodies[i] for i in spare])
    out[gone] = out[gone, :1]
    return Mesh(mesh.vertices, out)


def touched_by(mesh: Mesh, faces: Faces | None, loads: LoadSet) -> np.ndarray:
    """Numbers of the facets that are held or that a load acts on. Raises ``bad_loads``."""
    acting = [load.on for case in loads.cases for load in case.loads if load.on]
    regions = [*(hold.on for hold in loads.holds), *acting]
    caught = [catch(mesh, faces, on.shape, on.name).facets for on in regions]
    return np.unique(np.concatenate(caught)) if caught else np.zeros(0, np.int64)


def _solid(mesh: Mesh, rows: np.ndarray) -> Manifold:
    return Manifold(
        Mesh64(vert_properties=np.array(mesh.vertices), tri_verts=np.ascontiguousarray(mesh.faces[rows], np.uint64))
    )
