"""Photos: each a catch at its own time, and nothing left in the file that says where it was."""

import datetime as dt
import io
import os

import numpy as np
import piexif
import pytest
from PIL import Image

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.services.quarantine.photo import LONGEST_SIDE
from mudlamp.services.trips.photo_drop import drop
from mudlamp.services.trips.photos import pictured
from tests.services.trips.conftest import NOW, OTHER, OWNER, ZONE, photo_bytes


def dropped(desks, trip, *files):
    return drop(
        desks.photos,
        desks.trips.open(OWNER, trip.id),
        [(f"{i}.jpg", lambda data=data: data) for i, data in enumerate(files)],
        owner=OWNER,
        zone=ZONE,
        now=NOW,
    )


def test_where_a_photo_was_taken_is_nowhere_in_what_is_kept(desks):
    data = photo_bytes()
    assert piexif.load(data)["GPS"]
    assert b"85.05W" in data
    made = pictured(data, name="a.jpg", zone=ZONE)
    found = Image.open(io.BytesIO(made.data))
    assert dict(found.getexif()) == {}
    assert not {"exif", "comment", "icc_profile", "xmp"} & set(found.info)
    assert b"85.05W" not in made.data
    # Source: piexif, a reader of another make.
    assert not any(piexif.load(made.data)[part] for part in ("0th", "Exif", "GPS", "1st"))


@pytest.mark.parametrize(
    ("taken", "offset", "at"),
    [
        ("2026:11:01 07:45:10", None, dt.datetime(2026, 11, 1, 12, 45, 10, tzinfo=dt.UTC)),
        ("2026:11:01 07:45:10", "+02:00", dt.datetime(2026, 11, 1, 5, 45, 10, tzinfo=dt.UTC)),
        ("2026:13:01 07:45:10", None, None),
        ("", None, None),
    ],
)
def test_a_cameras_time_is_the_photos_time(taken, offset, at):
    assert pictured(photo_bytes(taken=taken, offset=offset), name="a.jpg", zone=ZONE).taken_at == at


def test_it_stands_upright_and_is_no_larger_than_it_need_be():
    made = pictured(photo_bytes(orientation=6, size=(3000, 1500)), name="a.jpg", zone=None)
    assert (made.width, made.height) == (LONGEST_SIDE // 2, LONGEST_SIDE)


def test_each_photo_becomes_a_fish_with_the_rod_in_force_once_and_a_bad_one_loses_no_other(desks):
    trip = desks.trip()
    desks.trips.add_catch(OWNER, trip.id, {"species": "white crappie", "time": "07:00"}, ZONE)
    first = photo_bytes()
    found = dropped(desks, trip, first, b"no photo", photo_bytes(taken="2026:11:01 08:10:00", color=(0, 90, 0)), first)
    assert (found.kept, found.same) == (2, 1)
    assert found.problems == ["1.jpg is no photo that can be read: it must be a JPEG, PNG or WebP file"]
    opened = desks.trips.open(OWNER, trip.id)
    assert [one.at.astimezone(ZONE).strftime("%H:%M") for one in opened.catches] == ["07:00", "07:45", "08:10"]
    assert {one.species for one in opened.catches} == {"white crappie"}
    assert len(opened.photos) == 2
    photo = opened.photos[opened.catches[1].id]
    assert Image.open(io.BytesIO(desks.photos.read(OWNER, photo.id))).size == (40, 20)
    with pytest.raises(MissingError):
        desks.photos.read(OTHER, photo.id)


# The library says aloud what it finds broken.
@pytest.mark.filterwarnings("ignore::UserWarning")
def test_two_hundred_broken_photos_are_refused_in_a_line(desks):
    whole, rng = photo_bytes(size=(200, 150)), np.random.default_rng(950)
    refused = 0
    for number in range(200):
        data = bytearray(whole[: int(rng.integers(1, len(whole)))]) if number % 2 else bytearray(whole)
        for _ in range(int(rng.integers(5, 60))):
            data[int(rng.integers(len(data)))] = int(rng.integers(256))
        try:
            pictured(bytes(data), name="x" * 90, zone=ZONE)
        except DomainError as error:
            refused += 1
            assert len(str(error)) < 160
    assert refused >= 100
    out = io.BytesIO()
    Image.new("1", (9000, 9000)).save(out, "PNG")
    with pytest.raises(DomainError, match="pixels: it may have"):
        pictured(out.getvalue(), name="huge.png", zone=None)


def test_files_of_photos_that_are_no_more_are_swept(desks, tmp_path):
    trip = desks.trip()
    dropped(desks, trip, photo_bytes())
    stray = tmp_path / "photos" / "stray.jpg"
    stray.write_bytes(b"x")
    desks.photos.sweep()
    assert stray.exists()
    os.utime(stray, (0, 0))
    desks.photos.sweep()
    assert not stray.exists()
    assert len(list((tmp_path / "photos").iterdir())) == 1
