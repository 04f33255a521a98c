"""The inside of a search's process: it pings at the pace that is asked, writes the columns, and says how it stands."""

import math
import signal
import time
from multiprocessing.connection import Connection

from mudlamp.core.chance import stream
from mudlamp.core.errors import MudLampError
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.coverage import Coverage
from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.searching.search import Search
from mudlamp.services.find import line
from mudlamp.services.find.columns import ColumnWriter
from mudlamp.services.find.curves import curve_for
from mudlamp.services.find.odds import odds_for
from mudlamp.services.find.waters import reach_named
from mudlamp.services.find.window import things_at, window_of
from mudlamp.services.logs import set_up_logs
from mudlamp.services.quarantine.confine import limit_memory

MOST_BYTES = 3_000_000_000
# How long it works before it listens again, and how often it says how it stands [s].
TURN_S = 0.04
TELL_S = 0.1
# So long a search may be, of the water's time [s].
MOST_S = 3.0 * 3600.0
# The 3-D view's fan sounds every so many pings.
POINTS_EVERY = 8
# It falls no further behind than this: then the pace is what it can keep [s].
BEHIND_S = 0.25
# A bite of speed that stops it at the shore [m].
SHORE_M = 1.5


class Voyage:
    """A search under way: the boat and its console, what is covered, and the books that are kept of it."""

    def __init__(self, order: line.SearchOrder) -> None:
        self.reach = reach_named(order.water)
        boat = IdlingBoat(self.reach.launch_m, math.pi / 2.0, rng=stream(order.seed, "fix"))
        self.search = Search(self.reach, order.views, boat=boat, seed=order.seed)
        self.writer = ColumnWriter(order.folder)
        self.band_m = order.band_m
        self.coverage = self._coverage()
        self.epochs = [line.Epoch(0, view) for view in order.views]
        self.views = order.views
        self.newest = -1
        self.pace = 0.0
        self.points_m = 0.0
        self.aground = False
        self._covered_s = 0.0
        self._went: list[tuple[float, float]] = []

    def _curve(self) -> LateralCurve:
        views = [(view.kind, view.carrier_hz, view.reach_m) for view in self.search.views.values()]
        return curve_for(views, 0.5 * sum(self.band_m))

    def _coverage(self) -> Coverage:
        return Coverage(odds_for(self.reach, self.band_m), self._curve())

    def ping(self) -> None:
        """Go on by one ping; at the shore the boat stops, and nobody is hurt."""
        boat = self.search.boat
        if boat.time_s >= MOST_S:
            # What a search keeps is not without end: some 110 MB an hour.
            self.pace = 0.0
            return
        ahead = (boat.x_m + SHORE_M * math.sin(boat.heading_rad), boat.y_m + SHORE_M * math.cos(boat.heading_rad))
        self.aground = boat.speed_m_s > 0.0 and not self.reach.is_afloat(*ahead)
        if self.aground:
            boat.speed_m_s = 0.0
            self.pace = 0.0
            return
        ping = self.search.ping()
        self.writer.write(ping)
        self.newest = ping.number
        if self.points_m > 0.0 and ping.number % POINTS_EVERY == 0:
            self.writer.add_points(self.search.points(self.points_m))
        if ping.told.time_s - self._covered_s >= 1.0:
            self._covered_s = ping.told.time_s
            self._went.append((ping.told.x_m, ping.told.y_m))
            self.coverage.pass_by(*self._went[-1])

    def take(self, message: line.ToSearch) -> line.Answer | None:
        """Do what a message asks; return the answer to a question."""
        boat = self.search.boat
        match message:
            case line.SetPace(pace=pace):
                self.pace = pace
            case line.SetPath(path=path):
                boat.follow(path)
                if self.aground and path:
                    # Off the bank it is turned where it lies.
                    boat.heading_rad = math.atan2(path[0][0] - boat.x_m, path[0][1] - boat.y_m)
                    self.aground = False
            case line.SetSpeed(speed_m_s=speed):
                boat.speed_m_s = speed
            case line.SetViews(views=views):
                self.search.open_views(views)
                self.epochs += [line.Epoch(self.newest + 1, view) for view in views if view not in self.views]
                self.views = views
                # What was seen stays seen; from here on these views see.
                self.coverage.curve = self._curve()
            case line.SetPoints(reach_m=reach):
                self.points_m = reach
            case line.SetBand(band_m=band):
                self.band_m = band
                self.coverage = self._coverage()
                for place in self._went:
                    self.coverage.pass_by(*place)
            case line.AskWindow(number=number, x_m=x, y_m=y, heading_rad=heading):
                return line.Answer(number, window_of(self.search.water, (x, y), heading, boat.time_s))
            case line.AskTruth(number=number, x_m=x, y_m=y, within_m=within):
                return line.Answer(number, tuple(things_at(self.search.water, (x, y), within, boat.time_s)))
            case line.AskScan(number=number, reach_m=reach):
                levels, view = self.search.all_round(reach)
                scan = line.Scan(levels_db=levels, range_m=view.range_m, absorption_db_m=view.absorption_db_m)
                return line.Answer(number, scan)
        return None

    def state(self, kept: float) -> line.SearchState:
        """Return how it stands."""
        boat = self.search.boat
        return line.SearchState(
            newest=self.newest,
            time_s=boat.time_s,
            pace=self.pace,
            kept_pace=kept,
            ping_hz=self.search.ping_hz,
            share=self.coverage.share,
            left_m=boat.left_m,
            path=tuple(boat.path),
            views=self.views,
            epochs=tuple(self.epochs),
            aground=self.aground,
            is_full=boat.time_s >= MOST_S,
        )


def serve(connection: Connection, order: line.SearchOrder) -> None:
    """Run a search until it is asked to stop, or the web process is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    set_up_logs(order.run_dir, name="searches")
    limit_memory(MOST_BYTES)
    try:
        voyage = Voyage(order)
    except MudLampError as error:
        connection.send(line.Broken(str(error)))
        return
    try:
        connection.send(voyage.state(0.0))
        _loop(connection, voyage)
    except (EOFError, OSError):
        pass
    finally:
        voyage.writer.close()
        connection.close()


def _loop(connection: Connection, voyage: Voyage) -> None:
    """Ping, listen and tell, in turns."""
    due = told = time.monotonic()
    pinged = 0
    while True:
        while connection.poll(0.0 if voyage.pace > 0.0 else TURN_S):
            message = connection.recv()
            if isinstance(message, line.Stop):
                return
            answer = voyage.take(message)
            if answer is not None:
                connection.send(answer)
        now = time.monotonic()
        due = max(due, now - BEHIND_S) if voyage.pace > 0.0 else now
        until = now + TURN_S
        while voyage.pace > 0.0 and due <= now < until:
            voyage.ping()
            pinged += 1
            due += 1.0 / (voyage.search.ping_hz * max(voyage.pace, 1e-6))
            now = time.monotonic()
        if now - told >= TELL_S:
            voyage.writer.flush()
            connection.send(voyage.state(pinged / (now - told) / voyage.search.ping_hz))
            told, pinged = now, 0
        if voyage.pace > 0.0 and due > now:
            time.sleep(min(due - now, TURN_S))
