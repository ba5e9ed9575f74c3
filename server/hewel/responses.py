"""What an operation of the API answers when it answers no JSON."""

from django.http import HttpResponse

BYTES = {
    "responses": {
        200: {
            "description": "The file's bytes",
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    }
}


def for_good(data: bytes, kind: str = "application/octet-stream") -> HttpResponse:
    """Bytes that the address names by their digest, so that a browser may keep them."""
    answer = HttpResponse(data, content_type=kind)
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


def download(data: bytes | str, kind: str, name: str) -> HttpResponse:
    """A file that the browser puts aside."""
    answer = HttpResponse(data, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
