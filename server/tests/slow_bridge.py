"""Stand-ins for a bridge: what a task can do well or badly."""

import os
import time


def count(n):
    for i in range(n):
        yield ("result", "n", i)


def turn(seconds):
    for i in range(int(seconds * 10)):
        yield ("doing", i, int(seconds * 10), "turning")
        time.sleep(0.1)


def break_off():
    yield ("doing", 0, 1, "about to break")
    raise RuntimeError("a defect")


def die():
    yield ("doing", 0, 1, "about to die")
    os._exit(9)


def swell():
    yield ("doing", 0, 1, "swelling")
    yield ("result", "size", len(bytearray(8 << 30)))
