"""The boat's instruments: a talker and a listener over a real socket; what is broken is counted, what is warm is noted on the trip."""

import asyncio
import datetime as dt
import socket
import threading
import time

import pytest

from mudlamp.core.errors import DomainError
from mudlamp.services.feed.listener import Listener, address_of
from mudlamp.services.feed.talker import middle_of, said_at, talk
from mudlamp.services.find.waters import DEMO, from_earth, reach_named
from tests.services.trips.conftest import OWNER, Desks


@pytest.fixture
def desks(engine, tmp_path):
    found = Desks(engine, tmp_path)
    yield found
    found.jobs.end_all()


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def until(true, seconds=20.0):
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.02)


def test_the_simulated_boat_is_heard_and_the_water_noted_on_the_trip_under_way(desks):
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    practice = desks.trip(source="simulated", title="Practice")
    port = free_port()
    thread = threading.Thread(target=lambda: asyncio.run(talk(port, seconds=14.0)))
    thread.start()
    listener = Listener(desks.engine, f"127.0.0.1:{port}", now=desks.clock)
    listener.start()
    try:
        until(lambda: listener.heard().good >= 5 and desks.trips.open(OWNER, trip.id).conditions)
        heard = listener.heard()
        assert heard.connected
        assert (heard.bad, heard.other) == (0, 0)
        reach = reach_named(DEMO)
        x, y = from_earth([heard.said.longitude_deg], [heard.said.latitude_deg])
        assert heard.said.depth_m == pytest.approx(reach.survey.depth_at(x[0], y[0]), abs=0.05)
        assert heard.said.water_degc == pytest.approx(reach.water.temperature_degc, abs=0.06)
        (noted,) = desks.trips.open(OWNER, trip.id).conditions
        assert (noted.origin, noted.water_degc) == ("feed", pytest.approx(reach.water.temperature_degc, abs=0.06))
        assert desks.trips.open(OWNER, practice.id).conditions == []
        # What was said a while ago is not so any more.
        desks.clock.now += dt.timedelta(minutes=2)
        assert listener.heard().said.depth_m is None or listener.heard().good > heard.good
    finally:
        listener.stop()
        thread.join()


def test_what_is_broken_is_counted_and_what_has_no_end_fills_no_memory(desks):
    with socket.create_server(("127.0.0.1", 0)) as server:
        listener = Listener(desks.engine, f"127.0.0.1:{server.getsockname()[1]}", now=desks.clock)
        listener.start()
        try:
            line, _ = server.accept()
            with line:
                line.sendall(b"$SDDPT,2.4,0.5*00\r\nrubbish\r\n$GPGSV,1,1,00*79\r\n$SDD")
                line.sendall(b"PT,2.4,0.5*54\r\n" + b"x" * 5000)
                until(lambda: listener.heard().bad >= 3)
                heard = listener.heard()
                assert (heard.good, heard.bad, heard.other) == (1, 3, 1)
                assert heard.said.depth_m == pytest.approx(2.9)
                assert "line's end" in heard.fault
        finally:
            listener.stop()


@pytest.mark.parametrize("address", ["", "here", "here:", ":99", "here:0", "here:70000", "here:x"])
def test_an_address_that_is_none_is_refused(address):
    with pytest.raises(DomainError, match="it must be HOST:PORT"):
        address_of(address)


def test_the_simulated_boat_stays_afloat_on_its_circle():
    reach = reach_named(DEMO)
    middle = middle_of(reach)
    assert all(said_at(reach, middle, float(seconds)).depth_m > 1.0 for seconds in range(0, 180, 5))
