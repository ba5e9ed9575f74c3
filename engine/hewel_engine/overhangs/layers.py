"""What hangs in each layer, linked from layer to layer: U_k = L_k − grow(L_{k−1}, h·tan α).

The plan of a linked region is all that its layers add beyond the ones below them (L_k − L_{k−1}), so that its span and
reach are the true ones and not short of a step at either end.
"""

from dataclasses import dataclass
from functools import cached_property
from itertools import takewhile
from operator import itemgetter

import numpy as np
from manifold3d import CrossSection
from numba import njit

from hewel_engine.geometry.mesh import Array, components
from hewel_engine.geometry.plans import bounds_meet, grown, mitred, united
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process

TOUCH = 2e-3
"""mm: pieces of successive layers that come this near are one region."""
GRIP = 0.05
"""mm: how far into the layer below its hold on a region is looked at."""
SHUT = 0.75
"""Share of its outline along which what a layer adds meets the layer below where it shuts a gap."""
PLATEAU = 1e-7
"""mm within which neighbouring vertices stand equally high."""
STRAY = 1e-3
"""mm by which an outline may stray where layers are laid over each other; half the corners of a fine mesh go."""


@dataclass(eq=False)
class Hanging:
    """Pieces of layers ``first`` to ``last`` that hang and touch each other."""

    first: int
    last: int
    pieces: list[tuple[int, CrossSection]]
    """Each with its layer, lowest first."""
    island: bool = False
    """It begins in mid-air: some component of a layer touches nothing below."""
    steep: bool = False
    """In some layer it reaches out more than half a line beyond what the limit allows."""

    def touches(self, k: int, box: tuple, near: CrossSection) -> bool:
        """Whether it comes as near as TOUCH in this layer or the one below; ``box`` bounds what ``near`` grew from."""
        tips = takewhile(lambda piece: piece[0] >= k - 1, reversed(self.pieces))
        return any(bounds_meet(box, tip.bounds(), TOUCH) and not (near ^ tip).is_empty() for _, tip in tips)

    @cached_property
    def plan(self) -> CrossSection:
        """All of its pieces; the hair that rounding leaves between two of them, in a part turned anyhow, is closed."""
        if len(self.pieces) == 1:
            return self.pieces[0][1]
        return grown(grown(united([p for _, p in self.pieces]), TOUCH), -TOUCH)

    def hold_of(self, stack: LayerStack, k: int, piece: CrossSection) -> CrossSection:
        """The material of the layer below that holds one piece of layer ``k``."""
        return (stack.smoothed(STRAY)[k - 1] ^ mitred(piece, GRIP)) - piece

    def hold(self, stack: LayerStack) -> CrossSection:
        """The material round the region, in the layers below its pieces, that holds it."""
        at: dict[int, list[CrossSection]] = {}
        for k, piece in self.pieces:
            at.setdefault(k, []).append(piece)
        held, plans = [CrossSection()], stack.smoothed(STRAY)
        for k, pieces in at.items():
            grip = plans[k - 1] ^ mitred(united(pieces), GRIP)
            for own in at.get(k - 1, []):
                grip -= own  # in a slope each piece stands on the one before, which is the region itself
            held.append(grip)
        rest = united(held) - self.plan
        return grown(grown(rest, -TOUCH / 2), TOUCH / 2)  # without the hair that rounding leaves on free edges


def material_starts(faces: np.ndarray, heights: Array, facing: Array) -> Array:
    """Heights (k,) at which material begins: plateaus of vertices with no lower neighbour and facets facing down.

    ``faces`` (m, 3); ``heights`` (n,) mm above the plate; ``facing`` (m,): area × upward part of the normal of each
    facet. Exact for any closed mesh; what begins on the plate is among them.
    """
    i, j = faces.reshape(-1), faces[:, [1, 2, 0]].reshape(-1)
    level = np.abs(heights[i] - heights[j]) <= PLATEAU
    count, label = components(len(heights), np.c_[i[level], j[level]])
    lower, used, turned = _plateaus(faces, heights, facing, label, count)
    # Material begins where the solid lies above the plateau: there the facets round it turn their backs down.
    # At the bottom of a hollow the same plateau has facets that look up.
    height = np.zeros(count)
    height[label] = heights
    return np.sort(height[used & ~lower & (turned < 0)])


@njit(cache=True, nogil=True)
def _plateaus(faces, heights, facing, label, count):
    """Of every plateau whether a neighbour is lower, whether a facet uses it, and how the facets round it face."""
    lower, used, turned = np.zeros(count, np.bool_), np.zeros(count, np.bool_), np.zeros(count)
    for f in range(len(faces)):
        for side in range(3):
            i, j = faces[f, side], faces[f, (side + 1) % 3]
            drop = heights[i] - heights[j]
            if drop > PLATEAU:
                lower[label[i]] = True
            elif drop < -PLATEAU:
                lower[label[j]] = True
            used[label[i]] = True
            turned[label[i]] += facing[f]
    return lower, used, turned


def worth_looking(stack: LayerStack, beyond: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(count,) bool: layers in which something may hang, for a facet passes the limit or material begins there; and
    those in which material begins. ``beyond`` (m,) bool: the facets past the limit.
    """
    h, z, mesh = stack.pitch, stack.points[:, 2], stack.mesh
    a, b, c = z[mesh.faces[beyond].T]
    change = np.zeros(stack.count + 1, int)
    low = np.clip(np.floor(np.minimum(np.minimum(a, b), c) / h - 0.5), 0, stack.count).astype(int)
    high = np.clip(np.ceil(np.maximum(np.maximum(a, b), c) / h - 0.5) + 1, 0, stack.count).astype(int)
    np.add.at(change, low, 1)
    np.add.at(change, high, -1)
    wanted = np.cumsum(change)[: stack.count] > 0
    begins = np.zeros(stack.count, bool)
    starts = material_starts(mesh.faces, z, mesh.areas * (mesh.normals @ stack.up))
    begins[np.clip(np.ceil(starts / h - 0.5).astype(int), 0, stack.count - 1)] = True
    wanted |= begins
    wanted[0] = begins[0] = False
    return wanted, begins


def hanging(stack: LayerStack, process: Process, beyond: np.ndarray) -> list[Hanging]:
    """Everything that hangs on a closed part standing as ``stack`` says, lowest first; ``beyond`` (m,) bool: the facets
    past the limit.
    """
    step = stack.pitch * np.tan(np.radians(process.limit))
    wanted, begins = worth_looking(stack, beyond)
    plans = stack.smoothed(STRAY)
    done: list[Hanging] = []
    alive: list[Hanging] = []
    afloat: list[CrossSection] = []  # components of the layer below that nothing holds up yet
    for k in range(1, stack.count):
        if not wanted[k] and not afloat:
            continue
        here, below = plans[k], plans[k - 1]
        bodies = here.decompose() if begins[k] or afloat else []
        held = below - united(afloat) if afloat else below
        afloat = [c for c in bodies if (c ^ held).is_empty()]
        if not wanted[k] or here is below:
            continue
        fresh = [c for c in afloat if (c ^ below).is_empty()]
        reached = plans.grown(k - 1, step)
        out = here - reached
        for start in fresh:
            out -= start
        pieces, added = [], None
        if not out.is_empty():
            added = here - below
            # All that the layer adds there; in a corner beside a wall the step reaches √2 times as far.
            pieces = (grown(out, 1.5 * step) ^ added).decompose()
        # Something is left of it where a strip held along one side is half a line wide.
        steep = _Steep(out, process.width / 4)
        done += [r for r in alive if r.last < k - 1]
        alive = [r for r in alive if r.last >= k - 1] + [Hanging(k, k, [(k, c)], True, True) for c in fresh]
        floating = united(afloat) if afloat else None
        for piece in pieces:
            floats = floating is not None and not (piece ^ floating).is_empty()
            alive = _linked(alive, k, piece, floats, steep)
        if sum(r.last == k - 1 and not r.island for r in alive) > 1:
            alive = _met(alive, k, here - below if added is None else added, below)
    return sorted(done + alive, key=lambda r: r.first)


def _met(alive: list[Hanging], k: int, added: CrossSection, below: CrossSection) -> list[Hanging]:
    """The regions, those linked that layer ``k`` shuts the last gap between: the crown of an arch may close in a step
    so short that nothing of it hangs.
    """
    for gap in added.decompose():
        box, near = gap.bounds(), grown(gap, TOUCH)
        rim = near - gap
        if (rim ^ below).area() < SHUT * rim.area():
            continue
        if sum(not r.island and r.touches(k, box, near) for r in alive) > 1:
            alive = _linked(alive, k, gap, False, None)
    return alive


class _Steep:
    """Where a layer reaches out further than ``by`` mm past what ``out`` is already past; looked for when asked, since
    most of a long slope is known to be steep from below.
    """

    def __init__(self, out: CrossSection, by: float):
        self._out, self._by = out, by

    @cached_property
    def _deep(self) -> CrossSection:
        return grown(self._out, -self._by)

    def at(self, piece: CrossSection) -> bool:
        return not (self._deep ^ piece).is_empty()


def _linked(alive: list[Hanging], k: int, piece: CrossSection, floats: bool, steep: _Steep | None) -> list[Hanging]:
    """The regions with one more piece, which joins those that it touches.

    An island grows only while nothing holds it: what hangs where it has met the rest is a region of its own.
    """
    box, near = piece.bounds(), grown(piece, TOUCH)
    mine = [r for r in alive if r.island == floats and r.touches(k, box, near)]
    joined = Hanging(
        min((r.first for r in mine), default=k),
        k,
        [*sorted((p for r in mine for p in r.pieces), key=itemgetter(0)), (k, piece)],
        bool(mine) and floats,
        any(r.steep for r in mine) or (steep is not None and steep.at(piece)),
    )
    return [*(r for r in alive if r not in mine), joined]
