"""What a part takes from the shelf: how many of what, how long, how tight."""

from math import ceil

from hewel_engine.hardware.catalogue import HEADS, NUTS, WASHERS, Bolt
from hewel_engine.hardware.placing import Placed


def shopping(rows: list[Placed], torques: dict[str, float]) -> list[dict]:
    """Lines ``item``, ``size``, ``count``, ``length_mm`` (from the grip: the next that is sold), ``torque_nmm`` (of
    bolts, by the id of the row) and ``note``; alike ones together, in the order of the rows.
    """
    lines: dict[tuple, dict] = {}

    def add(item: str, size: str, length: float | None = None, torque: float | None = None, note: str = "") -> None:
        name = (item, size, length, torque and round(torque, 1), note)
        line = lines.setdefault(
            name,
            {"item": item, "size": size, "count": 0, "length_mm": length, "torque_nmm": torque, "note": note},
        )
        line["count"] += 1

    for placed in rows:
        what, row = placed.what, placed.row
        if placed.where is None or what is None:
            continue
        if isinstance(what, Bolt):
            grip, torque = placed.where["grip_mm"], torques.get(row["id"])
            if row["head"] == "rod":
                above = what.head_tall - (what.washer[1] if what.washer else 0.0)
                long = ceil(what.least_length(grip) + above)
                add(f"threaded rod, {row['steel']}", what.size, long, torque, "cut to length")
                add(NUTS["hex_nut"], what.size)
            else:
                length = what.length(grip)
                note = "" if length else f"longer than the table: {grip + what.nut_tall:.0f} mm at least, cut from rod"
                add(f"{HEADS[row['head']]}, {row['steel']}", what.size, length, torque, note)
            if what.washer:
                for _ in range(1 + what.nut_washer):
                    add(WASHERS[row["washer"]], what.size)
            pause = placed.where.get("pause_mm")
            add(NUTS[row["nut"]], what.size, note=f"dropped in at {pause:.2f} mm" if pause else "")
        elif row["kind"] == "rod":
            add("threaded rod, glued in", row["size"], what.facts["length_mm"])
        elif row["kind"] == "key":
            long = sum((a - b) ** 2 for a, b in zip(row["at"], row["end"], strict=True)) ** 0.5
            add("parallel key", row["size"], round(long, 1))
        elif row["kind"] == "boss":
            add("screw that cuts its own thread", row["size"])
        else:
            add({"insert": "insert, set with heat", "pad": "metal pad"}[row["kind"]], row["size"])
    return list(lines.values())
