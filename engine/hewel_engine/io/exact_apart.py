"""The process that changes one exact solid: ``SOURCE ORDER FOLDER MEMORY PARENT``.

ORDER is a JSON file, see ``io.exact``; into FOLDER go a STEP file for each piece, one with all of them, and
``result.json``. It ends 3 when memory ran out, 4 when SOURCE holds no solid. It is started as a script and imports
nothing of the engine.
"""

import json
import sys
from math import dist, hypot
from pathlib import Path
from typing import Any

from limits import live_no_longer  # beside this script
from manifold3d import Manifold
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Ax2, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.ShapeFix import ShapeFix_ShapeTolerance
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Reader, STEPControl_Writer
from OCP.TopAbs import TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Builder, TopoDS_Compound

SEWN = 1e-4
"""mm within which edges of flat faces are one."""
KNOWN = 2e-5
"""mm to which the faceted part knows the exact one."""
FLUSH = (KNOWN, 1e-6, 10 * KNOWN)
"""mm within which faces and edges of two solids are taken for one, in the order in which it is tried."""
AGREES, LITTLE = 0.02, 1e-4
"""An edit's gain in volume must be that of the faceted part: to this share of it, and this share of the whole."""


def main(source: str, order: str, folder: str, memory: str, parent: str) -> int:
    if not live_no_longer(int(parent), int(memory)):
        return 4
    try:
        asked, result, everything = json.loads(Path(order).read_text()), [], []
        whole = read(source)
        if not whole:
            return 4
        for number, piece in enumerate(asked["pieces"]):
            made, left = changed(whole if piece["of_part"] else [], piece["edits"])
            write(made, piece["name"], Path(folder) / f"{number}.step")
            everything += made
            result.append({"volume_mm3": volume(made), "left": left})
        write(everything, asked["name"], Path(folder) / "all.step")
        (Path(folder) / "result.json").write_text(json.dumps(result))
    except MemoryError:
        return 3
    return 0


def read(source: str) -> list:
    """The solids of a file, in mm."""
    reader = STEPControl_Reader()
    if reader.ReadFile(source) != IFSelect_RetDone or reader.TransferRoots() == 0:
        return []
    return parts_of(reader.OneShape(), TopAbs_SOLID)


def parts_of(shape: Any, kind: Any) -> list:
    found, walk = [], TopExp_Explorer(shape, kind)
    while walk.More():
        found.append(walk.Current())
        walk.Next()
    return found


def volume(solids: list) -> float:
    total = 0.0
    for solid in solids:
        held = GProp_GProps()
        BRepGProp.VolumeProperties_s(solid, held)
        total += held.Mass()
    return total


def changed(solids: list, edits: list[dict]) -> tuple[list, list[dict]]:
    """The solids after the edits that hold, and for each of the others its number and why it was left out."""
    left = []
    for number, edit in enumerate(edits):
        after, why = tried(solids, edit)
        if why:
            left.append({"edit": number, "why": why})
        else:
            solids = after
    return solids, left


def tried(solids: list, edit: dict) -> tuple[list, str | None]:
    """The solids after an edit, joined as closely as it needs to hold; or why it does not hold."""
    why = ""
    for flush in FLUSH:
        after, why = tried_so(solids, edit, flush)
        if why is None:
            return after, None
    return solids, why


def tried_so(solids: list, edit: dict, flush: float) -> tuple[list, str | None]:
    after = solids
    try:
        for shape in edit["keeps"]:
            after = joined(BRepAlgoAPI_Common, after, made(shape), flush)
        for shape in edit["removes"]:
            after = joined(BRepAlgoAPI_Cut, after, made(shape), flush)
        for shape in edit["adds"]:
            after = joined(BRepAlgoAPI_Fuse, after, made(shape), flush) if after else [made(shape)]
    except MemoryError:
        raise
    except Exception as error:  # the library's own errors share no other ancestor
        return solids, f"The exact solid does not take it ({type(error).__name__}). Its words tell how it is made."
    if not after or not all(BRepCheck_Analyzer(s).IsValid() for s in after):
        return solids, "It would leave no sound exact solid. Its words tell how it is made."
    gained, wanted = volume(after) - volume(solids), edit["gained_mm3"]
    if abs(gained - wanted) > AGREES * abs(wanted) + LITTLE * volume(solids):
        return solids, f"It would change the exact solid by {gained:.1f} mm³, the printed one by {wanted:.1f} mm³."
    return after, None


def joined(how: Any, solids: list, tool: Any, flush: float) -> list:
    """Solids kept within, cut by or united with a tool; faces that lie in one surface are one."""
    if how is not BRepAlgoAPI_Fuse:
        return [part for solid in solids for part in one_surface(of_two(how, solid, tool, flush))]
    for solid in solids:
        tool = of_two(how, solid, tool, flush)
    return one_surface(tool)


def of_two(how: Any, one: Any, other: Any, flush: float):
    work, given, tools = how(), List_TopoDS_Shape(), List_TopoDS_Shape()
    given.Append(one)
    tools.Append(other)
    work.SetArguments(given)
    work.SetTools(tools)
    work.SetFuzzyValue(flush)
    work.Build()
    return work.Shape()


def one_surface(shape: Any) -> list:
    neat = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    neat.Build()
    return parts_of(neat.Shape(), TopAbs_SOLID)


def made(shape: dict):
    return round_one(shape) if "axis" in shape else flat_one(shape)


def round_one(shape: dict):
    place = gp_Ax2(gp_Pnt(*shape["base"]), gp_Dir(*shape["axis"]))
    low, high = shape["radii"]
    if abs(low - high) < 1e-9:
        return BRepPrimAPI_MakeCylinder(place, low, shape["height"]).Shape()
    return BRepPrimAPI_MakeCone(place, low, high, shape["height"]).Shape()


def flat_one(shape: dict):
    points = [gp_Pnt(*p) for p in shape["vertices"]]
    sewing = BRepBuilderAPI_Sewing(SEWN)
    for loops in shape["faces"]:
        plane = plane_of([shape["vertices"][i] for i in loops[0]])
        if plane is None:
            continue
        outer, *inner = [wire(points, loop) for loop in loops]
        face = BRepBuilderAPI_MakeFace(plane, outer, True)
        for hole in inner:
            face.Add(hole)
        if not face.IsDone():
            raise ValueError("a face is not flat")
        ShapeFix_ShapeTolerance().SetTolerance(face.Face(), KNOWN)
        sewing.Add(face.Face())
    sewing.Perform()
    shells = [BRepBuilderAPI_MakeSolid(TopoDS.Shell(s)).Solid() for s in parts_of(sewing.SewedShape(), TopAbs_SHELL)]
    if not shells or sewing.NbFreeEdges():
        raise ValueError("faces do not close")
    size = lambda solid: volume([solid])  # less than 0 for a void, which is turned inside out
    outer, *others = sorted(shells, key=size, reverse=True)
    solid = righted(outer)
    for other in others:
        how = BRepAlgoAPI_Cut if size(other) < 0 < size(outer) else BRepAlgoAPI_Fuse
        solid = of_two(how, solid, righted(other), KNOWN)
    return solid


def righted(solid: Manifold):
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def plane_of(loop: list[list[float]]) -> gp_Pln | None:
    """Through the middle of a loop, normal to its area (Newell); None for a face so narrow that its edges are one."""
    middle = [sum(column) / len(loop) for column in zip(*loop, strict=True)]
    normal, round_ = [0.0, 0.0, 0.0], 0.0
    for p, q in zip(loop, loop[1:] + loop[:1], strict=True):
        round_ += dist(p, q)
        for i in range(3):
            j, k = (i + 1) % 3, (i + 2) % 3
            normal[i] += (p[j] - q[j]) * (p[k] + q[k] - 2 * middle[k])
    return gp_Pln(gp_Pnt(*middle), gp_Dir(*normal)) if hypot(*normal) > SEWN / 4 * round_ else None


def wire(points: list, loop: list[int]):
    polygon = BRepBuilderAPI_MakePolygon()
    for number in loop:
        polygon.Add(points[number])
    polygon.Close()
    return polygon.Wire()


def write(solids: list, name: str, path: Path) -> None:
    whole, builder = TopoDS_Compound(), TopoDS_Builder()
    builder.MakeCompound(whole)
    for solid in solids:
        builder.Add(whole, solid)
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    Interface_Static.SetCVal_s("write.step.product.name", name)
    writer.Transfer(solids[0] if len(solids) == 1 else whole, STEPControl_AsIs)
    writer.Write(str(path))


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
