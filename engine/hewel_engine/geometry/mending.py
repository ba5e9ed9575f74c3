"""Small faults of a mesh, mended and listed; what cannot be mended is said."""

import manifold3d
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import breadth_first_order

from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.distinct import distinct, distinct_points
from hewel_engine.geometry.mesh import Array, Mesh, components


def weld(triangles: Array, tolerance: float = 0.0) -> tuple[Array, np.ndarray]:
    """Join corners of (m, 3, 3) triangles that coincide (on a grid of ``tolerance``): vertices, faces."""
    corners = triangles.reshape(-1, 3)
    first, where = distinct(np.round(corners / tolerance)) if tolerance > 0 else distinct_points(corners)
    return corners[first], where.reshape(-1, 3).astype(np.int32)


def mended(triangles: Array) -> tuple[Mesh, list[Note]]:
    """A mesh from loose triangles (m, 3, 3) mm, with what was mended. Raises InputError when nothing is left."""
    notes: list[Note] = []
    if not np.isfinite(triangles).all():
        raise InputError(
            "non_finite",
            "Some coordinates are not numbers (NaN or infinite).",
            "Export the part again from the program that made it.",
        )
    vertices, faces = weld(triangles)
    faces = _without_degenerate(vertices, faces, notes)
    mesh = Mesh(vertices, faces)
    if mesh.edges.unmatched:
        mesh = _weld_nearby(mesh, notes)
    if mesh.edges.unmatched:
        mesh = _fill_small_holes(mesh, notes)
    mesh = _consistent_winding(mesh, notes)
    mesh = _outside_out(mesh, notes)
    if not mesh.closed:
        notes.append(
            Note(
                "not_closed",
                f"The surface is open along {mesh.edges.unmatched} edges, so it encloses no volume. Directions "
                "can be compared by facet; layers, islands, time and volume need a closed part.",
            )
        )
    return mesh, notes


def _without_degenerate(vertices, faces, notes):
    a, b, c = faces.T
    keep = (a != b) & (b != c) & (c != a)
    dropped = int((~keep).sum())
    if dropped:
        notes.append(Note("degenerate_facets", f"{dropped} facets without area were dropped."))
        faces = faces[keep]
    # A facet given twice the same way round adds nothing; one given both ways round is an infinitely thin
    # skin and goes altogether.
    _, where = distinct(np.sort(faces, axis=1))
    count = np.bincount(where)
    if (count > 1).any():
        turn = _parity(faces)
        net = np.zeros(len(count), int)
        np.add.at(net, where, turn)
        keep = np.zeros(len(faces), bool)
        for sign in (1, -1):
            rows = np.flatnonzero((turn == sign) & (np.sign(net[where]) == sign))
            _, first = np.unique(where[rows], return_index=True)
            keep[rows[first]] = True
        if not keep.all():
            notes.append(Note("duplicate_facets", f"{int((~keep).sum())} repeated facets were dropped."))
            faces = faces[keep]
    if len(faces) == 0:
        raise InputError(
            "no_triangles",
            "The file holds no triangle with an area.",
            "Export the part as a solid body, not as points or curves.",
        )
    return faces


def _parity(faces):
    """(m,) +1 or −1: whether a facet's vertex numbers are an even or odd turn of their sorted order."""
    a, b, c = faces.T
    return np.where((a < b).astype(int) + (b < c) + (c < a) == 2, 1, -1)


def _weld_nearby(mesh: Mesh, notes) -> Mesh:
    """Join vertices a hair apart, when this closes edges."""
    tolerance = max(1e-6 * mesh.diagonal, 1e-7)
    vertices, faces = weld(mesh.triangles, tolerance)
    a, b, c = faces.T
    faces = faces[(a != b) & (b != c) & (c != a)]
    if len(faces) == 0:
        return mesh
    joined = Mesh(vertices, faces)
    if joined.edges.unmatched >= mesh.edges.unmatched:
        return mesh
    notes.append(
        Note("welded", f"Corners up to {tolerance:.1g} mm apart were joined; the open edges they left are closed.")
    )
    return joined


def _boundary_loops(mesh: Mesh) -> list[list[int]]:
    """Vertex loops of the open edges, each running against its facet so that a patch over it faces out."""
    open_id = mesh.edges.pairs[:, 1] < 0
    sides = np.argwhere(open_id[mesh.edges.ids])
    follow: dict[int, list[int]] = {}
    for f, i in sides:
        follow.setdefault(int(mesh.faces[f, (i + 1) % 3]), []).append(int(mesh.faces[f, i]))
    loops = []
    while follow:
        start = next(iter(follow))
        loop, here = [start], start
        while True:
            onward = follow.get(here)
            if not onward:
                loop = []
                break
            after = onward.pop()
            if not onward:
                del follow[here]
            if after == start:
                break
            loop.append(after)
            here = after
        if len(loop) >= 3:
            loops.append(loop)
    return loops


SMALL_HOLE_SHARE = 0.01
"""A hole is small when its patch adds less than this share of the surface, or when one or two facets close it."""


def _fill_small_holes(mesh: Mesh, notes) -> Mesh:
    loops = _boundary_loops(mesh)
    if not loops or len(loops) > 1000:
        return mesh
    vertices, faces = [mesh.vertices], [mesh.faces]
    count, filled, area = len(mesh.vertices), 0, 0.0
    total = float(mesh.areas.sum())
    for loop in loops:
        ring = mesh.vertices[loop]
        middle = ring.mean(axis=0)
        patch = 0.5 * np.linalg.norm(np.cross(ring - middle, np.roll(ring, -1, axis=0) - middle), axis=1).sum()
        if len(loop) > 4 and patch > SMALL_HOLE_SHARE * total:
            continue
        if len(loop) == 3:
            faces.append(np.array([loop], np.int32))
        else:
            rim = np.array(loop, np.int32)
            faces.append(np.c_[rim, np.roll(rim, -1), np.full(len(rim), count, np.int32)].astype(np.int32))
            vertices.append(middle[None])
            count += 1
        filled += 1
        area += patch
    if not filled:
        return mesh
    notes.append(Note("holes_filled", f"{filled} small holes were closed ({area:.3g} mm² of patch)."))
    return Mesh(np.concatenate(vertices), np.concatenate(faces))


def _consistent_winding(mesh: Mesh, notes) -> Mesh:
    """Turn facets so that neighbours agree, shell by shell; the majority of each shell keeps its way round."""
    if not mesh.edges.same_way:
        return mesh
    edges = mesh.edges
    sides = np.argsort(edges.ids.reshape(-1), kind="stable")
    ids = edges.ids.reshape(-1)[sides]
    both = np.flatnonzero(ids[1:] == ids[:-1])
    one, two = sides[both], sides[both + 1]
    start = mesh.faces.reshape(-1)
    agree = start[one] != start[two]
    f, g = one // 3, two // 3
    n, label = components(len(mesh.faces), np.c_[f, g])
    weight = np.where(agree, 1, 2)  # 2 marks a disagreement on the tree's edge
    graph = coo_matrix((np.r_[weight, weight], (np.r_[f, g], np.r_[g, f])), shape=(len(mesh.faces),) * 2).tocsr()
    flip = np.zeros(len(mesh.faces), bool)
    for shell in range(n):
        members = np.flatnonzero(label == shell)
        if not (weight[label[f] == shell] == 2).any():
            continue
        order, before = breadth_first_order(graph, members[0], directed=False)
        for i in order[1:]:
            flip[i] = flip[before[i]] ^ (graph[before[i], i] % 2 == 0)
        if flip[members].sum() * 2 > len(members):
            flip[members] ^= True
    turned = mesh.faces.copy()
    turned[flip] = turned[flip][:, ::-1]
    notes.append(Note("winding", f"{int(flip.sum())} facets faced the wrong way and were turned."))
    return Mesh(mesh.vertices, turned)


AT_ONCE = 2_000_000
"""Pairs of a point and a triangle that are looked at together."""


def winding_numbers(points: Array, triangles: Array) -> Array:
    """(k,) how often a surface winds round each of ``points`` (k, 3): 1 inside, 0 outside (solid angles, van Oosterom
    and Strackee).
    """
    out = np.empty(len(points))
    for rows in np.array_split(np.arange(len(points)), max(1, len(points) * len(triangles) // AT_ONCE)):
        a, b, c = np.moveaxis(triangles[None] - points[rows, None, None], 2, 0)
        la, lb, lc = (np.linalg.norm(v, axis=2) for v in (a, b, c))
        dot = lambda u, v: np.einsum("kij,kij->ki", u, v)
        top = dot(a, np.cross(b, c))
        bottom = la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb
        out[rows] = np.arctan2(top, bottom).sum(axis=1) / (2 * np.pi)
    return out


def winding_number(point: Array, triangles: Array) -> float:
    """How often a surface winds round one point (3,)."""
    return float(winding_numbers(point[None], triangles)[0])


MANY_SHELLS = 400
"""Above this many the nesting of shells is not examined."""


def shells_of(mesh: Mesh) -> list[np.ndarray]:
    """Facet numbers of each connected shell, largest first."""
    _, label = components(len(mesh.faces), mesh.edges.shared)
    order = np.argsort(label, kind="stable")
    cuts = np.flatnonzero(np.diff(label[order])) + 1
    return sorted(np.split(order, cuts), key=len, reverse=True)


def _depth(mesh: Mesh, shells) -> tuple[list[float], list[int]]:
    """Signed volume of each shell, and how many others enclose it."""
    triangles = [mesh.triangles[s] for s in shells]
    middle = mesh.box.mean(axis=0)
    volumes = [
        float(np.einsum("ij,ij->", t[:, 0] - middle, np.cross(t[:, 1] - middle, t[:, 2] - middle)) / 6)
        for t in triangles
    ]
    low = [t.min(axis=(0, 1)) for t in triangles]
    high = [t.max(axis=(0, 1)) for t in triangles]
    depth = [
        sum(
            1
            for j in range(len(shells))
            if j != i
            and (low[j] <= low[i]).all()
            and (high[i] <= high[j]).all()
            and abs(winding_number(triangles[i][0].mean(axis=0), triangles[j])) > 0.5
        )
        for i in range(len(shells))
    ]
    return volumes, depth


def _outside_out(mesh: Mesh, notes) -> Mesh:
    """An inverted outer shell is turned; an inner shell that faces inwards stays: it is a cavity."""
    if mesh.edges.same_way:
        return mesh
    shells = shells_of(mesh)
    if len(shells) > MANY_SHELLS:
        notes.append(Note("many_shells", f"{len(shells)} separate shells: their nesting was not examined."))
        return mesh
    volumes, depth = _depth(mesh, shells)
    wrong = [s for s, v, d in zip(shells, volumes, depth, strict=True) if v < 0 and d % 2 == 0]
    if not wrong:
        return mesh
    turned = mesh.faces.copy()
    rows = np.concatenate(wrong)
    turned[rows] = turned[rows][:, ::-1]
    notes.append(Note("inverted", f"{len(wrong)} shells were inside out and were turned."))
    return Mesh(mesh.vertices, turned)


def count_bodies(mesh: Mesh) -> int:
    """Closed shells of material; a cavity is not a body."""
    shells = shells_of(mesh)
    if len(shells) > MANY_SHELLS:
        return len(shells)
    volumes, _ = _depth(mesh, shells)
    return sum(v > 0 for v in volumes) if mesh.closed else len(shells)


def bodies_of(mesh: Mesh) -> list[np.ndarray]:
    """Facet numbers of each body of a closed mesh, those of its cavities among them; the largest body first. Of
    more than MANY_SHELLS every shell is one.
    """
    shells = shells_of(mesh)
    if len(shells) > MANY_SHELLS:
        return shells
    volumes, _ = _depth(mesh, shells)
    solid = sorted((i for i, v in enumerate(volumes) if v > 0), key=lambda i: -volumes[i])
    out = {i: [shells[i]] for i in solid}
    for hollow, volume in zip(shells, volumes, strict=True):
        if volume <= 0:
            spot = mesh.centroids[hollow[0]]
            round_it = [i for i in solid if abs(winding_number(spot, mesh.triangles[shells[i]])) > 0.5]
            if round_it:  # the smallest that encloses it
                out[round_it[-1]].append(hollow)
    return [np.concatenate(rows) for rows in out.values()]


def hollow_notes(mesh: Mesh) -> list[Note]:
    """Says where a closed body has hollows that nothing opens into: seldom meant, and felt by strength and mass."""
    shells = shells_of(mesh)
    if not mesh.closed or not 1 < len(shells) <= MANY_SHELLS:
        return []
    inside = [-v for v in _depth(mesh, shells)[0] if v < 0]
    if not inside:
        return []
    many = f"{len(inside)} closed hollows" if len(inside) > 1 else "A closed hollow"
    words = (
        f"{many} of {sum(inside):.4g} mm³ inside: it counts as empty. Where it is a mistake, fill it and export again."
    )
    return [Note("hollow", words)]


def united(mesh: Mesh) -> tuple[Mesh, list[Note]]:
    """Bodies that overlap become one, so that no volume counts twice. Closed input only."""
    shells = shells_of(mesh)
    if len(shells) < 2 or not mesh.closed or len(shells) > MANY_SHELLS:
        return mesh, []
    boxes = [(mesh.triangles[s].min(axis=(0, 1)), mesh.triangles[s].max(axis=(0, 1))) for s in shells]
    clash = any(
        (boxes[i][0] < boxes[j][1]).all() and (boxes[j][0] < boxes[i][1]).all()
        for i in range(len(shells))
        for j in range(i)
    )
    if not clash:
        return mesh, []
    volumes, _ = _depth(mesh, shells)

    def solid(rows, flip):
        keep, faces = np.unique(mesh.faces[rows], return_inverse=True)
        faces = faces.reshape(-1, 3)
        return manifold3d.Manifold(
            manifold3d.Mesh64(
                vert_properties=mesh.vertices[keep],
                tri_verts=np.ascontiguousarray(faces[:, ::-1] if flip else faces, np.uint64),
            )
        )

    outer = [solid(s, False) for s, v in zip(shells, volumes, strict=True) if v > 0]
    inner = [solid(s, True) for s, v in zip(shells, volumes, strict=True) if v <= 0]
    whole = manifold3d.Manifold.batch_boolean(outer, manifold3d.OpType.Add)
    if any(s.status() != manifold3d.Error.NoError for s in [*outer, *inner, whole]) or not outer:
        return mesh, [Note("overlap_kept", "Bodies overlap and could not be united; volumes may count twice.")]
    counted = sum(v for v in volumes if v > 0)
    if abs(whole.volume() - counted) <= 1e-6 * counted:
        return mesh, []
    if inner:
        whole -= manifold3d.Manifold.batch_boolean(inner, manifold3d.OpType.Add)
    out = whole.to_mesh64()
    joined = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    return joined, [
        Note(
            "united",
            f"Overlapping bodies were united: {counted:.6g} mm³ of separate solids became {joined.volume:.6g} mm³.",
        )
    ]
