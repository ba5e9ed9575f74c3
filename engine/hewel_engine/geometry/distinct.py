"""Rows that occur more than once, found in one pass."""

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array


@njit(cache=True, nogil=True)
def hashed(row: np.ndarray) -> np.uint64:
    """Of three integers (3,) a number that scatters well."""
    h = np.uint64(1469598103934665603)
    for k in range(3):
        h = (h ^ np.uint64(row[k])) * np.uint64(0x9E3779B97F4A7C15)
        h ^= h >> np.uint64(29)
    return h


@njit(cache=True)
def _number(rows, where, first):
    """Gives each distinct row of ``rows`` (n, 3) a number in the order of first sight; how many there are."""
    size = 16
    while size < 2 * len(rows):
        size *= 2
    table = np.full(size, -1, np.int64)
    mask = np.uint64(size - 1)
    count = 0
    for i in range(len(rows)):
        at = hashed(rows[i]) & mask
        while True:
            known = table[at]
            if known < 0:
                table[at] = count
                first[count] = i
                where[i] = count
                count += 1
                break
            j = first[known]
            if rows[j, 0] == rows[i, 0] and rows[j, 1] == rows[i, 1] and rows[j, 2] == rows[i, 2]:
                where[i] = known
                break
            at = (at + np.uint64(1)) & mask
    return count


def distinct(rows: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """For (n, 3) integer rows: the place where each distinct row first stands (k,), and each row's number (n,)."""
    rows = np.ascontiguousarray(rows, np.int64)
    where, first = np.empty(len(rows), np.int64), np.empty(len(rows), np.int64)
    count = _number(rows, where, first)
    return first[:count], where


def distinct_points(points: Array) -> tuple[np.ndarray, np.ndarray]:
    """The same for (n, 3) float64 points that are equal to the last bit; 0 and −0 are one."""
    return distinct((np.ascontiguousarray(points, np.float64) + 0.0).view(np.int64))
