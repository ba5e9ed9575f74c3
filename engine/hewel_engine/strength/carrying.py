"""Which of a part's bodies carry anything: a block that is taken out after printing does not, however near it lies."""

import numpy as np
from manifold3d import Manifold, Mesh64

from hewel_engine.geometry.mesh import Mesh, components
from hewel_engine.geometry.patches import Faces
from hewel_engine.loads.cases import LoadSet
from hewel_engine.loads.regions import catch

APART = 0.05
"""mm of air between two bodies from which on they are separate."""


def carrying(mesh: Mesh, faces: Faces | None, loads: LoadSet) -> Mesh:
    """The part without the bodies that nothing holds or loads and that stand APART from the rest: cubes would bridge
    so small a gap. Facets keep their numbers; those of what is left out have no area. Raises ``bad_loads``.
    """
    count, label = components(len(mesh.faces), mesh.edges.shared)
    if count == 1 or not mesh.closed:
        return mesh
    touched = np.zeros(count, bool)
    acting = [load.on for case in loads.cases for load in case.loads if load.on]
    for on in [*(hold.on for hold in loads.holds), *acting]:
        touched[label[catch(mesh, faces, on.shape, on.name).facets]] = True
    shells = [_shell(mesh, label == i) for i in range(count)]
    hollows = [s for s in shells if s.volume() < 0]
    spare = [
        i
        for i in np.flatnonzero(~touched)
        if shells[i].volume() > 0
        and not any(_boxed(hollow, shells[i]) for hollow in hollows)
        and all(shells[i].min_gap(other, APART) >= APART for j, other in enumerate(shells) if j != i)
    ]
    if not spare or len(spare) + len(hollows) == count:
        return mesh
    out = mesh.faces.copy()
    gone = np.isin(label, spare)
    out[gone] = out[gone, :1]
    return Mesh(mesh.vertices, out)


def _shell(mesh: Mesh, rows: np.ndarray) -> Manifold:
    return Manifold(
        Mesh64(vert_properties=np.array(mesh.vertices), tri_verts=np.ascontiguousarray(mesh.faces[rows], np.uint64))
    )


def _boxed(inner: Manifold, outer: Manifold) -> bool:
    """Whether one body's box lies in the other's."""
    a, b = np.array(inner.bounding_box()), np.array(outer.bounding_box())
    return bool((a[:3] >= b[:3]).all() and (a[3:] <= b[3:]).all())
