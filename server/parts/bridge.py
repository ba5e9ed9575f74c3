"""The only file of this app that calls the engine. Its generators run in a process of their own."""

from collections.abc import Iterator

from hewel_engine.geometry.simplify import thinned
from hewel_engine.io.packing import pack_solid, pack_view
from hewel_engine.io.reading import take_in
from hewel_engine.parts.facts import facts_of


def intake(data: bytes, units: str) -> Iterator[tuple]:
    """Events of taking a file in: results ``solid``, ``view``, ``ghost`` (bytes) and ``facts`` (dict)."""
    yield ("doing", 0, 4, "reading and mending")
    taken = take_in(data, units)
    yield ("doing", 1, 4, "finding bores and flats")
    facts = facts_of(taken.mesh, surfaces=taken.surfaces)
    yield ("doing", 2, 4, "storing")
    features = facts.feature_of_facet()
    yield ("result", "solid", pack_solid(taken.mesh, taken.surfaces))
    yield ("result", "view", pack_view(taken.mesh, features))
    small = thinned(taken.mesh)
    yield ("result", "ghost", pack_view(small))
    yield (
        "result",
        "facts",
        {
            "facts": facts.as_dict(),
            "warnings": taken.warnings,
            "file_format": taken.file_format,
            "scale_mm": taken.scale_mm,
        },
    )
