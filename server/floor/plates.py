"""A plate on its way out: the one gate that it passes, and its file."""

from accounts.models import User
from batch.queries import outdated
from farm.queries import Farm
from floor import bridge
from hewel.digest import digest
from hewel.refusal import Refused
from needs import queries as needs
from store import actions as store
from studies.view import DirectedJob
from week.models import Order


def require_printable(user: User, order: Order) -> None:
    """The part's own gate, and nothing stale: what was ordered is what the job now says."""
    needs.require_release(user, order.part)
    if outdated(DirectedJob(order.part), order.choice):
        raise Refused(
            "stale",
            "The part or its batch has changed since this was ordered.",
            "Choose the batch anew and order again, or undo the change.",
            409,
        )


def _content(order: Order, number: int) -> dict:
    """What a plate's file is made of, but for the solid itself."""
    row, choice = order.plates[number], order.choice
    scale = Farm(order.workshop).scale(order.part.job)
    return {
        "up": list(choice.analysis.up),
        "items": row.get("items") or choice.items[: row["copies"]],
        "title": order.part.name,
        "stops": [what for _, _, what, *_ in sorted(row["stops"])],
        "mode": row.get("mode", choice.mode),
    } | ({"scale": list(scale)} if scale else {})


def mark_of(order: Order, number: int) -> str:
    """A short name of a plate's content: it stands in the file and its name, on the ticket and on the traveller."""
    return digest(_content(order, number) | {"solid": order.part.solid_id})[:12]


def file_of(order: Order, number: int) -> bytes:
    """The plate as 3MF, every copy where it stands; the same bytes every time."""
    return bridge.plate_file(store.get(order.part.solid), **_content(order, number), mark=mark_of(order, number))
