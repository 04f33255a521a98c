"""Looks at a stranger's file in a process of its own, which answers in plain JSON: how it is made up, or what is wrong with it."""

import base64
import mmap
import multiprocessing
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path

import orjson

from mudlamp.core.errors import DomainError, MudLampError, RecordingError, SceneError
from mudlamp.core.scene.model import Scene
from mudlamp.formats.recording import RecordingReader
from mudlamp.formats.scene.file import NAMED, load_scene, parse_scene, parse_scene_file
from mudlamp.formats.structure import LARGEST_PIECE
from mudlamp.formats.truth import read_truth_lines
from mudlamp.services.jobs import Turnstile
from mudlamp.services.processes import quickest_context
from mudlamp.services.quarantine import photo
from mudlamp.services.quarantine.confine import limit, shut_in

# Beyond what a file honestly needs, and how long looking may take [s of processor time, s]; a second more for so many bytes.
SPARE_BYTES, CPU_S, PATIENCE_S = 64_000_000, 20, 40.0
BYTES_A_SECOND = 2_000_000
# What a kind of file honestly takes: so many times its size (texts become objects), and a recording its largest ping, packed and unpacked.
HONEST_TIMES = {"recording": 1, "scene file": 40, "truth file": 40, "photo": 2}
# And what it takes whatever its size: of a photo the pixels tell, not the file.
HONEST_BYTES_MORE = {"photo": photo.HONEST_BYTES}
# What an answer may have [bytes]: a photo comes back in it.
LONGEST_ANSWER = {"photo": 12_000_000}
USUAL_ANSWER = 10_000

_DOOR = Turnstile("files to be looked at", at_once=2, waiting=6)

Facts = Mapping[str, float | str]
Content = mmap.mmap | bytes


def _recording(data: Content, shown: str) -> Facts:
    reader = RecordingReader(Path(shown), data=data)
    try:
        # The first and the last ping, so that a file that was cut off is found out now.
        reader.ping(0)
        reader.ping(len(reader) - 1)
        return {"pings": len(reader), "seconds": reader.seconds, "fan": reader.setup.fan.value}
    finally:
        reader.close()


def _scene(data: Content, shown: str) -> Facts:
    if shown:
        parse_scene_file(data[:], shown)
    else:
        parse_scene(data[:].decode())
    return {}


def _truth(data: Content, shown: str) -> Facts:
    rows, events = read_truth_lines(data[:].splitlines(), shown)
    return {"rows": len(rows), "events": len(events)}


def _photo(data: Content, shown: str) -> Facts:
    return photo.made_anew(data[:], shown)


_LOOKS: Mapping[str, Callable[[Content, str], Facts]] = {
    "recording": _recording,
    "scene file": _scene,
    "truth file": _truth,
    "photo": _photo,
}


def _look(connection: Connection, kind: str, source: Path | bytes, shown: str, spare_bytes: int) -> None:
    """The process: open the one file, be shut in, look, answer."""
    answer: Facts
    try:
        data = source if isinstance(source, bytes) else _mapped(source)
        limit(
            memory_bytes=HONEST_TIMES[kind] * len(data) + HONEST_BYTES_MORE.get(kind, 0) + 2 * LARGEST_PIECE + spare_bytes,
            cpu_s=CPU_S + len(data) // BYTES_A_SECOND,
        )
        shut_in()
        answer = _LOOKS[kind](data, shown)
    except MudLampError as error:
        answer = {"error": str(error)}
    except MemoryError:
        answer = {"error": f"{kind} {shown} takes far more memory than its size: it is damaged, or made to do harm"}
    except Exception as error:
        answer = {"error": f"{kind} {shown} cannot be read ({type(error).__name__}): it is damaged"}
    connection.send_bytes(orjson.dumps(answer))


def _mapped(path: Path) -> mmap.mmap:
    with path.open("rb") as file:
        return mmap.mmap(file.fileno(), 0, prot=mmap.PROT_READ)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingFacts:
    """What a recording holds."""

    pings: int
    seconds: float
    fan: str


def inspect_recording(path: Path, *, shown: str = "") -> RecordingFacts:
    """Return what a recording holds; raise RecordingError naming it `shown` (else its path) for one that is broken, foreign, or does more than it should."""
    found = _inspected("recording", path, shown=shown or str(path))
    return RecordingFacts(pings=int(found["pings"]), seconds=float(found["seconds"]), fan=str(found["fan"]))


def inspect_truth(path: Path) -> None:
    """Raise RecordingError for a truth file that is none, or does more than it should."""
    _inspected("truth file", path, shown=str(path))


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoFacts:
    """A photo made anew as a JPEG: its bytes, how large it is, what its camera said of when, whether its file held nothing but the picture."""

    data: bytes
    width: int
    height: int
    taken: str
    offset: str
    is_bare: bool


def inspect_photo(source: Path | bytes, *, shown: str) -> PhotoFacts:
    """Return a photo made anew; raise DomainError naming it `shown` for one that is none, or does more than it should."""
    try:
        found = _inspected("photo", source, shown=shown)
    except RecordingError as error:
        raise DomainError(str(error)) from None
    return PhotoFacts(
        data=base64.b64decode(str(found["jpeg"])),
        width=int(found["width"]),
        height=int(found["height"]),
        taken=str(found["taken"]),
        offset=str(found["offset"]),
        is_bare=bool(found["bare"]),
    )


def inspect_scene(source: Path | bytes) -> None:
    """Raise SceneError for a scene file that is none, or does more than it should."""
    try:
        _inspected("scene file", source, shown="" if isinstance(source, bytes) else str(source))
    except RecordingError as error:
        raise SceneError(str(error)) from None


def strange_scene(name_or_path: str) -> Scene:
    """Return a stock scene by its name, or the scene of a file, looked at first; raise SceneError naming what is wrong."""
    if name_or_path not in NAMED and Path(name_or_path).suffix == ".json":
        inspect_scene(Path(name_or_path))
    return load_scene(name_or_path)


def _inspected(kind: str, source: Path | bytes, *, shown: str) -> Facts:
    if isinstance(source, Path) and not (source.is_file() and source.stat().st_size):
        raise RecordingError(f"{kind} {shown} cannot be opened: it must be a file with something in it")
    with _DOOR.through():
        answer = _answer(kind, source, shown)
    if "error" in answer:
        raise RecordingError(str(answer["error"]))
    return answer


def _answer(kind: str, source: Path | bytes, shown: str) -> Facts:
    ours, theirs = multiprocessing.Pipe(duplex=False)
    size = len(source) if isinstance(source, bytes) else source.stat().st_size
    process = quickest_context().Process(target=_look, args=(theirs, kind, source, shown, SPARE_BYTES), name="look", daemon=True)
    process.start()
    theirs.close()
    try:
        answer: Facts = (
            orjson.loads(ours.recv_bytes(LONGEST_ANSWER.get(kind, USUAL_ANSWER)))
            if ours.poll(PATIENCE_S + size / BYTES_A_SECOND)
            else {"error": f"{kind} {shown} takes far too long to read"}
        )
    except (EOFError, OSError):
        answer = {"error": f"{kind} {shown} cannot be read: it is damaged"}
    finally:
        ours.close()
        process.kill()
        process.join()
    return answer
