"""What a recording's file may be made of, looked at before any of its data is read, or room for it is made.

HDF5 (the container of netCDF-4) can point at other files, at itself in circles, and at data far larger than the file. A recording needs none
of that: what is not needed is refused. Source: the HDF5 file format specification; which features are refused is common practice.
"""

import io
from collections.abc import Mapping
from mmap import mmap
from pathlib import Path

import h5py
from h5py import h5a, h5d, h5f, h5g, h5l, h5o, h5s, h5t, h5z

from mudlamp.core.errors import RecordingError

LEVELS = "echo_level_db"
AXES = {"beam_angle_rad": 1, "range_m": 2}
POSE_FIELDS = ("x_m", "y_m", "z_m", "heading_rad", "pitch_rad", "roll_rad", "tilt_rad")
PER_PING = ("ping_time_s", *POSE_FIELDS)
NEEDED = (LEVELS, *AXES, *PER_PING)
DIMENSIONS = ("ping", "beam", "range_bin")
LEAST = {"ping": 1, "beam": 8, "range_bin": 32}
MOST = {"ping": 200_000, "beam": 1024, "range_bin": 4096}
MOST_OBJECTS, MOST_ATTRIBUTES, LONGEST_ATTRIBUTE = 64, 64, 65_536
# A piece is unpacked whole: this is the largest ping there may be, in numbers of four bytes.
LARGEST_PIECE = 4 * MOST["beam"] * MOST["range_bin"]
FILTERS = (h5z.FILTER_DEFLATE, h5z.FILTER_SHUFFLE, h5z.FILTER_FLETCHER32)


def check_structure(source: Path | mmap | bytes) -> None:
    """Check the file of a recording, or its bytes; raise RecordingError for the first thing in it that a recording has no need of."""
    try:
        with h5py.File(io.BytesIO(source) if isinstance(source, bytes) else source, "r") as file:
            _check(file.id)
    except (OSError, RuntimeError, ValueError, KeyError, TypeError) as error:
        if isinstance(error, RecordingError):
            raise
        raise RecordingError("cannot be opened: it must be a netCDF-4 recording, whole") from None


def _check(file: h5f.FileID) -> None:
    root = h5g.open(file, b"/")
    _check_attributes(root, "the file")
    names = _names(root)
    shapes: dict[str, tuple[int, ...]] = {}
    for name in names:
        shapes[name] = _checked_shape(root, name)
    for name in NEEDED:
        if name not in shapes:
            raise RecordingError(f"has no variable {name}: it must hold {', '.join(NEEDED)}")
    _check_shapes(shapes)
    for name in NEEDED:
        _check_stored(h5d.open(root, name.encode()), name)


def _names(root: h5g.GroupID) -> list[str]:
    """Return the names of what is in the file; links that lead elsewhere are refused unopened."""
    count = root.get_num_objs()
    if count > MOST_OBJECTS:
        raise RecordingError(f"holds {count} objects: it must be at most {MOST_OBJECTS}")
    found = []
    for raw in root:
        name = raw.decode("utf-8", "replace")
        if root.links.get_info(raw).type != h5l.TYPE_HARD:
            raise RecordingError(f"{name[:40]!r} is a link to somewhere else: it must hold its own data")
        found.append(name)
    return found


def _checked_shape(root: h5g.GroupID, name: str) -> tuple[int, ...]:
    """Return the shape of a variable whose kind and storage are allowed; nothing of its data is read."""
    opened = h5o.open(root, name.encode())
    if not isinstance(opened, h5d.DatasetID):
        raise RecordingError(f"{name[:40]!r} is no variable: a recording holds variables alone, no groups")
    properties = opened.get_create_plist()
    layout = properties.get_layout()
    if layout == h5d.VIRTUAL:
        raise RecordingError(f"{name[:40]!r} is put together from other data: it must hold its own")
    if properties.get_external_count():
        raise RecordingError(f"{name[:40]!r} keeps its data in other files: it must hold its own")
    for at in range(properties.get_nfilters()):
        if properties.get_filter(at)[0] not in FILTERS:
            raise RecordingError(f"{name[:40]!r} is packed by a filter that is not known here: it must be zlib or none")
    space = opened.get_space()
    shape = tuple(int(length) for length in space.shape) if space.get_simple_extent_type() == h5s.SIMPLE else ()
    kind, width = opened.get_type().get_class(), opened.get_type().get_size()
    if name in NEEDED and (kind not in (h5t.INTEGER, h5t.FLOAT) or width > 8):
        raise RecordingError(f"{name} does not hold numbers of at most 8 bytes: it must")
    if layout == h5d.CHUNKED:
        piece = width
        for length in properties.get_chunk():
            piece *= int(length)
        if piece > LARGEST_PIECE:
            raise RecordingError(
                f"{name[:40]!r} is stored in pieces of {piece / 1e6:.0f} MB: it must be at most {LARGEST_PIECE / 1e6:.0f} MB"
            )
    _check_attributes(opened, name)
    return shape


def _check_attributes(owner: h5g.GroupID | h5d.DatasetID, name: str) -> None:
    count = h5a.get_num_attrs(owner)
    if count > MOST_ATTRIBUTES:
        raise RecordingError(f"{name[:40]} has {count} attributes: it must be at most {MOST_ATTRIBUTES}")
    for at in range(count):
        size = h5a.open(owner, index=at).get_storage_size()
        if size > LONGEST_ATTRIBUTE:
            raise RecordingError(f"an attribute of {name[:40]} is {size} bytes long: it must be at most {LONGEST_ATTRIBUTE}")


def _check_shapes(shapes: Mapping[str, tuple[int, ...]]) -> None:
    """Compare the shapes with what the format allows, and with each other."""
    levels = shapes[LEVELS]
    if len(levels) != len(DIMENSIONS):
        raise RecordingError(f"{LEVELS} has {len(levels)} dimensions: it must be ({', '.join(DIMENSIONS)})")
    sizes = dict(zip(DIMENSIONS, levels, strict=True))
    for name, size in sizes.items():
        if not LEAST[name] <= size <= MOST[name]:
            raise RecordingError(f"dimension {name} is {size}: it must be {LEAST[name]} to {MOST[name]}")
    wanted = {name: (levels[at],) for name, at in AXES.items()} | dict.fromkeys(PER_PING, (levels[0],))
    # What stands for a dimension is as long as it; netCDF leaves one that may grow empty.
    wanted |= {name: (size,) for name, size in sizes.items() if shapes.get(name, (0,)) != (0,)}
    for name, shape in wanted.items():
        if shapes[name] != shape:
            raise RecordingError(f"{name} has the shape {shapes[name]}: it must be {shape}, as {LEVELS} has")


def _check_stored(variable: h5d.DatasetID, name: str) -> None:
    """Check that all of a variable is in the file: what was never written would be made up."""
    properties = variable.get_create_plist()
    if properties.get_layout() == h5d.CHUNKED:
        wanted = 1
        for length, piece in zip(variable.shape, properties.get_chunk(), strict=True):
            wanted *= -(-int(length) // int(piece))
        stored = variable.get_num_chunks()
        if stored < wanted:
            raise RecordingError(f"{name} holds {stored} of its {wanted} pieces: the file is cut off")
    elif properties.get_layout() == h5d.CONTIGUOUS and variable.get_storage_size() == 0:
        raise RecordingError(f"{name} holds nothing: the file is cut off")
