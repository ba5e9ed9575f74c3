"""The verb ``check``: whether a release packet is what was released, to the last bit."""

from argparse import Namespace

from hewel_engine.errors import Note
from hewel_engine.release.packet import checked


def check(data: bytes, args: Namespace) -> tuple[dict, list[Note]]:
    """Raises InputError ``not_a_packet``."""
    return checked(data).as_dict(), []
