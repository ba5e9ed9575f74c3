"""Asking a program that runs beside this one, at an address of this machine."""

import json
import urllib.error
import urllib.request
from typing import Any


class Declined(Exception):
    """It cannot do it now; in its words."""


def asked(address: str, token: str, path: str, given: dict | None, timeout: float, most_bytes: int) -> dict[str, Any]:
    """Its answer; a question without ``given`` only looks. Raises Declined in its words, OSError or ValueError where it
    does not answer, or answers what cannot be read.
    """
    request = urllib.request.Request(
        f"{address}/{path}",
        None if given is None else json.dumps(given).encode(),
        {"Authorization": f"Bearer {token}", "Content-Type": "application/json"},
    )
    try:
        # Never through a proxy: it runs beside this process.
        with urllib.request.build_opener(urllib.request.ProxyHandler({})).open(request, timeout=timeout) as answer:
            return json.loads(answer.read(most_bytes))
    except urllib.error.HTTPError as error:
        raise Declined(_message(error.read(most_bytes)) or f"it answers {error.code}") from None


def _message(body: bytes) -> str:
    try:
        return str(json.loads(body)["message"])[:200]
    except (ValueError, KeyError, TypeError):
        return ""
