"""NMEA 0183: an independent decoder reads the same log alike; what is broken is refused in a line."""

import datetime as dt
import math

import numpy as np
import pynmeagps
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.formats.nmea import LONGEST, Said, read_sentence, written

NOON = dt.datetime(2026, 10, 24, 12, 0, tzinfo=dt.UTC)


def summed(body):
    """A sentence of a body. Source: NMEA 0183, section 5.3: the exclusive or of all between $ and *."""
    total = 0
    for letter in body.encode():
        total ^= letter
    return f"${body}*{total:02X}\r\n".encode()


def test_another_decoder_hears_the_same_in_an_hour_of_talk():
    # Source: pynmeagps, a decoder of another make.
    rng = np.random.default_rng(940)
    for number in range(300):
        said = Said(
            latitude_deg=float(rng.uniform(-89, 89)), longitude_deg=float(rng.uniform(-179, 179)), heading_rad=float(rng.uniform(0, 2 * math.pi)),
            depth_m=float(rng.uniform(0.6, 30.0)), water_degc=float(rng.uniform(1, 32)), speed_m_s=float(rng.uniform(0, 4)),
        )  # fmt: skip
        for line in written(said, at=NOON + dt.timedelta(seconds=number), transducer_m=0.45):
            ours, theirs = read_sentence(line), pynmeagps.NMEAReader.parse(line)
            if theirs.msgID in ("GGA", "RMC"):
                assert (ours.latitude_deg, ours.longitude_deg) == (pytest.approx(theirs.lat, abs=2e-7), pytest.approx(theirs.lon, abs=2e-7))
                assert (ours.latitude_deg, ours.longitude_deg) == (
                    pytest.approx(said.latitude_deg, abs=2e-7),
                    pytest.approx(said.longitude_deg, abs=2e-7),
                )
            if theirs.msgID == "RMC":
                assert ours.speed_m_s == pytest.approx(theirs.spd * 1852.0 / 3600.0)
            if theirs.msgID == "HDT":
                assert math.degrees(ours.heading_rad) == pytest.approx(theirs.headingT % 360.0)
            if theirs.msgID == "DPT":
                assert ours.depth_m == pytest.approx(theirs.depth + theirs.offset)
                assert ours.depth_m == pytest.approx(said.depth_m, abs=0.011)
            if theirs.msgID == "MTW":
                assert ours.water_degc == pytest.approx(theirs.temp)


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ("SDDPT,2.4,-0.5", Said(depth_m=2.4)),
        ("SDDPT,2.4,0.5", Said(depth_m=2.9)),
        ("SDDBT,7.9,f,2.41,M,1.3,F", Said(depth_m=2.41)),
        ("YXMTW,14.4,C", Said(water_degc=14.4)),
        ("HEHDT,90.0,T", Said(heading_rad=math.pi / 2)),
        ("GPGGA,120000,,,,,0,00,,,M,,M,,", Said()),
        ("GPRMC,120000,V,4115.0,S,01830.0,W,1.0,0.0,241026,,", Said()),
        ("GPVTG,45.0,T,,M,2.0,N,3.7,K", Said(speed_m_s=2.0 * 1852.0 / 3600.0)),
        ("GPGSV,1,1,00", None),
    ],
)
def test_each_kind_says_what_the_standard_says(body, said):
    # Source: NMEA 0183 sentence definitions, from memory.
    assert read_sentence(summed(body)) == said


def malformed():
    """Two hundred broken sentences, from a seed."""
    good = written(Said(latitude_deg=41.0, longitude_deg=-85.0, heading_rad=1.0, depth_m=4.0, water_degc=14.0), at=NOON, transducer_m=0.4)
    rng = np.random.default_rng(941)
    yield from (
        b"",
        b"\r\n",
        b"$",
        b"*00",
        b"$*00\r\n",
        b"x" * (LONGEST + 1),
        b"GPGGA,1*00",
        b"$GPGGA",
        b"\xff" * 40,
        b"$SDDPT,2.4,0.5\r\n",
    )
    for body in (
        "SDDPT,deep,0.5",
        "SDDPT,-4,0",
        "SDDPT,1e9,0",
        "YXMTW,hot,C",
        "YXMTW,400,C",
        "YXMTW,14,F",
        "HEHDT,361,T",
        "GPGGA,1,9999.9,N,1.0,E,1,4,1,1,M,1,M,,",
        "SDDPT,nan,0",
        "YXMTW,inf,C",
    ):
        yield summed(body)
    for _ in range(180):
        line = bytearray(good[int(rng.integers(len(good)))])
        line[int(rng.integers(1, len(line) - 5))] ^= int(rng.integers(1, 128))
        yield bytes(line)


def test_two_hundred_broken_sentences_say_nothing():
    lines = list(malformed())
    assert len(lines) == 200
    for line in lines:
        with pytest.raises(DomainError) as error:
            read_sentence(line)
        assert "\n" not in str(error.value)
