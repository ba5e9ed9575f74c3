"""Walls of a part as connected zones of one kind, and how their thicknesses are spread. Lengths mm, areas mm²."""

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from hewel_engine.geometry.features import edge_geometry
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.tolerances import SMOOTH_EDGE
from hewel_engine.walls.lines import FILLED, KINDS, Comb, Plates
from hewel_engine.walls.thickness import Thickness

BROAD = 1.0
"""A face bounds a wall where it is at least this many times as broad as the wall is thick; else there is a lump."""
WIDE = 3.0
"""A wall has two large faces, each at least this many times as wide as it is thick; else it is a bar or a block."""
LEAST_AREA = 0.5
"""mm² below which a zone says nothing."""
FLAT = 0.95
"""Share of a wall's area that looks one way, or the opposite, when it is flat."""
BAR = 0.01
"""mm: width of a bar of the histogram."""
MOST_BARS = 1500


@dataclass(frozen=True, eq=False)
class Zone:
    """Both faces of a wall, or of a part of one. ``facets``: of the divided part."""

    kind: str
    usual: float
    """mm that half of its area falls short of: where walls meet the balls are larger, and say little of either."""
    least: float
    most: float
    area: float
    """Of one face."""
    centre: Array
    facets: np.ndarray
    advice: float
    """mm that it is best made, by its shape alone."""
    breadth: float
    """mm: area of a face over its length, or the largest disc in a flat one, which is more where it is compact."""
    lies: "Lies | None"
    """How a flat wall lies; None for a round one."""
    layers: int | None = None
    """Of a plate that lies on its face: the layers that it is built of; else it is built of lines."""

    @property
    def wide(self) -> bool:
        """Whether it is a wall, with two large faces: a round bar, a post, a lug or a block is none."""
        return bool(self.breadth >= WIDE * self.usual)

    @property
    def wrong(self) -> bool:
        """Whether neither lines nor infill fill it."""
        return self.kind not in FILLED

    def as_dict(self) -> dict:
        return {
            "kind": self.kind,
            "thickness_mm": self.usual,
            "least_mm": self.least,
            "most_mm": self.most,
            "area_mm2": self.area,
            "centre_mm": self.centre.tolist(),
            "advice_mm": self.advice,
            "lies": self.lies and self.lies.as_dict(),
            "wide": self.wide,
            "layers": self.layers,
        }


@dataclass(frozen=True, eq=False)
class Lies:
    """A flat wall: ``along`` its longer side and ``normal`` to it, unit vectors; mm of its sides."""

    along: Array
    normal: Array
    long: float
    short: float

    def as_dict(self) -> dict:
        return {
            "along": self.along.tolist(),
            "normal": self.normal.tolist(),
            "long_mm": self.long,
            "short_mm": self.short,
        }

    @classmethod
    def of(cls, mesh: Mesh, facets: np.ndarray) -> "Lies | None":
        """None where more than a twentieth of the faces' area, both sides of the wall alike, looks another way."""
        area, normal = mesh.areas[facets], mesh.normals[facets]
        spread, ways = np.linalg.eigh((normal * area[:, None]).T @ normal)
        if spread[2] < FLAT * area.sum():
            return None
        frame = upright(ways[:, 2])
        spots = mesh.triangles[facets].reshape(-1, 3) @ frame[:2].T
        box = shapely.minimum_rotated_rectangle(shapely.MultiPoint(spots))
        if box.geom_type != "Polygon":
            return None
        sides = np.diff(np.array(box.exterior.coords)[:3], axis=0)
        size = np.linalg.norm(sides, axis=1)
        along = sides[np.argmax(size)] @ frame[:2] / size.max()
        return cls(along, frame[2], float(size.max()), float(size.min()))


@dataclass(frozen=True, eq=False)
class Walls:
    """``zones``, the largest of what is wrong first; ``edges`` (k + 1,) mm and ``bars`` (k,) mm² of the histogram;
    ``lumps`` mm² of surface over what is no wall.
    """

    zones: list[Zone]
    edges: Array
    bars: Array
    lumps: float

    def as_dict(self, found: Thickness) -> dict:
        least = found.thinnest
        return {
            "min_thickness_mm": least and least[0],
            "min_at_mm": least and least[1].tolist(),
            "histogram": {"edges_mm": self.edges.tolist(), "area_mm2": self.bars.tolist()},
            "zones": [z.as_dict() for z in self.zones],
            "lump_area_mm2": self.lumps,
        }


def walls_of(found: Thickness, comb: Comb, plates: Plates | None = None) -> Walls:
    """Facets of one kind are one zone where they are neighbours on a smooth surface, or the two faces of a wall. A face
    narrower than what lies behind it bounds no wall there: the top of a rib, the edge of a plate, a side of a block.
    Where it is known how the part stands, ``plates`` says what whole layers make of what lies on its face.
    """
    mesh = found.mesh
    kind = np.where(found.counts, comb.kinds(found.ball), -1)
    lying = np.zeros(len(kind), bool)
    if plates:
        lying = found.counts & plates.lie(mesh.normals) & plates.lie(mesh.normals[found.opposite])
        kind[lying] = plates.kinds(found.ball[lying])
    pairs, _, _, angle = edge_geometry(mesh)
    beside = pairs[angle < SMOOTH_EDGE]
    for facets in _together(np.where(found.counts, 0, -1), beside):
        if not _broad(found, facets):
            kind[facets] = -1
    across = np.flatnonzero(kind >= 0)
    linked = np.concatenate([beside, np.c_[across, found.opposite[across]]])
    _meet(found, kind, beside, linked)
    meeting = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices))
    by = lambda facets: plates if plates and lying[facets].mean() > 0.5 else None
    zones = [_zone(found, KINDS[kind[f[0]]], f, comb, by(f), meeting) for f in _together(kind, linked)]
    zones = [z for z in zones if z.area >= LEAST_AREA]
    wall = np.zeros(len(mesh.faces), bool)
    for zone in zones:
        wall[zone.facets] = True
    t, area = found.ball[wall], mesh.areas[wall]
    top = min(BAR * MOST_BARS, BAR * (np.ceil(t.max(initial=BAR) / BAR) + 1))
    edges = np.arange(0, top + BAR / 2, BAR)
    bars = np.histogram(np.minimum(t, edges[-1] - BAR / 2), edges, weights=area / 2)[0]
    worst_first = lambda z: (z.kind == "sound", z.kind == "heavy", -round(z.area, 6))
    return Walls(sorted(zones, key=worst_first), edges, bars, float(mesh.areas[~wall].sum()))


def _together(kind: np.ndarray, links: np.ndarray) -> list[np.ndarray]:
    """Facets of one kind that are linked; those of no kind (−1) left out."""
    links = links[(kind[links[:, 0]] == kind[links[:, 1]]) & (kind[links[:, 0]] >= 0)]
    count, label = components(len(kind), links)
    order = np.argsort(label, kind="stable")
    groups = np.split(order, np.cumsum(np.bincount(label, minlength=count))[:-1])
    return [facets for facets in groups if kind[facets[0]] >= 0]


def _meet(found: Thickness, kind: np.ndarray, beside: np.ndarray, linked: np.ndarray) -> None:
    """What is narrower than it is thick and lies in the midst of one wall is where another meets it, such as behind the
    foot of a rib: there the balls are larger. It counts to the wall around it; ``kind`` changes in place.
    """
    ways = np.concatenate([beside, beside[:, ::-1]])
    group = np.full(len(kind), -1)
    groups = _together(kind, linked)
    for number, facets in enumerate(groups):
        group[facets] = number
    neighbours = np.unique(group[ways[group[ways[:, 0]] != group[ways[:, 1]]]], axis=0)
    neighbours = neighbours[(neighbours >= 0).all(axis=1)]
    for number, facets in enumerate(groups):
        around = neighbours[neighbours[:, 0] == number, 1]
        if len(around) == 1 and not _broad(found, facets):
            kind[facets] = kind[groups[around[0]][0]]


def _broad(found: Thickness, facets: np.ndarray) -> bool:
    """Whether a face is wider, by its area over its length, than the material behind it is thick."""
    area, spots = found.mesh.areas[facets], found.mesh.triangles[facets].reshape(-1, 3)
    long = max(float(np.linalg.norm(np.ptp(spots, axis=0))), 1e-9)
    return bool(area.sum() / long >= BROAD * np.average(found.ball[facets], weights=np.maximum(area, 1e-12)))


def _across(mesh: Mesh, facets: np.ndarray, meeting: np.ndarray) -> float:
    """mm: diameter of the largest disc within the faces of a flat wall, to the size of a facet; ``meeting``: how many
    facets meet at every vertex, so that those of the rim are told by having others too.
    """
    own, here = np.unique(mesh.faces[facets], return_counts=True)
    rim = own[here < meeting[own]]
    if not len(rim):
        return float(np.linalg.norm(np.ptp(mesh.vertices[own], axis=0)))
    away, _ = cKDTree(mesh.vertices[rim]).query(mesh.vertices[own])
    return float(2 * away.max())


def _zone(
    found: Thickness, kind: str, facets: np.ndarray, comb: Comb, plates: Plates | None, meeting: np.ndarray
) -> Zone:
    t, area = found.ball[facets], found.mesh.areas[facets]
    middle = found.mesh.centroids[facets] - t[:, None] / 2 * found.mesh.normals[facets]
    (usual,) = found.at_share(facets, 0.5)
    centre = np.average(middle, axis=0, weights=np.maximum(area, 1e-12))
    span = float(t.min()), float(t.max())
    lies = Lies.of(found.mesh, facets)
    half = float(area.sum() / 2)
    breadth = half / max(float(np.linalg.norm(np.ptp(middle, axis=0))), 1e-9)
    if lies:
        breadth = min(max(breadth, _across(found.mesh, facets, meeting)), lies.short)
    advice = (plates or comb).advised(kind, usual)
    if breadth < WIDE * usual and advice < usual:  # a bar or a block: its depth is what carries
        advice = usual if kind in FILLED else comb.nearest(usual)[1]
    layers = plates.layers(usual) if plates else None
    return Zone(kind, usual, *span, half, centre, facets, advice, breadth, lies, layers)
