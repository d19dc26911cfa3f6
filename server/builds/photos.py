"""Photos of things: checked, turned upright, made smaller, and rid of what the camera wrote."""

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from circuitry.errors import UnusableInput

MOST_BYTES = 10_000_000
MOST_PIXELS = 60_000_000
LONGEST_SIDE = 2000
THUMBNAIL_SIDE = 240
FORMATS = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True)
class Picture:
    """A picture and its thumbnail as JPEG without metadata."""

    image: bytes
    thumbnail: bytes
    width: int
    height: int


def picture(data: bytes, name: str) -> Picture:
    """The picture in an uploaded file; raises UnusableInput that says what is wrong with it."""
    if len(data) > MOST_BYTES:
        raise _refused(
            name, f"is larger than {MOST_BYTES / 1e6:g} MB. Make it smaller, or take it again."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(data), formats=FORMATS)
            if opened.width * opened.height > MOST_PIXELS:
                raise _refused(name, f"has {opened.width} × {opened.height} pixels: too many.")
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise _refused(name, "has far too many pixels.") from None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError):
        raise _refused(name, "is not a picture that can be read. Use JPEG, PNG or WebP.") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    small = upright.copy()
    small.thumbnail((THUMBNAIL_SIDE, THUMBNAIL_SIDE))
    return Picture(_jpeg(upright), _jpeg(small), upright.width, upright.height)


def _jpeg(image: Image.Image) -> bytes:
    """The pixels and nothing else: a fresh image carries no metadata over."""
    bare = Image.new("RGB", image.size)
    bare.paste(image)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=85)
    return out.getvalue()


def _refused(name: str, what: str) -> UnusableInput:
    return UnusableInput("bad-picture", name, f"{name} {what}")
