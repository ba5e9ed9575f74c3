"""Screw threads cut into a pin or a bore: trapezoid or buttress, coarse enough to print. Lengths mm, over the plate.

At one height along its axis the section of a single thread is one closed curve, r(θ) = profile(P·θ/2π); turned about
the axis once a pitch it is the thread.
"""

from dataclasses import dataclass
from math import ceil, cos, pi, radians, sin, tan

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold, OpType

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.sites import mouth
from hewel_engine.edits.tools import Impossible, Tool, skin
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import WHOLE_TURN, Feature
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

AROUND = 60
"""Places round the axis, beside those where the profile turns."""
SLICES = 36
"""Steps of a turn."""
EASIER = 3.0
"""Degrees by which a flank that looks down is steeper than what only just prints: it is made of facets."""
LEAST_FLAT = 0.15
"""Share of the pitch that crest and root are wide at least."""
MOST_TURNS = 40
SHALLOW = 0.5
"""|axis·up| up to which a thread lies."""
LOADED = 7.0
"""Degrees from square to the axis of a buttress's loaded flank (handbook 8)."""


@dataclass(frozen=True)
class Profile:
    """``pitch``, ``deep`` of its tooth, degrees of both flanks from square to the axis: the one that faces the thread's
    free end, and the one that faces its foot.
    """

    pitch: float
    deep: float
    outer_flank: float
    inner_flank: float

    @property
    def runs(self) -> tuple[float, float]:
        """mm along the axis that the flanks take."""
        return self.deep * tan(radians(self.outer_flank)), self.deep * tan(radians(self.inner_flank))

    @property
    def flat(self) -> float:
        """mm that crest and root are wide, each."""
        return (self.pitch - sum(self.runs)) / 2

    @property
    def root(self) -> float:
        """mm that a tooth is thick where it stands."""
        return self.flat + sum(self.runs)

    def rise(self, along: Array) -> Array:
        """mm of the tooth over its root at places along the axis, the middle of a crest at 0."""
        s = (along + self.pitch / 2) % self.pitch - self.pitch / 2
        ahead, behind = self.runs
        half = self.flat / 2
        up = np.where(s > 0, (half + ahead - s) / max(ahead, 1e-9), (half + behind + s) / max(behind, 1e-9))
        return self.deep * np.clip(up, 0.0, 1.0)


def easy_flank(process: Process) -> float:
    """Degrees from square to the axis of a flank that prints on a thread that stands, whichever way it looks; so that
    a pin printed lying and its nut printed standing have the same thread.
    """
    return 90.0 - process.limit + EASIER


def profile_of(
    pitch: float, deep: float, given: dict[str, float], bore: bool, axis: Array, process: Process
) -> Profile:
    """The profile, its axis towards the mouth. ``given``: ``flank_deg`` and whether it is a buttress, which bears a
    pull of its mate out of the mouth (``pulls_count``) or a push into it. Raises Impossible where a flank would hang or
    no crest is left.
    """
    flank = given["flank_deg"]
    outer = inner = flank
    if round(given["buttress_count"]):
        # A nut that is pulled off bears on the side of the pin's teeth that looks to its foot, and a pin that is pulled
        # out on the side of its bore's grooves that looks to the mouth.
        pulled_inner = bool(round(given["pulls_count"])) != bore
        outer, inner = (flank, LOADED) if pulled_inner else (LOADED, flank)
    if abs(float(axis[2])) > SHALLOW:
        down = inner if (axis[2] > 0) != bore else outer
        if down < easy_flank(process) - 1e-6:
            raise Impossible(
                f"It stands, and a flank {down:.0f}° from level looks down: it would hang; {easy_flank(process):.0f}° "
                "print. Print it lying, the other way up, or with a steeper flank."
            )
    made = Profile(pitch, deep, outer, inner)
    if made.flat < LEAST_FLAT * pitch:
        most = (1 - 2 * LEAST_FLAT) * pitch / (tan(radians(outer)) + tan(radians(inner)))
        raise Impossible(f"No crest is left at a pitch of {pitch:.2f} mm: its teeth can be {most:.2f} mm deep at most.")
    return made


def helix(profile: Profile, root: float, low: float, high: float) -> Manifold:
    """A right-handed thread round the z axis, its root so far from it, from ``low`` to ``high``."""
    half, (ahead, behind) = profile.flat / 2, profile.runs
    kinks = np.array([half, half + ahead, -half - behind, -half]) / profile.pitch % 1
    share = np.unique(np.r_[np.linspace(0, 1, AROUND, endpoint=False), kinks])
    share = share[np.r_[True, np.diff(share) > 1e-4]]
    # The crest that lies at angle θ at height 0 lies at height P·θ/2π over angle 0: seen at one height r(−P·θ/2π).
    radius = root + profile.rise(-share * profile.pitch)
    angle = 2 * pi * share
    section = CrossSection([np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])], FillRule.NonZero)
    tall = high - low
    twist = 360 * tall / profile.pitch
    body = Manifold.extrude(section, tall, ceil(SLICES * tall / profile.pitch), twist)
    return body.rotate((0, 0, 360 * low / profile.pitch)).translate((0, 0, low))


def thread(
    solid: Manifold, rays: RayScene, found: Feature, at: float, process: Process, given: dict[str, float]
) -> Tool:
    """Cuts a thread into a pin or a bore, over its whole length or ``along_mm`` of it from the mouth that is nearer to
    ``at`` (mm from its middle along the axis), with a chamfer there. A pin that lies gets flats, so that no part of it
    hangs. Raises Impossible.
    """
    radius, bore, half = found.size / 2, found.kind == "bore", float(found.lengths[0]) / 2
    named = f"{'bore' if bore else 'pin'} ⌀ {2 * radius:.2f} mm"
    if found.turn < WHOLE_TURN:
        raise Impossible(f"The {named} goes only {found.turn:.0f}° round.")
    axis, through = mouth(rays, found, at)
    pitch, deep, gap = given["pitch_mm"], given["deep_mm"], given["gap_mm"]
    profile = profile_of(pitch, deep, given, bore, axis, process)
    along = min(given.get("along_mm", 2 * half), 2 * half)
    if along < pitch:
        raise Impossible(f"A thread of one turn wants {pitch:.2f} mm along the axis; {along:.2f} mm are there.")
    if along > MOST_TURNS * pitch:
        raise Impossible(f"That would be {along / pitch:.0f} turns; {MOST_TURNS} are the most: a coarser pitch.")
    low, high = half - along, half
    start = low - (OVERLAP if through and along > 2 * half - 1e-6 else 0.0)
    # What is cut away runs past the mouth, but never past the foot that it ends at.
    outer = radius - gap if not bore else radius + deep + gap
    root = outer - deep
    if not bore and root < 2 * process.width:
        raise Impossible("Nothing of the pin would be left inside its thread.")
    body = helix(profile, root, start, high + OVERLAP)
    ends = (1.0, -1.0) if start < low else (1.0,)
    if bore:
        cut = Manifold.batch_boolean(
            [body, *(_mouth_of_bore(root, outer, end * half, end) for end in ends)], OpType.Add
        )
        jacket = Manifold.cylinder(along - 2 * OVERLAP, outer + skin(process), circular_segments=AROUND)
        jacket = jacket - Manifold.cylinder(along, outer, circular_segments=AROUND).translate((0, 0, -OVERLAP))
        jacket = jacket.translate((0, 0, low + OVERLAP))
    else:
        sides = int(found.sides[0]) or AROUND
        wide = (radius + OVERLAP) / cos(pi / sides)
        whole = Manifold.cylinder(high + OVERLAP - start, wide, circular_segments=96)
        keep = body ^ _within_mouths(root, outer, low, high, len(ends) > 1)
        lies = abs(float(axis[2])) < SHALLOW
        if lies:
            keep = keep ^ _between_flats(axis, outer, low, high, process)
        cut = whole.translate((0, 0, start)) - keep
        jacket = None
    place = np.c_[upright(axis).T, found.places[0]]
    cut = cut.transform(place)
    if jacket is not None and (jacket.transform(place) ^ solid).volume() < 0.95 * jacket.volume():
        raise Impossible(f"Less than {skin(process):.2f} mm of wall would be left round the thread.")
    form = "Buttress" if round(given["buttress_count"]) else "Trapezoid"
    words = (
        f"{form} thread in the {named}: pitch {pitch:.2f} mm, {deep:.2f} mm deep, {along:.1f} mm long, flanks "
        f"{profile.outer_flank:.0f}° and {profile.inner_flank:.0f}°, {gap:.2f} mm of play on each side, right-handed."
    )
    if not bore and lies:
        words += " Flats above and below, so that it prints lying."
    numbers = {
        "pitch_mm": pitch, "deep_mm": deep, "along_mm": along, "gap_mm": gap, "outer_mm": 2 * outer,
        "root_mm": 2 * root, "outer_flank_deg": profile.outer_flank, "inner_flank_deg": profile.inner_flank,
    }  # fmt: skip
    return Tool("thread", words, numbers, remove=cut, round_=True)


def _mouth_of_bore(root: float, outer: float, at: float, way: float) -> Manifold:
    """The chamfer at a mouth of a bore ``at`` mm along its axis that opens along ``way`` (1 or −1)."""
    deep = outer - root
    rows = [
        (0, at - way * deep),
        (root, at - way * deep),
        (outer + OVERLAP, at + way * OVERLAP),
        (0, at + way * OVERLAP),
    ]
    return Manifold.revolve(CrossSection([np.array(rows)], FillRule.NonZero), AROUND)


def _within_mouths(root: float, outer: float, low: float, high: float, both: bool) -> Manifold:
    """What a thread on a pin stays within: chamfered at its free end, or at both."""
    deep, past = outer - root, 2 * OVERLAP
    foot = [(root, low - past), (root, low), (outer, low + deep)] if both else [(outer, low - past)]
    rows = [(0, low - past), *foot, (outer, high - deep), (root, high), (root, high + past), (0, high + past)]
    return Manifold.revolve(CrossSection([np.array(rows)], FillRule.NonZero), AROUND)


def _between_flats(axis: Array, outer: float, low: float, high: float, process: Process) -> Manifold:
    """What lies between two flats above and below a lying axis: what they take away would lean more than prints."""
    half = outer * sin(radians(process.limit))
    up = upright(axis) @ np.array([0.0, 0, 1])
    up = up / np.linalg.norm(up)
    slab = Manifold.cube((2 * half, 4 * outer, high - low + 1), True).translate((0, 0, (low + high) / 2))
    turn = np.array([[up[0], -up[1], 0], [up[1], up[0], 0], [0, 0, 1.0]])
    return slab.transform(np.c_[turn, np.zeros(3)])
