"""Letters made of strokes as wide as a line or two, to be sunk into a face. Lengths mm."""

import shapely
import shapely.affinity

WIDE, TALL, STEP = 4.0, 6.0, 5.6
"""Grid units of a letter, and from one letter's left edge to the next one's."""

_STROKES = {
    "A": "0046 4640 0242", "B": "0006 0636 3645 4544 4433 0333 3342 4241 4130 3000",
    "C": "4536 3616 1605 0501 0110 1030 3041",
    "D": "0006 0626 2644 4442 4220 2000", "E": "4000 0006 0646 0333", "F": "0006 0646 0333",
    "G": "4536 3616 1605 0501 0110 1030 3041 4143 4323", "H": "0006 4046 0343", "I": "2026", "J": "4641 4130 3010 1001",
    "K": "0006 0246 1340", "L": "0600 0040", "M": "0006 0623 2346 4640", "N": "0006 0640 4046",
    "O": "1030 3041 4145 4536 3616 1605 0501 0110", "P": "0006 0636 3645 4544 4433 3303",
    "Q": "1030 3041 4145 4536 3616 1605 0501 0110 2240", "R": "0006 0636 3645 4544 4433 3303 2340",
    "S": "4536 3616 1605 0504 0413 1333 3342 4241 4130 3010 1001", "T": "0646 2620", "U": "0601 0110 1030 3041 4146",
    "V": "0620 2046", "W": "0610 1023 2330 3046", "X": "0046 0640", "Y": "0623 4623 2320", "Z": "0646 4600 0040",
    "0": "1030 3041 4145 4536 3616 1605 0501 0110 1234", "1": "1020 2030 2026 2615",
    "2": "0516 1636 3645 4544 4400 0040",
    "3": "0616 1636 3645 4544 4433 3323 3342 4241 4130 3010 1001", "4": "3036 3602 0242",
    "5": "4606 0604 0434 3443 4341 4130 3010 1001", "6": "4536 3616 1605 0501 0110 1030 3041 4142 4233 3303",
    "7": "0646 4610", "8": "1333 3344 4445 4536 3616 1605 0504 0413 1302 0201 0110 1030 3041 4142 4233",
    "9": "0110 1030 3041 4145 4536 3616 1605 0504 0413 1343", " ": "", "-": "0343", ".": "2021",
}  # fmt: skip
"""Each stroke from x y to x y, on a grid four wide and six tall."""


def lettered(text: str, tall: float, stroke: float) -> shapely.Geometry:
    """The letters of ``text``, ``tall`` mm high, drawn in strokes ``stroke`` mm wide, their middle at the origin. What
    is no letter, digit, blank, hyphen or dot is left out.
    """
    lines = []
    for place, letter in enumerate(c for c in text.upper() if c in _STROKES):
        for s in _STROKES[letter].split():
            x0, y0, x1, y1 = (float(c) for c in s)
            lines.append([(x0 + place * STEP, y0), (x1 + place * STEP, y1)])
    if not lines:
        return shapely.MultiPolygon()
    scale = (tall - stroke) / TALL
    drawn = shapely.affinity.scale(shapely.MultiLineString(lines), scale, scale, origin=(0, 0))
    shape = drawn.buffer(stroke / 2, quad_segs=4)
    x0, y0, x1, y1 = shape.bounds
    return shapely.affinity.translate(shape, -(x0 + x1) / 2, -(y0 + y1) / 2)


def width_of(text: str, tall: float, stroke: float) -> float:
    """mm that ``lettered`` takes from left to right."""
    x0, _, x1, _ = lettered(text, tall, stroke).bounds
    return float(x1 - x0)
