"""The only file of this app that calls the engine."""

from hewel_engine.io.exports import plate_file as written
from hewel_engine.io.packing import unpack_solid


def plate_file(
    solid: bytes, up: list[float], items: list[list[float]], title: str, stops: list[str], mode: str, mark: str
) -> bytes:
    return written(unpack_solid(solid), up, items, title, stops, mode, mark)
