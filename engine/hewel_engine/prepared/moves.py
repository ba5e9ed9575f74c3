"""One pass over the bytes of a prepared file: where the nozzle goes, and what it lays on the way. Lengths mm.

Read are G0 to G4, G10, G11, G20, G21, G28, G90 to G92, M82 and M83, in capitals or not, with blanks or without, with
line numbers and checksums; words that hold until another comes; comments after a semicolon and in brackets. Nothing
that stands in a comment is relied on.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.mesh import Array
from hewel_engine.tolerances import MAX_BYTES

CHORD = 0.01
"""mm by which a stretch of an arc may miss it."""
BEYOND = 1e5
"""mm, or mm/s: no machine goes so far, or so fast."""
MOST_WRONG = 0.2
"""Share of lines that say nothing from which a file is none of this kind."""
TRAVEL, LAID, DWELL = 0, 1, 2

(LINES, SENSELESS, ARCS, ABSURD, ENDED, INCHES, SPEEDLESS, COUNT) = range(8)


@dataclass(frozen=True, eq=False)
class Moves:
    """In the order in which they are made, (n,): ``kind``, end ``x``, ``y``, ``z``, ``e`` (mm of filament, negative
    where it is drawn back), ``speed`` mm/s, ``dwell`` s.
    """

    kind: np.ndarray
    x: Array
    y: Array
    z: Array
    e: Array
    speed: Array
    dwell: Array


@njit(cache=True, nogil=True)
def _parse(data, kinds, points, speeds, notes):
    """Fills the arrays; how many moves there are, or −1 where they have no room. ``notes`` counts what is told."""
    size, at, count = len(data), 0, 0
    room = len(kinds)
    x = y = z = 0.0
    off_x = off_y = off_z = 0.0  # what G92 has set, in the machine's own place
    e_at = 0.0
    speed, unit = 0.0, 1.0
    absolute, e_absolute, e_said = True, True, False
    motion = -1
    has = np.zeros(26, np.bool_)
    value = np.zeros(26)
    while at < size:
        # ---- one line: its words
        notes[LINES] += 1
        for k in range(26):
            has[k] = False
        letter, words, bad = -1, 0, False
        code_g, code_m = -1, -1
        closed = False
        while at < size:
            byte = data[at]
            if byte == 10:
                at += 1
                closed = True
                break
            if byte == 13 or byte == 32 or byte == 9:
                at += 1
                continue
            if byte == 59 or byte == 42:  # a comment, or a checksum: the rest of the line
                while at < size and data[at] != 10:
                    at += 1
                continue
            if byte == 40:
                while at < size and data[at] != 41 and data[at] != 10:
                    at += 1
                if at < size and data[at] == 41:
                    at += 1
                continue
            if 97 <= byte <= 122:
                byte -= 32
            if 65 <= byte <= 90:
                letter = byte - 65
                at += 1
                while at < size and (data[at] == 32 or data[at] == 9):
                    at += 1
                sign, whole, share, digits, seen = 1.0, 0.0, 0.1, 0, False
                if at < size and (data[at] == 45 or data[at] == 43):
                    sign = -1.0 if data[at] == 45 else 1.0
                    at += 1
                while at < size:
                    d = data[at]
                    if 48 <= d <= 57:
                        digits += 1
                        if seen:
                            whole += share * (d - 48)
                            share *= 0.1
                        else:
                            whole = whole * 10.0 + (d - 48)
                    elif d == 46 and not seen:
                        seen = True
                    else:
                        break
                    at += 1
                if digits:
                    number = sign * whole
                    if not abs(number) < 1e12:
                        notes[ABSURD] += 1
                        number = 0.0
                    if letter == 6:  # G: several may stand in a line, each from where it stands
                        code = round(number)
                        words += 1
                        if 0 <= code <= 3:
                            motion = code
                        elif code == 90 or code == 91:
                            absolute = code == 90
                            if not e_said:  # once it was said how filament counts, this says nothing of it
                                e_absolute = absolute
                        elif code == 20 or code == 21:
                            unit = 25.4 if code == 20 else 1.0
                            notes[INCHES] += code == 20
                        else:
                            code_g = code
                    elif letter == 12:  # M
                        code_m = round(number)
                        words += 1
                    else:
                        has[letter], value[letter] = True, number
                        words += letter != 13  # N alone says nothing
                elif letter in (23, 24, 25):  # G28 X: an axis without a number
                    has[letter], value[letter] = True, 0.0
                    words += 1
                else:
                    bad = True
            else:
                bad = True
                at += 1
        if not closed:
            notes[ENDED] = 1
        if bad:
            notes[SENSELESS] += 1
            if words == 0:
                continue
        if words == 0:
            continue
        # ---- what it does
        if code_m == 82:
            e_absolute, e_said = True, True
        elif code_m == 83:
            e_absolute, e_said = False, True
        if code_m >= 0:
            continue
        if code_g == 92:
            bare = not (has[23] or has[24] or has[25] or has[4])
            if has[23] or bare:
                off_x = x - (value[23] * unit if has[23] else 0.0)
            if has[24] or bare:
                off_y = y - (value[24] * unit if has[24] else 0.0)
            if has[25] or bare:
                off_z = z - (value[25] * unit if has[25] else 0.0)
            if has[4] or bare:
                e_at = value[4] * unit if has[4] else 0.0
            continue
        if code_g == 28:
            every = not (has[23] or has[24] or has[25])
            if has[23] or every:
                x, off_x = 0.0, 0.0
            if has[24] or every:
                y, off_y = 0.0, 0.0
            if has[25] or every:
                z, off_z = 0.0, 0.0
            continue
        if code_g == 4:
            if count >= room:
                return -1
            kinds[count] = DWELL
            points[count] = x, y, z, 0.0
            speeds[count] = value[18] if has[18] else (value[15] / 1000.0 if has[15] else 0.0)
            count += 1
            continue
        if code_g >= 0:
            continue
        if has[5]:
            speed = value[5] * unit / 60.0
            if speed > BEYOND:
                notes[ABSURD] += 1
                speed = BEYOND
        if motion < 0 or not (has[23] or has[24] or has[25] or has[4]):
            continue
        to_x, to_y, to_z = x, y, z
        if has[23]:
            to_x = value[23] * unit + (off_x if absolute else x)
        if has[24]:
            to_y = value[24] * unit + (off_y if absolute else y)
        if has[25]:
            to_z = value[25] * unit + (off_z if absolute else z)
        fed = 0.0
        if has[4]:
            if e_absolute:
                fed = value[4] * unit - e_at
                e_at = value[4] * unit
            else:
                fed = value[4] * unit
                e_at += fed
        if abs(to_x) > BEYOND or abs(to_y) > BEYOND or abs(to_z) > BEYOND or abs(fed) > BEYOND:
            notes[ABSURD] += 1
            continue
        moved = to_x != x or to_y != y or to_z != z
        if not moved and fed == 0.0:
            continue
        if speed <= 0.0:
            notes[SPEEDLESS] += 1
        pieces, mid_x, mid_y, radius, start, sweep = 1, 0.0, 0.0, 0.0, 0.0, 0.0
        if motion >= 2:
            notes[ARCS] += 1
            turn = -1.0 if motion == 2 else 1.0
            if has[17]:  # R
                radius = value[17] * unit
                dx, dy = to_x - x, to_y - y
                apart = np.sqrt(dx * dx + dy * dy)
                if apart > 0.0 and abs(radius) >= 0.5 * apart:
                    high = np.sqrt(radius * radius - 0.25 * apart * apart)
                    side = turn if radius > 0 else -turn
                    mid_x = 0.5 * (x + to_x) - side * high * dy / apart
                    mid_y = 0.5 * (y + to_y) + side * high * dx / apart
                    radius = abs(radius)
                else:
                    radius = 0.0
            else:
                mid_x = x + (value[8] * unit if has[8] else 0.0)
                mid_y = y + (value[9] * unit if has[9] else 0.0)
                radius = np.sqrt((x - mid_x) ** 2 + (y - mid_y) ** 2)
            if radius > 0.0 and radius < BEYOND:
                start = np.arctan2(y - mid_y, x - mid_x)
                sweep = np.arctan2(to_y - mid_y, to_x - mid_x) - start
                if turn > 0 and sweep <= 1e-9:
                    sweep += 2 * np.pi
                if turn < 0 and sweep >= -1e-9:
                    sweep -= 2 * np.pi
                step = 2.0 * np.arccos(max(1.0 - CHORD / radius, 0.0)) if radius > CHORD else 1.0
                pieces = max(int(np.ceil(abs(sweep) / step)), 1)
        if count + pieces > room:
            return -1
        from_z = z
        for k in range(1, pieces + 1):
            share = k / pieces
            kinds[count] = LAID if fed > 0.0 and moved else TRAVEL
            if k == pieces:
                points[count] = to_x, to_y, to_z, fed / pieces
            else:
                angle = start + share * sweep
                points[count] = (
                    mid_x + radius * np.cos(angle),
                    mid_y + radius * np.sin(angle),
                    from_z + share * (to_z - from_z),
                    fed / pieces,
                )
            speeds[count] = speed
            count += 1
        x, y, z = to_x, to_y, to_z
    return count


def read_moves(data: bytes) -> tuple[Moves, list[Note]]:
    """The moves of a prepared file and what is worth knowing of how it was read. Raises InputError ``empty_file``,
    ``too_large``, ``unknown_format`` where it is none, ``non_finite`` where numbers are beyond any machine.
    """
    if not data.strip():
        raise InputError("empty_file", "The file is empty.", "Prepare it again.")
    if len(data) > MAX_BYTES:
        words = f"The file has more than the {MAX_BYTES // 2**20} MiB that are read."
        raise InputError("too_large", words, "Prepare fewer copies at once.")
    raw = np.frombuffer(data, np.uint8)
    _looks_prepared(raw[: 1 << 20])
    if len(raw) > HEAD:
        _parsed(raw[:HEAD])  # what is no such file says so at once
    kinds, points, speeds, notes = _parsed(raw)
    if notes[ABSURD]:
        words = f"{notes[ABSURD]} of its numbers are beyond any machine."
        raise InputError("non_finite", f"The file cannot be used: {words}", "Prepare it again.")
    if not (kinds == LAID).any():
        raise _none("no line of it lays anything")
    dwell = np.where(kinds == DWELL, speeds, 0.0)
    x, y, z, e = points.T
    return Moves(kinds, x, y, z, e, np.where(speeds > 0, speeds, BEYOND), dwell), _told(notes)


ONE_LINE = 4096
"""Bytes that no line of a prepared file has."""
HEAD = 4 << 20
"""Bytes of a large file that are read first."""


def _parsed(raw: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Kinds, points and speeds of the moves, and how often each thing was found. Raises InputError ``too_large``, and
    ``unknown_format`` where most lines mean nothing.
    """
    room = max(int(np.count_nonzero(raw == 10)) + 16, 1024)
    while True:
        kinds, points = np.empty(room, np.uint8), np.empty((room, 4), np.float32)
        speeds, notes = np.empty(room, np.float32), np.zeros(COUNT, np.int64)
        count = _parse(raw, kinds, points, speeds, notes)
        if count >= 0:
            break
        room *= 3
        if room > 60_000_000:
            raise InputError("too_large", "The file has more moves than can be held.", "Prepare it with fewer arcs.")
    if notes[SENSELESS] > MOST_WRONG * notes[LINES]:
        raise _none("most of its lines say nothing that a machine would do")
    return kinds[:count], points[:count], speeds[:count], notes


def _looks_prepared(head: np.ndarray) -> None:
    """Text in lines: a byte that no text has says so at once, and lines that no machine would read."""
    strange = (head < 9) | ((head > 13) & (head < 32) & (head != 26)) | (head == 127)
    if strange.mean() > 0.001:
        raise _none("it is no text")
    if len(head) > ONE_LINE and np.isin(head, (10, 13)).sum() * ONE_LINE < len(head):
        raise _none("it has no lines")


def _none(why: str) -> InputError:
    return InputError("unknown_format", f"This is no prepared file: {why}.", "Give the file that goes to the machine.")


def _told(notes: np.ndarray) -> list[Note]:
    out = []
    if notes[SENSELESS]:
        out.append(Note("lines_left_out", f"{notes[SENSELESS]} lines say something unknown, which was left out."))
    if notes[ENDED]:
        out.append(Note("may_be_cut", "Its last line has no end: the file may have been cut short."))
    if notes[SPEEDLESS]:
        words = f"{notes[SPEEDLESS]} moves come before any speed was named; they count as if they took no time."
        out.append(Note("no_speed", words))
    if notes[INCHES]:
        out.append(Note("inches", "It is written in inches, at least in part."))
    return out
