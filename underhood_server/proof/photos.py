"""Photographs as they are kept: small, upright, and without what a camera writes beside the picture.

Left out: formats that few phones send (see `FORMATS`).
"""

from __future__ import annotations

import io
import warnings
from typing import NamedTuple

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from underhood.errors import BadInput

LARGEST_BYTES = 12_000_000
MOST_PIXELS = 30_000_000
LONGEST_SIDE = 1600
QUALITY = 82
FORMATS = ("JPEG", "PNG")


class Photo(NamedTuple):
    """A JPEG and its size."""

    jpeg: bytes
    width: int
    height: int


def kept(content: bytes) -> Photo:
    """A photograph encoded anew: no place, no date, no maker's notes. Raises BadInput saying what is allowed."""
    if len(content) > LARGEST_BYTES:
        raise BadInput(f"{len(content) / 1e6:.0f} MB; a photograph may hold {LARGEST_BYTES / 1e6:.0f} MB", "file")
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # whatever sets a PDF in this process turns it on for everybody
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(io.BytesIO(content), formats=FORMATS)
            pixels = image.width * image.height
            if pixels > MOST_PIXELS:
                raise BadInput(f"{pixels / 1e6:.0f} megapixels; a photograph may have {MOST_PIXELS / 1e6:.0f}", "file")
            image.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            image.load()
            image = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombWarning) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput("not a photograph that can be read; give a JPEG or PNG file", "file") from None
    image.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY, optimize=True)
    return Photo(out.getvalue(), image.width, image.height)


def brought(content: bytes) -> Photo:
    """A photograph that was kept once already and comes back with an archive: as it is, if it is what `kept` makes."""
    new = kept(content)
    with Image.open(io.BytesIO(content)) as image:
        same = image.format == "JPEG" and image.size == (new.width, new.height) and not image.getexif()
    return Photo(content, new.width, new.height) if same else new
