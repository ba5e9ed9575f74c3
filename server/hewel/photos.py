"""Photos as they are kept: looked at, drawn anew, so that nothing but the picture is left of what was sent."""

import io

from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps, UnidentifiedImageError

from hewel.refusal import Refused

MOST_BYTES = 12 * 1024 * 1024
MOST_PIXELS = 50_000_000
LONGEST = 1600
"""Pixels of the longer side that is kept."""
KINDS = ("JPEG", "PNG")
QUALITY = 85


def picture(file: UploadedFile) -> bytes:
    """A JPEG of no more than LONGEST pixels, the right way up, without places, names or anything else that a camera
    writes. Raises Refused for what is no photo, or too large to be looked at.
    """
    if file.size > MOST_BYTES:
        raise Refused("too_large", "The photo is larger than 12 MiB.", "Take it smaller.", 413)
    bad = Refused("unknown_format", "This is no photo that can be shown.", "Give a JPEG or a PNG.", 422)
    try:
        with Image.open(io.BytesIO(file.read()), formats=KINDS) as photo:
            if photo.width * photo.height > MOST_PIXELS:
                raise Refused("too_large", "The photo has more than 50 million pixels.", "Take it smaller.", 413)
            upright = ImageOps.exif_transpose(photo).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise bad from None
    upright.thumbnail((LONGEST, LONGEST))
    fresh = Image.new("RGB", upright.size)
    fresh.paste(upright)
    out = io.BytesIO()
    fresh.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def kind_of(data: bytes) -> str:
    """What a photo that is kept is told as."""
    return "image/png" if data.startswith(b"\x89PNG\r\n\x1a\n") else "image/jpeg"
