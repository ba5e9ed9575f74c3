"""Pages for paper: a template set by the layout library in the product's own type, with nothing from outside.

The library is loaded with the first page: nothing else needs it, and every process would wait a second for it.
"""

import hashlib
import os
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from threading import Lock

from django.conf import settings
from django.template.loader import render_to_string
from django.utils import timezone

from hewel.single_flight import SingleFlightCache


@cache
def _fonts() -> dict[str, str]:
    """The files of the page's own type, from the front end's build."""
    assets = settings.WEB_DIST / "served" / "assets"
    find = lambda pattern: next(iter(sorted(assets.glob(pattern))), Path("missing")).absolute().as_uri()
    return {
        "text": find("archivo-latin-wdth-normal-*.woff2"),
        "figures": find("spline-sans-mono-latin-400-normal-*.woff2"),
    }


SET = SingleFlightCache[bytes](8)
"""The last pages, by what stands on them: the same page is set once."""
os.environ["SOURCE_DATE_EPOCH"] = "0"
"""Subsets of fonts carry the second they were made in, unless they are told one: the same page is the same bytes."""
ONE_AT_A_TIME = Lock()
"""A page takes seconds of processor and a hundred megabytes while it is set."""


def pdf(template: str, content: dict, when: datetime | None = None) -> bytes:
    """The template as PDF; it finds the addresses of the fonts under ``fonts``, and under ``when`` when it was set:
    now, or at a moment that is given, so that it is the same page whenever it is set; its days are those of UTC.
    """
    page = lambda at: render_to_string(template, content | {"fonts": _fonts(), "when": at})
    made = lambda: _set(page(when or timezone.now()))
    with timezone.override(UTC):
        return SET.get(hashlib.sha256(page(when).encode()).hexdigest(), made)


def _set(page: str) -> bytes:
    from weasyprint import HTML
    from weasyprint.text.fonts import FontConfiguration

    with ONE_AT_A_TIME:
        return HTML(string=page, url_fetcher=_fetcher()).write_pdf(font_config=FontConfiguration())


PICTURE = "data:image/png;base64,"
"""How an address begins that holds a picture itself."""


def _fetcher():
    """Only the product's own fonts are read, and pictures that the page itself holds: nothing that a name or a reason
    says can reach a file or the network.
    """
    from weasyprint.urls import URLFetcher

    class NothingElse(URLFetcher):
        def fetch(self, url, headers=None):
            if url not in _fonts().values() and not url.startswith(PICTURE):
                raise ValueError("a printed page reads nothing but its fonts")
            return super().fetch(url, headers)

    return NothingElse()
