"""Photos of things: checked, turned upright, made smaller, and rid of what the camera wrote.

Pixels are counted before any is unpacked. A JPEG is unpacked at the size that it is kept in, an
eighth, a quarter or a half, so that a large one costs no more than a small one.
"""

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps

from circuitry.errors import UnusableInput

MOST_BYTES = 20_000_000
MOST_PIXELS = 120_000_000
MOST_PIXELS_PROGRESSIVE = 40_000_000
"""A progressive JPEG is held whole, three bytes a pixel, whatever size it is unpacked at."""
MOST_PIXELS_UNPACKED = 16_000_000
LONGEST_SIDE = 2000
THUMBNAIL_SIDE = 240
FORMATS = ("JPEG", "PNG", "WEBP")
PROOF_PHOTOS = "proofs"
"""What photos of steps are kept under, where others have the collection of their thing."""


@dataclass(frozen=True)
class Picture:
    """A picture and its thumbnail as JPEG without metadata."""

    image: bytes
    thumbnail: bytes
    width: int
    height: int


def picture(data: bytes, name: str) -> Picture:
    """The picture in an uploaded file; raises UnusableInput that says what is wrong with it."""
    upright = _upright(data, name)
    return _picture(upright, _jpeg(upright))


def kept_picture(data: bytes, name: str) -> Picture:
    """A picture that this program wrote before, as it is; any other is treated as uploaded."""
    opened = _opened(data, name)
    bare = opened.format == "JPEG" and not {"exif", "comment", "xmp"} & opened.info.keys()
    if not bare or max(opened.size) > LONGEST_SIDE:
        return picture(data, name)
    return _picture(_upright(data, name), data)


def _picture(upright: Image.Image, image: bytes) -> Picture:
    small = upright.copy()
    small.thumbnail((THUMBNAIL_SIDE, THUMBNAIL_SIDE))
    return Picture(image, _jpeg(small), upright.width, upright.height)


def _upright(data: bytes, name: str) -> Image.Image:
    """The pixels of a file, made smaller and turned as its camera was held."""
    opened = _opened(data, name)
    share = LONGEST_SIDE / max(opened.size)
    try:
        opened.draft("RGB", (int(opened.width * share) or 1, int(opened.height * share) or 1))
        if opened.width * opened.height > MOST_PIXELS_UNPACKED:
            raise _refused(
                name,
                f"has {opened.width} × {opened.height} pixels. Make it smaller, or a JPEG.",
            )
        turned = opened.getexif()
        small = opened if opened.mode == "RGB" else opened.convert("RGB")
        small.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
        small.getexif().update(turned)
        return ImageOps.exif_transpose(small)
    except UnusableInput:
        raise
    except Exception:  # whatever the library trips over in a broken file is a broken file
        raise _unreadable(name) from None


def _opened(data: bytes, name: str) -> Image.Image:
    """The file with its size known and no pixel unpacked yet."""
    if len(data) > MOST_BYTES:
        raise _refused(
            name, f"is larger than {MOST_BYTES / 1e6:g} MB. Make it smaller, or take it again."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(data), formats=FORMATS)
    except Image.DecompressionBombError:
        raise _refused(name, "has far too many pixels.") from None
    except Exception:
        raise _unreadable(name) from None
    most = MOST_PIXELS_PROGRESSIVE if opened.info.get("progressive") else MOST_PIXELS
    if opened.width * opened.height > most:
        raise _refused(
            name, f"has {opened.width} × {opened.height} pixels: too many. Make it smaller."
        )
    if getattr(opened, "n_frames", 1) > 1:
        raise _refused(name, "holds several pictures. Save one of them.")
    return opened


def _jpeg(image: Image.Image) -> bytes:
    """The pixels and nothing else: a fresh image carries no metadata over."""
    bare = Image.new("RGB", image.size)
    bare.paste(image)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=85)
    return out.getvalue()


def _unreadable(name: str) -> UnusableInput:
    return _refused(name, "is not a picture that can be read. Use JPEG, PNG or WebP.")


def _refused(name: str, what: str) -> UnusableInput:
    return UnusableInput("bad-picture", name, f"{name} {what}")
