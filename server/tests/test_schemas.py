"""What the API says of itself."""

from ninja import Schema

import hewel.api  # noqa: F401 every schema is there once all routers are


def every(kind: type) -> list[type]:
    return [found for below in kind.__subclasses__() for found in (below, *every(below))]


def test_no_two_schemas_share_a_name():
    """The description of the API knows a schema by its name alone: of two, one would silently stand for both."""
    ours = [s for s in every(Schema) if not s.__module__.startswith(("ninja", "pydantic"))]
    places: dict[str, set[str]] = {}
    for schema in ours:
        places.setdefault(schema.__name__, set()).add(schema.__module__)
    assert len(ours) > 100 and {n: m for n, m in places.items() if len(m) > 1} == {}
