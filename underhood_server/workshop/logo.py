"""A shop's logo as it is kept: a small PNG, encoded anew, so that nothing comes along that is no picture.

Left out: drawings (SVG), which may hold scripts and reach for other addresses.
"""

from __future__ import annotations

import io
import warnings

from PIL import Image, ImageFile, UnidentifiedImageError

from underhood.errors import BadInput

LARGEST_BYTES = 2_000_000
MOST_PIXELS = 16_000_000
LARGEST = (600, 240)


def kept(content: bytes) -> tuple[bytes, int, int]:
    """(PNG, width, height) of a PNG or JPEG. Raises BadInput saying what is allowed."""
    if len(content) > LARGEST_BYTES:
        raise BadInput(f"larger than {LARGEST_BYTES // 1_000_000} MB; a logo is far smaller", "file")
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # whatever sets a PDF in this process turns it on for everybody
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(io.BytesIO(content), formats=("PNG", "JPEG"))
            if image.width * image.height > MOST_PIXELS:
                raise BadInput(f"more than {MOST_PIXELS // 1_000_000} megapixels; a logo is far smaller", "file")
            image = image.convert("RGBA")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombWarning) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput("not a picture that can be read; give a PNG or JPEG file", "file") from None
    image.thumbnail(LARGEST)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue(), image.width, image.height
