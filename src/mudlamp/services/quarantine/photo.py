"""A stranger's photo made anew: what the process that looks at it does, and what it answers."""

import base64
import contextlib
import io
from collections.abc import Mapping

from PIL import Image, ImageOps, UnidentifiedImageError

from mudlamp.core.errors import DomainError

FORMATS = ("JPEG", "PNG", "WEBP")
MOST_PIXELS = 60_000_000
# What the largest takes while it is turned and made smaller [bytes].
HONEST_BYTES = 12 * MOST_PIXELS
LONGEST_SIDE, QUALITY = 2048, 85
# Where a camera writes when it took a photo, and how far from UTC its clock was (Exif 2.32).
EXIF_IFD, TAKEN, OFFSET = 0x8769, 0x9003, 0x9011


def made_anew(data: bytes, shown: str) -> Mapping[str, float | str]:
    """Return a photo as a JPEG of its pixels alone (base64), upright, no larger than LONGEST_SIDE; its size, what its camera says of when,

    and whether the file held nothing but the picture. Raises DomainError naming it `shown` for one that is none, or too large.
    """
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise DomainError(f"{shown} has {opened.width} by {opened.height} pixels: it may have {MOST_PIXELS} at most")
            taken, offset = _taken(opened)
            is_bare = not opened.getexif()
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except DomainError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError, EOFError, KeyError, TypeError):
        raise DomainError(f"{shown} is no photo that can be read: it must be a JPEG, PNG or WebP file") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    # A picture of pixels alone: what else the file said is not copied.
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY)
    return {
        "jpeg": base64.b64encode(out.getvalue()).decode(),
        "width": bare.width,
        "height": bare.height,
        "taken": taken,
        "offset": offset,
        "bare": float(is_bare),
    }


def _taken(opened: Image.Image) -> tuple[str, str]:
    """Return when a camera says it took a photo, and its clock's offset; empty where it does not say."""
    with contextlib.suppress(ValueError, TypeError, OSError, KeyError, OverflowError, SyntaxError):
        found = opened.getexif().get_ifd(EXIF_IFD)
        return str(found.get(TAKEN, ""))[:19], str(found.get(OFFSET, "")).strip("\x00 ")[:6]
    return "", ""


def _load() -> None:
    """Make one small photo of each format anew: what the library loads when it is first needed could not be loaded once the door is shut."""
    Image.init()
    turned = Image.Exif()
    turned[0x0112] = 6
    for kind in ("JPEG", "PNG", "WEBP"):
        out = io.BytesIO()
        Image.new("RGB", (8, 4)).save(out, kind, exif=turned)
        made_anew(out.getvalue(), "a small one")


_load()
