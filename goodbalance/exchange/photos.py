"""Pictures from a phone: made small, and rid of where and with what they were taken."""

import base64
import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

from goodbalance.core.errors import BrokenFile

LONGEST_EDGE = 1280  # pixels
LARGEST_BYTES = 300_000
MOST_PIXELS = 60_000_000
QUALITIES = (75, 60, 45, 30)
KINDS = ("JPEG", "PNG", "WEBP")


def small_jpeg(data: bytes) -> str:
    """A picture as base64 of a JPEG of at most 1280 pixels an edge, upright, with nothing in it but the picture.

    Raises BrokenFile saying what is accepted.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=KINDS) as picture:
                if picture.width * picture.height > MOST_PIXELS:
                    raise BrokenFile(f"the picture has {picture.width} x {picture.height} pixels; accepted: up to {MOST_PIXELS // 1_000_000} million")
                picture.draft("RGB", (LONGEST_EDGE, LONGEST_EDGE))  # a JPEG is read no larger than it is needed
                upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError, Image.DecompressionBombWarning) as wrong:
        raise BrokenFile("this is no picture that can be read; accepted: JPEG, PNG or WEBP") from wrong
    upright.thumbnail((LONGEST_EDGE, LONGEST_EDGE))
    upright.info = {}
    for quality in QUALITIES:
        out = io.BytesIO()
        upright.save(out, "JPEG", quality=quality, optimize=True)
        if out.tell() <= LARGEST_BYTES:
            break
    return base64.b64encode(out.getvalue()).decode()
