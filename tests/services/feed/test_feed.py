"""The boat's instruments: a talker and a listener over a real socket; what is broken is counted, what is warm is noted on the trip."""

import asyncio
import datetime as dt
import socket
import threading

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.formats.nmea import Said
from mudlamp.services.feed.listener import Listener, address_of
from mudlamp.services.feed.noting import TripNotes
from mudlamp.services.feed.talker import middle_of, said_at, talk
from mudlamp.services.find.waters import DEMO, from_earth, reach_named
from mudlamp.services.trips.track import gone_m
from tests.patience import until
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
        # Where the boat went, and about where the trip is: for the sun alone.
        until(lambda: desks.trips.open(OWNER, trip.id).points)
        point = desks.trips.open(OWNER, trip.id).points[0]
        assert (point.origin, point.latitude_deg) == ("feed", pytest.approx(heard.said.latitude_deg, abs=1e-3))
        kept = desks.trips.own(OWNER, trip.id)
        assert (kept.latitude_deg, kept.longitude_deg) == (round(point.latitude_deg, 1), round(point.longitude_deg, 1))
        assert desks.trips.open(OWNER, practice.id).points == []
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


def test_the_boats_track_holds_what_it_went_and_no_more_than_a_point_each_few_yards(desks):
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    notes, rng = TripNotes(desks.engine, now=desks.clock), np.random.default_rng(987)
    path = []
    # Ten times a second for a minute, a yard a second north; then an hour at anchor, swinging by a yard.
    for number in range(600):
        path.append(number / 10.0 * 0.9)
        desks.clock.now += dt.timedelta(seconds=0.1)
        notes.note(Said(latitude_deg=42.0 + path[-1] / 111_000.0, longitude_deg=-88.0, depth_m=3.0))
    for _ in range(360):
        desks.clock.now += dt.timedelta(seconds=10)
        notes.note(Said(latitude_deg=42.0 + (path[-1] + rng.uniform(-0.4, 0.4)) / 111_000.0, longitude_deg=-88.0))
    points = desks.trips.open(OWNER, trip.id).points
    under_way = [one for one in points if one.depth_m is not None]
    assert 10 <= len(under_way) <= 13
    assert gone_m(under_way) == pytest.approx(path[-1], abs=5.0)
    assert len(points) - len(under_way) <= 13
    assert gone_m(points) - gone_m(under_way) < 20.0
