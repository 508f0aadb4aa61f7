"""Photos, as they are kept: decoded, turned the right way up, made smaller, and written anew with nothing beside the
picture, so that no position, name or date goes along."""

from __future__ import annotations

import io
import struct
import warnings
from typing import TYPE_CHECKING

from low_tide.formats.sentences import FormatError

if TYPE_CHECKING:
    from PIL.Image import Image as Picture

KINDS = ("JPEG", "PNG", "WEBP")
MOST_PIXELS = 80_000_000
"""Decoded it takes three bytes a pixel: this is what a machine can spare for a moment."""
LONGEST_SIDE = 2000
QUALITY = 85
TOO_LARGE = f"Photo: at most {MOST_PIXELS / 1e6:.0f} megapixels are taken."
NO_PICTURE = (OSError, SyntaxError, ValueError, EOFError, struct.error, MemoryError)
"""What decoding answers where a file is no picture, or damaged."""
NONE = "Photo: this is no picture that can be read; JPEG, PNG or WebP is wanted."


def photo(data: bytes) -> bytes:
    """A picture as JPEG with its longest side at most 2,000 pixels, and nothing else in the file.

    FormatError where it is none, where it ends early, or where it has over 80 megapixels.
    """
    from PIL import Image, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            # The bound of our own is the one that counts, and is told in a sentence.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=KINDS) as found:
                return _small(found)
    except FormatError:
        raise
    except UnidentifiedImageError:
        raise FormatError([NONE]) from None
    except Image.DecompressionBombError:
        raise FormatError([TOO_LARGE]) from None
    except NO_PICTURE:
        raise FormatError(["Photo: the file is damaged or ends early."]) from None


def is_as_kept(data: bytes) -> bool:
    """Whether a picture is as `photo` writes them: JPEG, small, whole, and with nothing beside it."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=KINDS[:1]) as found:
            if max(found.size) > LONGEST_SIDE:  # and so nothing large is decoded to be thrown away
                return False
            plain = found.mode == "RGB" and not found.getexif()
            # What a JPEG of ours says of itself: how it is packed, and nothing else.
            bare = set(found.info) <= {"jfif", "jfif_version", "jfif_unit", "jfif_density", "progressive"}
            found.load()
            return plain and bare
    except (*NO_PICTURE, Image.DecompressionBombError):
        return False


def _small(found: Picture) -> bytes:
    from PIL import Image, ImageOps

    if found.width * found.height > MOST_PIXELS:
        raise FormatError([TOO_LARGE])
    # JPEG can be read at a part of its size at once; of others this does nothing.
    found.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
    upright = ImageOps.exif_transpose(found)
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    if upright.mode in ("RGBA", "LA", "PA") or "transparency" in upright.info:
        layered = upright.convert("RGBA")
        plain = Image.new("RGB", layered.size, "white")
        plain.paste(layered, mask=layered.getchannel("A"))
    else:
        plain = upright.convert("RGB")
    # A picture of its own, from the pixels alone: what else the file said stays behind.
    bare = Image.frombytes("RGB", plain.size, plain.tobytes())
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()
