"""A picture of a ping in its true shape, as an image."""

import io
from dataclasses import dataclass
from pathlib import Path

from mudlamp.core.arrays import ByteArray
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver.drawn import Frame, drawn
from mudlamp.core.setup import Setup

PICTURE_WIDTH = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is shown: the ping, its picture (beam, range_bin), and the set-up that made it."""

    ping: Ping
    picture: ByteArray
    setup: Setup


def true_shape(shown: Shown) -> ByteArray:
    """Return a picture mapped to its true shape as colors (down, across, 3): across is ahead, down is deep (or, lying flat, to the right)."""
    ping, window = shown.ping, shown.setup.window
    is_flat = FanPlane.drawn(ping).is_flat
    across, other = window.reach_m + window.look_back_m, 2.0 * window.reach_m if is_flat else window.down_to_m
    frame = Frame(
        left_m=-window.look_back_m,
        right_m=window.reach_m,
        top_m=-window.reach_m if is_flat else 0.0,
        bottom_m=window.reach_m if is_flat else window.down_to_m,
        width_px=PICTURE_WIDTH,
        height_px=max(1, round(PICTURE_WIDTH * other / across)),
    )
    return drawn(ping, shown.picture, shown.setup.receiver.ink, window, frame)[:, :, :3]


def picture_bytes(shown: Shown) -> bytes:
    """Return what is shown as the bytes of a PNG, in its true shape."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(true_shape(shown)).save(out, format="PNG")
    return out.getvalue()


def write_picture(path: Path, shown: Shown) -> None:
    """Write a picture in its true shape as a PNG; raise DomainError where the file cannot be written."""
    if not path.absolute().parent.is_dir():
        raise DomainError(f"png {path} cannot be written: its folder must exist")
    content = picture_bytes(shown)
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(content)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise DomainError(f"png {path} cannot be written ({error.strerror}): it must be in a writable folder") from None
