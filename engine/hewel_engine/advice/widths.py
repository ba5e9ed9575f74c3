"""What a wall is best made, by its shape, by what it carries and by the loads that are written."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.processes import Process
from hewel_engine.strength.reserves import least_everywhere
from hewel_engine.strength.stressing import Stressed
from hewel_engine.walls.lines import Comb
from hewel_engine.walls.thickness import Thickness
from hewel_engine.walls.zones import Zone

ENOUGH = 1.25
"""Reserve, required factor and knock-downs in it, that a thinner wall must keep by the sum on coarse cubes: a finer one
may come out so much lower."""
BESIDE = 1.0
"""mm beyond a hole's rim, or a post's foot, within which a wall is the one that it is in."""


@dataclass(frozen=True)
class Width:
    """A good thickness beside a wall's own, and what it costs to make the wall so: grams, and seconds of laying it."""

    size: float
    grams: float
    seconds: float
    holds: tuple[float, float]
    """Factors on the wall's own reserve, least first: stretched it goes by its thickness, bent by its square."""
    advised: bool

    def as_dict(self) -> dict:
        return {"mm": self.size, "grams": self.grams, "seconds": self.seconds, "holds": list(self.holds),
                "advised": self.advised}  # fmt: skip


@dataclass(frozen=True)
class Advice:
    """``rows``: the thicknesses that are worth it, none where the wall is best left. ``because`` says why not more:
    ``bar`` (its depth carries), ``loads`` (it carries something and no loads are written), ``beside`` (all of it lies
    by what holds or presses it), ``carries`` (thinner would not hold), ``weak`` (it does not hold as it is).
    ``reserve`` is its own, least under the written loads.
    """

    rows: list[Width]
    because: str | None
    reserve: float | None

    def size(self, zone: Zone) -> float:
        """mm that the wall is advised to be: its own where nothing is."""
        return next((row.size for row in self.rows if row.advised), zone.usual)

    def as_dict(self) -> dict:
        return {"better": [row.as_dict() for row in self.rows], "because": self.because, "reserve": self.reserve}


@dataclass(frozen=True, eq=False)
class Burden:
    """What is known of what walls carry: ``reserve`` by facet of the measured part, inf where nothing was read, None
    without loads; ``bearing`` whether a facet lies by a hole, a post, or a held or pressed face.
    """

    bearing: np.ndarray
    reserve: Array | None = None

    def on(self, zone: Zone) -> float | None:
        """The least reserve in a wall; None where none was read."""
        if self.reserve is None:
            return None
        least = float(self.reserve[zone.facets].min())
        return least if np.isfinite(least) else None


def burden_of(
    found: Thickness,
    bores: list[Bore],
    places: list[dict],
    touched: np.ndarray,
    solved: Stressed | None,
    process: Process,
    up: Array | None,
    factor: float = 1.0,
) -> Burden:
    """``places``: what else wants sizing, bosses on infill among it; ``touched``: facets of the part that are held or
    loaded; ``solved``: its stresses, read for the direction ``up`` it stands in; None where no loads are written.
    """
    mesh = found.mesh
    bearing = np.isin(found.source, touched)
    for bore in bores:
        bearing |= _by(mesh, bore)
    for boss in (place for place in places if place["kind"] == "boss"):
        bearing |= np.linalg.norm(mesh.centroids - boss["centre_mm"], axis=1) < BESIDE + found.ball
    if solved is None or up is None:
        return Burden(bearing)
    places, least = least_everywhere(solved, process.stock, up, factor)
    _, nearest = cKDTree(mesh.centroids).query(places)
    reserve = np.full(len(mesh.faces), np.inf)
    np.minimum.at(reserve, nearest, least)
    return Burden(bearing, reserve)


def _by(mesh: Mesh, bore: Bore) -> np.ndarray:
    """(m,) facets within reach of a hole's rim, along all of its depth."""
    off = mesh.centroids - bore.centre
    along = off @ bore.axis
    aside = np.linalg.norm(off - along[:, None] * bore.axis, axis=1)
    reach = max(BESIDE, bore.diameter / 2)
    return (aside < bore.diameter / 2 + reach) & (np.abs(along) < bore.depth / 2 + BESIDE)


def advised(zone: Zone, comb: Comb, process: Process, burden: Burden) -> Advice:
    """What is advised for a wall. Thicker never weakens it; thinner only where it is a wall that carries nothing, or
    where the written loads leave it enough reserve, bent as it may be.
    """
    reserve = burden.on(zone)
    why = _held_back(zone, burden, reserve)
    least = zone.usual if why else 0.0
    if why is None and reserve is not None:
        least = zone.usual * min(1.0, (ENOUGH / reserve) ** 0.5)
    sizes = sorted(set(_sizes(zone, comb, least)))
    best = _best(zone, sizes)
    if why is None and any(size < min(least, zone.usual) for size in _sizes(zone, comb, 0.0)):
        why = "carries"
    if (zone.kind == "sound" and why != "weak") or (best is not None and best <= zone.usual):
        why = None
    return Advice([_width(zone, size, process, size == best) for size in sizes], why, reserve)


def _held_back(zone: Zone, burden: Burden, reserve: float | None) -> str | None:
    """Why a wall may not become thinner, whatever its size."""
    if reserve is not None and reserve < 1:
        return "weak"
    if not zone.wide:
        return "bar"
    if reserve is not None:
        return None
    if burden.reserve is not None:
        return "beside"
    return "loads" if burden.bearing[zone.facets].any() else None


def _sizes(zone: Zone, comb: Comb, least: float) -> Iterator[float]:
    """The good sizes next to a wall's own that are not below ``least`` mm; of a heavy one, the first that is enough."""
    if zone.kind == "sound":
        return
    if zone.layers is not None:
        yield from [zone.advice] if zone.advice != zone.usual and zone.advice >= least else []
    elif zone.kind == "heavy":
        if zone.advice < zone.usual:
            yield from [min(w for w in comb.good if w >= max(zone.advice, least))] if least <= comb.good[-1] else []
    else:
        yield from (size for size in {zone.advice, *comb.nearest(zone.usual)} if size >= least)


def _best(zone: Zone, sizes: list[float]) -> float | None:
    return min(sizes, key=lambda size: (abs(size - zone.advice), -size), default=None)


def _width(zone: Zone, size: float, process: Process, best: bool) -> Width:
    gained = (size - zone.usual) * zone.area
    share = size / zone.usual
    holds = min(share, share**2), max(share, share**2)
    return Width(float(size), gained * 1e-3 * process.stock.density, gained / process.outer_flow, holds, bool(best))
