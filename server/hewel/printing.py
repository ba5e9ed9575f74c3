"""Pages for paper: a template set by the layout library in the product's own type, with nothing from outside.

The library is loaded with the first page: nothing else needs it, and every process would wait a second for it.
"""

from functools import cache
from pathlib import Path

from django.conf import settings
from django.template.loader import render_to_string


@cache
def _fonts() -> dict[str, str]:
    """The files of the page's own type, from the front end's build."""
    assets = settings.WEB_DIST / "served" / "assets"
    find = lambda pattern: next(iter(sorted(assets.glob(pattern))), Path("missing")).absolute().as_uri()
    return {
        "text": find("archivo-latin-wdth-normal-*.woff2"),
        "figures": find("spline-sans-mono-latin-400-normal-*.woff2"),
    }


def pdf(template: str, content: dict) -> bytes:
    """The template as PDF; it finds the addresses of the fonts under ``fonts``."""
    from weasyprint import HTML
    from weasyprint.text.fonts import FontConfiguration

    page = render_to_string(template, content | {"fonts": _fonts()})
    return HTML(string=page, url_fetcher=_fetcher()).write_pdf(font_config=FontConfiguration())


def _fetcher():
    """Only the product's own fonts are read: nothing that a name or a reason says can reach a file or the network."""
    from weasyprint.urls import URLFetcher

    class NothingElse(URLFetcher):
        def fetch(self, url, headers=None):
            if url not in _fonts().values():
                raise ValueError("a printed page reads nothing but its fonts")
            return super().fetch(url, headers)

    return NothingElse()
