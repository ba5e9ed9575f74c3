"""Several kinds on one plate: copies of a part with copies of others, all together. Lengths mm, times s."""

from dataclasses import dataclass

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array
from hewel_engine.plates.batch import tour
from hewel_engine.plates.curve import Bed, Laid
from hewel_engine.plates.nesting import Item, Rule, arranged_kinds
from hewel_engine.plates.outlines import grown_outside
from hewel_engine.printing.paths import move_seconds, seconds_of
from hewel_engine.processes import Process


@dataclass(frozen=True, eq=False)
class Guest:
    """Another part on the plate: its ``outline`` as it stands, s of extruding in every layer of one copy, and how many.
    Its layers are as high as the host's.
    """

    outline: shapely.Geometry
    extruding: Array
    copies: int


@dataclass(frozen=True, eq=False)
class Mixed:
    """Where copies of every kind stand, the host's first; s from each layer of the plate to the next."""

    items: list[list[Item]]
    layer_s: Array

    @property
    def print_s(self) -> float:
        return float(self.layer_s.sum())


def mixed(made: Laid, copies: int, guests: list[Guest], bed: Bed, process: Process, budget: float) -> Mixed:
    """So many copies of a part with its guests: those that stand, and how long each layer takes while what is lower is
    finished already.
    """
    host = Guest(made.outline, made.copy.extruding, copies)
    kinds = [host, *guests]
    shapes = [grown_outside(kind.outline, bed.brim) for kind in kinds]
    items = arranged_kinds(shapes, [k.copies for k in kinds], bed.plate, Rule(bed.spacing), budget)
    count = max(len(k.extruding) for k in kinds)
    laid, standing = np.zeros(count), np.zeros(count, int)
    for kind, own in zip(kinds, items, strict=True):
        laid[: len(kind.extruding)] += len(own) * kind.extruding
        standing[: len(kind.extruding)] += len(own)
    places = [
        item.on(shapely.Point(kind.outline.centroid)) for kind, own in zip(kinds, items, strict=True) for item in own
    ]
    hops = tour(places)
    ways = sum(move_seconds(h, process.travel_speed, process.acceleration) for h in hops)
    share = standing / max(len(places), 1)  # above the lower kinds only the ways between the others are left
    return Mixed(items, np.array([seconds_of(s, process, 1, w) for s, w in zip(laid, ways * share, strict=True)]))
