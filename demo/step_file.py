"""A small writer of STEP files: a block with upright bores, its faces exact planes and cylinders.

Enough to make files that a CAD program would send; lengths are in the unit that is named.
"""

from collections.abc import Iterable

UNIT = {
    "mm": "( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.) )",
    "m": "( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.) )",
}
Bore = tuple[float, float, float, float]
"""x, y, radius, depth from the top; a depth not below the block's height goes through."""


class _Writer:
    def __init__(self):
        self.lines: list[str] = []

    def add(self, text: str) -> str:
        self.lines.append(f"#{len(self.lines) + 1}={text};")
        return f"#{len(self.lines)}"

    def point(self, xyz) -> str:
        return self.add("CARTESIAN_POINT('',({},{},{}))".format(*map(_real, xyz)))

    def direction(self, xyz) -> str:
        return self.add("DIRECTION('',({},{},{}))".format(*map(_real, xyz)))

    def vertex(self, xyz) -> str:
        return self.add(f"VERTEX_POINT('',{self.point(xyz)})")

    def frame(self, at, axis, across) -> str:
        return self.add(f"AXIS2_PLACEMENT_3D('',{self.point(at)},{self.direction(axis)},{self.direction(across)})")

    def line_edge(self, a, va, b, vb) -> str:
        along = [q - p for p, q in zip(a, b, strict=True)]
        length = sum(x * x for x in along) ** 0.5
        way = self.add(f"VECTOR('',{self.direction([x / length for x in along])},1.)")
        line = self.add(f"LINE('',{self.point(a)},{way})")
        return self.add(f"EDGE_CURVE('',{va},{vb},{line},.T.)")

    def circle_edge(self, centre, radius, vertex) -> str:
        circle = self.add(f"CIRCLE('',{self.frame(centre, (0, 0, 1), (1, 0, 0))},{_real(radius)})")
        return self.add(f"EDGE_CURVE('',{vertex},{vertex},{circle},.T.)")

    def loop(self, edges: Iterable[tuple[str, bool]]) -> str:
        oriented = [self.add(f"ORIENTED_EDGE('',*,*,{e},{'.T.' if ahead else '.F.'})") for e, ahead in edges]
        return self.add(f"EDGE_LOOP('',({','.join(oriented)}))")

    def face(self, surface: str, loops: list[str], same_sense: bool = True) -> str:
        bounds = [self.add(f"FACE_OUTER_BOUND('',{loops[0]},.T.)")]
        bounds += [self.add(f"FACE_BOUND('',{inner},.T.)") for inner in loops[1:]]
        return self.add(f"ADVANCED_FACE('',({','.join(bounds)}),{surface},{'.T.' if same_sense else '.F.'})")

    def plane(self, at, normal, across) -> str:
        return self.add(f"PLANE('',{self.frame(at, normal, across)})")


def _real(value: float) -> str:
    text = f"{value:.9G}"
    return text if "." in text or "E" in text else text + "."


def block_with_bores(
    size: tuple[float, float, float], bores: list[Bore], unit: str = "mm", name: str = "block"
) -> bytes:
    """A STEP file (AP214) of a block from the origin to ``size`` with ``bores`` sunk from its top."""
    w = _Writer()
    x, y, z = size
    corner = [(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0), (0, 0, z), (x, 0, z), (x, y, z), (0, y, z)]
    vertex = [w.vertex(c) for c in corner]
    ends = (
        [(i, (i + 1) % 4) for i in range(4)]
        + [(4 + i, 4 + (i + 1) % 4) for i in range(4)]
        + [(i, i + 4) for i in range(4)]
    )
    edge = {(a, b): w.line_edge(corner[a], vertex[a], corner[b], vertex[b]) for a, b in ends}

    def ring(*places):
        pairs = zip(places, [*places[1:], places[0]], strict=True)
        return w.loop([(edge[a, b], True) if (a, b) in edge else (edge[b, a], False) for a, b in pairs])

    bottom, top, faces = [ring(3, 2, 1, 0)], [ring(4, 5, 6, 7)], []
    for cx, cy, radius, depth in bores:
        through = depth >= z
        low = 0.0 if through else z - depth
        seam = [(cx + radius, cy, h) for h in (low, z)]
        ends_at = [w.vertex(p) for p in seam]
        rims = [w.circle_edge((cx, cy, h), radius, v) for h, v in zip((low, z), ends_at, strict=True)]
        line = w.line_edge(seam[0], ends_at[0], seam[1], ends_at[1])
        top.append(w.loop([(rims[1], False)]))
        if through:
            bottom.append(w.loop([(rims[0], True)]))
        else:
            floor = w.plane((cx, cy, low), (0, 0, 1), (1, 0, 0))
            faces.append(w.face(floor, [w.loop([(rims[0], True)])]))
        wall = w.add(f"CYLINDRICAL_SURFACE('',{w.frame((cx, cy, low), (0, 0, 1), (1, 0, 0))},{_real(radius)})")
        # Seen from inside the bore: up the seam, round the top, down the seam, back round the bottom.
        around = w.loop([(line, True), (rims[1], True), (line, False), (rims[0], False)])
        faces.append(w.face(wall, [around], same_sense=False))
    faces.append(w.face(w.plane((0, 0, 0), (0, 0, -1), (1, 0, 0)), bottom))
    faces.append(w.face(w.plane((0, 0, z), (0, 0, 1), (1, 0, 0)), top))
    for places, normal in (
        ((0, 1, 5, 4), (0, -1, 0)), ((1, 2, 6, 5), (1, 0, 0)), ((2, 3, 7, 6), (0, 1, 0)), ((3, 0, 4, 7), (-1, 0, 0)),
    ):  # fmt: skip
        faces.append(w.face(w.plane(corner[places[0]], normal, (0, 0, 1)), [ring(*places)]))
    return _file(w, faces, unit, name)


def _file(w: _Writer, faces: list[str], unit: str, name: str) -> bytes:
    shell = w.add(f"CLOSED_SHELL('',({','.join(faces)}))")
    solid = w.add(f"MANIFOLD_SOLID_BREP('{name}',{shell})")
    length = w.add(UNIT[unit])
    angle = w.add("( NAMED_UNIT(*) PLANE_ANGLE_UNIT() SI_UNIT($,.RADIAN.) )")
    cone = w.add("( NAMED_UNIT(*) SI_UNIT($,.STERADIAN.) SOLID_ANGLE_UNIT() )")
    doubt = w.add(f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE(1.E-05),{length},'distance_accuracy_value','')")
    context = w.add(
        f"( GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT(({doubt})) "
        f"GLOBAL_UNIT_ASSIGNED_CONTEXT(({length},{angle},{cone})) REPRESENTATION_CONTEXT('','') )"
    )
    origin = w.frame((0, 0, 0), (0, 0, 1), (1, 0, 0))
    shape = w.add(f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({origin},{solid}),{context})")
    application = w.add("APPLICATION_CONTEXT('automotive design')")
    w.add(f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,{application})")
    product = w.add(f"PRODUCT('{name}','{name}','',({w.add(f'''PRODUCT_CONTEXT('',{application},'mechanical')''')}))")
    formation = w.add(f"PRODUCT_DEFINITION_FORMATION('','',{product})")
    stage = w.add(f"PRODUCT_DEFINITION_CONTEXT('part definition',{application},'design')")
    definition = w.add(f"PRODUCT_DEFINITION('design','',{formation},{stage})")
    whole = w.add(f"PRODUCT_DEFINITION_SHAPE('','',{definition})")
    w.add(f"SHAPE_DEFINITION_REPRESENTATION({whole},{shape})")
    head = (
        "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\n"
        f"FILE_NAME('{name}.step','2026-01-01T00:00:00',(''),(''),'','','');\n"
        "FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n"
    )
    return (head + "\n".join(w.lines) + "\nENDSEC;\nEND-ISO-10303-21;\n").encode()
