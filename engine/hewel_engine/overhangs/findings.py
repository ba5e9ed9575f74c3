"""Every region as a finding: a sentence with its number, its limit, its place and what it costs.

A finding *fails* where the region needs support, is *doubtful* where it prints but not as drawn (a rough bridge, a
fitted bore that loses its roundness, a droop on a protected face or into too small a gap), and *holds* otherwise.
"""

from dataclasses import dataclass

from hewel_engine.overhangs.duties import ROUND_LYING
from hewel_engine.processes import Process, layers_of

VERDICTS = ("fails", "doubtful", "holds")


@dataclass(frozen=True)
class Finding:
    """``number`` (mm; mm² of an island) is what was measured, ``limit`` what is allowed of it; None where nothing is.

    ``because`` says, sentence by sentence, what makes it more than a region that holds.
    """

    code: str
    verdict: str
    sentence: str
    number: float
    unit: str
    limit: float | None
    because: tuple[str, ...] = ()
    clearance: float | None = None
    """mm to leave below a bridge or a bore's roof, over what its fit asks: its droop in whole layers."""


def clearance_of(process: Process) -> float:
    """mm: the droop of a bridge, rounded up to whole layers."""
    return layers_of(process.droop, process.layer) * process.layer


def finding_of(
    region: dict, process: Process, diameter: float | None = None, fit: str | None = None, protected: float = 0.0
) -> Finding:
    """The finding of a region (``Overhang.as_dict``). ``diameter`` and ``fit`` of the bore whose roof it is;
    ``protected`` mm² of it that must not be scarred.
    """
    kind, span, reach = region["kind"], region["span_mm"], region["reach_mm"]
    doubts: list[str] = []
    clearance, laid = None, region.get("lands") or region.get("carried")
    if region.get("carried"):
        doubts.append("It is laid on the piece that is put in at the pause; how well it holds there has no number yet.")
    if region.get("lands"):
        doubts.append(
            f"It droops onto what lies {region['drop_mm']:.2f} mm below: it prints, rough on that side, and may stick."
        )
    elif kind in ("bridge", "bore_roof") and not laid:
        clearance = clearance_of(process)
        if region["over_part"] and region["drop_mm"] < clearance:
            doubts.append(
                f"Only {region['drop_mm']:.2f} mm above the part below: it droops about {process.droop:.2f} mm, so "
                f"leave {clearance:.2f} mm or more."
            )
    if kind == "bridge" and not laid and process.clean_bridge < span <= process.rough_bridge:
        doubts.append(f"Past the clean limit of {process.clean_bridge:.1f} mm its underside is rough and droops.")
    if kind == "bore_roof" and fit and diameter > ROUND_LYING:
        doubts.append(
            f"A lying bore stays round up to about {ROUND_LYING:.0f} mm; this one has a {fit} fit: ream it, or give "
            "it a teardrop."
        )
    if protected > 0:
        scar = "support would scar" if region["needs_support"] else "the drooping underside is on"
        if region["needs_support"] or kind in ("bridge", "bore_roof"):
            doubts.append(f"{protected:.0f} mm² of it are a face that must not be scarred: {scar} it.")
    if kind == "bed_round" and region["needs_support"]:
        doubts.append("Supports do not mend this well: the first layers sag, and the fault runs upward.")
    verdict = "fails" if region["needs_support"] else "doubtful" if doubts else "holds"
    sentence = _sentence(region, process, diameter)
    number, unit = (region["area_mm2"], "mm²") if kind == "island" else (reach if span is None else span, "mm")
    limit = None if kind == "island" else region["allowed_mm"]
    return Finding(kind, verdict, sentence, number, unit, limit, tuple(doubts), clearance)


def _sentence(region: dict, process: Process, diameter: float | None) -> str:
    kind, at = region["kind"], f"{region['z_mm']:.1f} mm up"
    allowed = region["allowed_mm"]
    if kind == "island":
        under = "over the part below" if region["over_part"] else "over the plate"
        return (
            f"Begins in mid-air {at}: nothing holds {region['area_mm2']:.1f} mm², {region['drop_mm']:.1f} mm {under}."
        )
    if kind == "bore_roof":
        return (
            f"Roof of the lying {diameter:.1f} mm bore hangs over {region['span_mm']:.1f} mm, {at}; clean bridges end "
            f"at {allowed:.1f} mm."
        )
    if kind == "bridge":
        return f"Bridge of {region['span_mm']:.1f} mm, {at}; bridges print up to {allowed:.1f} mm."
    reach = f"{region['reach_mm']:.1f} mm"
    if kind == "bed_round":
        return f"Rounded surface facing the plate reaches out {reach} before it recovers {region['top_mm']:.1f} mm up."
    if kind == "ledge":
        return f"Ledge reaches out {reach}, {at}; two lines, {allowed:.1f} mm, hold by themselves."
    return (
        f"Slope of up to {region['worst_deg']:.0f}° from the vertical (limit {process.limit:.0f}°) reaches out "
        f"{reach}, {at}; two lines, {allowed:.1f} mm, hold by themselves."
    )
