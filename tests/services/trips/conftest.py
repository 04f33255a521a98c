import datetime as dt
import io
import uuid

import piexif
import pytest
from PIL import Image

from mudlamp.services.boat.desk import BoatDesk
from mudlamp.services.cast.desk import CastDesk
from mudlamp.services.jobs import Jobs
from mudlamp.services.rig.desk import RigDesk
from mudlamp.services.settings import read_settings
from mudlamp.services.trips.desk import TripDesk
from mudlamp.services.trips.photos import Photos
from mudlamp.services.trips.review import ReviewDesk

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)
OWNER, OTHER = uuid.UUID(int=41), uuid.UUID(int=42)
ZONE = dt.timezone(dt.timedelta(hours=-5))
TRIP = {"title": "Second cold front", "water": "Harl Mill", "day": "2026-11-01", "starts": "06:30", "source": "real", "people": "Jo, R. "}


class Clock:
    """A clock that is set by hand."""

    def __init__(self):
        self.now = NOW

    def __call__(self):
        return self.now


class Desks:
    """The desks of trips on one database."""

    def __init__(self, engine, run_dir):
        self.engine, self.clock, self.jobs = engine, Clock(), Jobs()
        self.settings = read_settings({"MUDLAMP_RUN_DIR": str(run_dir)})
        rigs = RigDesk(engine, self.jobs)
        self.boat = BoatDesk(engine, self.jobs, rigs, CastDesk(engine, now=self.clock), now=self.clock)
        self.photos = Photos(engine, self.settings)
        self.trips = TripDesk(engine, self.boat, self.photos, now=self.clock)
        self.review = ReviewDesk(engine, self.jobs, self.boat)

    def trip(self, owner=OWNER, **changes):
        """A trip that was written as a person would."""
        found, read = self.trips.write(owner, TRIP | changes, ZONE)
        assert not read.problems
        return found


@pytest.fixture
def desks(engine, tmp_path):
    found = Desks(engine, tmp_path)
    yield found
    found.jobs.end_all()


def photo_bytes(*, taken="2026:11:01 07:45:10", offset=None, gps=True, orientation=1, size=(40, 20), color=(200, 30, 30)):
    """A phone's photo with all that phones write into it."""
    exif = {"0th": {piexif.ImageIFD.Make: b"Invented", piexif.ImageIFD.Orientation: orientation}, "Exif": {}, "GPS": {}}
    if taken:
        exif["Exif"][piexif.ExifIFD.DateTimeOriginal] = taken.encode()
    if offset:
        exif["Exif"][piexif.ExifIFD.OffsetTimeOriginal] = offset.encode()
    if gps:
        exif["GPS"] = {
            piexif.GPSIFD.GPSLatitudeRef: b"N", piexif.GPSIFD.GPSLatitude: ((34, 1), (7, 1), (1234, 100)),
            piexif.GPSIFD.GPSLongitudeRef: b"W", piexif.GPSIFD.GPSLongitude: ((85, 1), (3, 1), (4321, 100)),
        }  # fmt: skip
    out = io.BytesIO()
    Image.new("RGB", size, color).save(out, "JPEG", exif=piexif.dump(exif), comment=b"34.12N 85.05W")
    return out.getvalue()
