"""The test stand: how a run is started, followed line by line and stopped. One adapter ships with the product, for the
simulated stand; docs/machines.md says what another one has to answer.
"""

import urllib.parse
from typing import Any

from django.conf import settings

from hewel.beside import Declined, asked
from hewel.refusal import Refused

TIMEOUT = 5
MOST_BYTES = 8_000_000
AWAY = Refused("no_stand", "The test stand does not answer.", "Look whether it runs, or bring its file in.", 409)


def there() -> bool:
    return bool(settings.STAND_ADDRESS)


def start(run: str, bar: dict) -> None:
    """Pulls a bar; the same run asked for again is pulled once. Raises Refused in the stand's words."""
    _ask("runs", {"run": run} | bar)


def rows(run: str, begin: int) -> dict:
    """Rows (time s, stroke mm, force N) from the ``begin``-th on, and whether it is ``done``."""
    told = _ask(f"runs/{urllib.parse.quote(run, safe='')}?from={begin}", None)
    try:
        lines = [[float(t), float(s), float(f)] for t, s, f in told["rows"]]
        return {"rows": lines, "done": bool(told["done"])}
    except (KeyError, TypeError, ValueError):
        raise Refused("no_stand", "The stand answers what cannot be read.", "Look at its log.", 409) from None


def stop(run: str) -> None:
    _ask(f"runs/{urllib.parse.quote(run, safe='')}/stop", {})


def _ask(path: str, given: dict | None) -> dict[str, Any]:
    if not there():
        raise Refused("no_stand", "No test stand is connected.", "Bring a file of the run in instead.", 409)
    try:
        return asked(settings.STAND_ADDRESS, settings.STAND_TOKEN, path, given, TIMEOUT, MOST_BYTES)
    except Declined as no:
        raise Refused("stand_refuses", str(no), "Nothing was pulled.", 409) from None
    except (OSError, ValueError):
        raise AWAY from None
