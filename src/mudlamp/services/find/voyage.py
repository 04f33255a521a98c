"""A search as the web process sees it: its own process on the other end of a line, its columns on disk; and all searches of the house."""

import itertools
import shutil
import threading
import time
import uuid
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from pathlib import Path

import structlog

from mudlamp.core.errors import DomainError, MissingError, UnavailableError
from mudlamp.core.scene.model import Scene
from mudlamp.core.searching.search import ViewSetting
from mudlamp.services.find import line
from mudlamp.services.find.columns import ColumnReader
from mudlamp.services.find.process import serve
from mudlamp.services.find.waters import reach_named
from mudlamp.services.jobs import Turnstile
from mudlamp.services.outbox import Outbox
from mudlamp.services.processes import CONTEXT

START_S, ANSWER_S, STOP_S = 60.0, 20.0, 4.0
AT_ONCE = 3
# Nobody has looked for so long: it stands still, then it ends [s].
REST_S, END_S = 20.0, 900.0
HAS_ENDED = "the search has ended: push off again"
Said = Scene | line.Scan | tuple[line.Thing, ...]


class VoyageHandle:
    """Starts a search's process, knows how it stands, passes on what is asked of it."""

    def __init__(self, order: line.SearchOrder, *, device: uuid.UUID) -> None:
        self.key = order.key
        self.device = device
        self.water = order.water
        self.folder = order.folder
        self.columns = ColumnReader(order.folder)
        self.ended = False
        self.looked_at = time.monotonic()
        self._log = structlog.get_logger().bind(search=str(order.key))
        self._numbers = itertools.count(1)
        self._asked: dict[int, Future[Said]] = {}
        self._lock = threading.Lock()
        self._connection, far = CONTEXT.Pipe()
        self._process = CONTEXT.Process(target=serve, args=(far, order), name=f"search-{order.key}", daemon=True)
        self._process.start()
        far.close()
        self.state = self._first()
        # Sent by a thread of its own: nobody waits for the other end while holding a lock.
        self._outbox: Outbox[line.ToSearch] = Outbox(self._connection, slot_of=lambda _message: None, name=f"to-{order.key}")
        self._thread = threading.Thread(target=self._listen, name=f"search-{order.key}", daemon=True)
        self._thread.start()

    def _first(self) -> line.SearchState:
        try:
            message = self._connection.recv() if self._connection.poll(START_S) else None
        except (EOFError, OSError):
            message = None
        if isinstance(message, line.SearchState):
            return message
        self._process.kill()
        if isinstance(message, line.Broken):
            raise DomainError(message.error)
        raise UnavailableError("the search did not start: try again")

    def _listen(self) -> None:
        try:
            while True:
                message = self._connection.recv()
                if isinstance(message, line.SearchState):
                    self.state = message
                    if message.pace > 0.0 and time.monotonic() - self.looked_at > REST_S:
                        self._outbox.put(line.SetPace(0.0))
                elif isinstance(message, line.Answer):
                    with self._lock:
                        asked = self._asked.pop(message.number, None)
                    if asked is not None:
                        asked.set_result(message.answer)
        except (EOFError, OSError):
            pass
        with self._lock:
            self.ended = True
            waiting, self._asked = list(self._asked.values()), {}
        for one in waiting:
            one.set_exception(UnavailableError(HAS_ENDED))

    def tell(self, message: line.ToSearch) -> None:
        """Send an order; raise UnavailableError where the search has ended, or where too many orders wait."""
        if self.ended:
            raise UnavailableError(HAS_ENDED)
        if not self._outbox.put(message):
            raise UnavailableError("the search has too much to do just now: try again in a moment")

    def _ask(self, question: Callable[[int], line.ToSearch]) -> Said:
        number, answer = next(self._numbers), Future[Said]()
        with self._lock:
            if self.ended:
                raise UnavailableError(HAS_ENDED)
            self._asked[number] = answer
        self.tell(question(number))
        try:
            return answer.result(ANSWER_S)
        except TimeoutError:
            raise UnavailableError("the search did not answer: try again") from None

    def window(self, x_m: float, y_m: float, heading_rad: float) -> Scene:
        """Return the water about a place [m] as a scene, as it is now."""
        found = self._ask(lambda number: line.AskWindow(number, x_m, y_m, heading_rad))
        if not isinstance(found, Scene):
            raise UnavailableError(HAS_ENDED)
        return found

    def truth(self, x_m: float, y_m: float, within_m: float) -> tuple[line.Thing, ...]:
        """Return what is really within a distance [m] of a place [m] now."""
        found = self._ask(lambda number: line.AskTruth(number, x_m, y_m, within_m))
        return found if isinstance(found, tuple) else ()

    def scan(self, reach_m: float) -> line.Scan:
        """Return one turn of the all-round scan from where the boat is, to a Reach [m]."""
        found = self._ask(lambda number: line.AskScan(number, reach_m))
        if not isinstance(found, line.Scan):
            raise UnavailableError(HAS_ENDED)
        return found

    def stop(self) -> None:
        """End the search, and remove its columns."""
        if not self.ended:
            try:
                self.tell(line.Stop())
            except UnavailableError:
                self._log.info("the search had ended")
        self._process.join(STOP_S)
        if self._process.is_alive():
            self._process.kill()
        self._outbox.close(STOP_S)
        shutil.rmtree(self.folder, ignore_errors=True)


class Voyages:
    """All searches of this house: one a browser, so many at once."""

    def __init__(self, run_dir: Path) -> None:
        self._run_dir = run_dir
        self._folder = run_dir / "find"
        self._all: dict[uuid.UUID, VoyageHandle] = {}
        self._lock = threading.Lock()
        self._door = Turnstile("searches", at_once=1, waiting=4)
        # The folder itself stays: only whoever started us may make it anew.
        for left in self._folder.iterdir() if self._folder.is_dir() else ():
            shutil.rmtree(left, ignore_errors=True)

    def _sweep(self) -> None:
        now = time.monotonic()
        with self._lock:
            over = [one for one in self._all.values() if one.ended or now - one.looked_at > END_S]
            for one in over:
                del self._all[one.device]
        for one in over:
            one.stop()

    def of_device(self, device: uuid.UUID) -> VoyageHandle | None:
        """Return a browser's search, or None."""
        self._sweep()
        with self._lock:
            found = self._all.get(device)
        if found is not None:
            found.looked_at = time.monotonic()
        return found

    def require(self, device: uuid.UUID) -> VoyageHandle:
        """Return a browser's search; raise MissingError where it has none."""
        found = self.of_device(device)
        if found is None:
            raise MissingError("no search is under way: push off first")
        return found

    def open(self, device: uuid.UUID, water: str, *, seed: int, views: Sequence[ViewSetting], band_m: tuple[float, float]) -> VoyageHandle:
        """Return a new search of a browser on a named water, in place of the one it has; raise UnavailableError where too many run."""
        reach_named(water)
        with self._door.through():
            self._sweep()
            with self._lock:
                others = [one for one in self._all.values() if one.device != device]
            if len(others) >= AT_ONCE:
                longest = min(others, key=lambda one: one.looked_at)
                if time.monotonic() - longest.looked_at < REST_S:
                    raise UnavailableError(f"{len(others)} searches are under way, and {AT_ONCE} is the most at once: try again in a while")
                self._end(longest.device)
            self._end(device)
            key = uuid.uuid4()
            order = line.SearchOrder(
                key=key, water=water, seed=seed, folder=self._folder / str(key), views=tuple(views), band_m=band_m, run_dir=self._run_dir
            )
            voyage = VoyageHandle(order, device=device)
            with self._lock:
                self._all[device] = voyage
            return voyage

    def _end(self, device: uuid.UUID) -> None:
        with self._lock:
            found = self._all.pop(device, None)
        if found is not None:
            found.stop()

    def end(self, device: uuid.UUID) -> None:
        """End a browser's search, if it has one."""
        self._end(device)

    def end_all(self) -> None:
        """End all searches."""
        with self._lock:
            devices = list(self._all)
        for device in devices:
            self._end(device)
