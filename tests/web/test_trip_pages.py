"""The log's pages as a browser asks for them: what they say, what a wrong field says, what comes back as files."""

import datetime as dt
import io
import math
import re
import uuid
import zipfile

import gpxpy
import pytest
from PIL import Image

from tests.services.find.test_own_charts import pond
from tests.services.find.test_own_plan import lake
from tests.services.trips.conftest import photo_bytes

HTMX = {"HX-Request": "true"}
TRIP = {"title": "Second cold front", "water": "Harl Mill", "day": "2026-11-01", "source": "real", "goal": "tournament", "people": "Jo"}
CATCH = {"species": "largemouth", "length_in": "15", "guess_in": "13", "kept": "true", "lure": "white", "rod": "Long one", "depth_ft": "14"}


@pytest.fixture
def trip(client):
    answer = client.post("/log/trips", data=TRIP, headers=HTMX)
    return answer.headers["HX-Redirect"]


def test_a_day_is_planned_fished_looked_at_and_taken_home(client, trip):
    assert "planned" in client.get("/log").text
    client.post(f"{trip}/start", headers=HTMX)
    page = client.get(trip).text
    assert "End the trip" in page
    assert "Somebody ashore" in client.get(f"{trip}/edit").text
    for part, given in (
        ("catches", CATCH),
        ("conditions", {"water_f": "58", "sky": "cloud"}),
        ("moves", {"place": "The orchard"}),
        ("rules", {"species": "largemouth", "most": "5"}),
    ):
        assert client.post(f"{trip}/{part}", data=given, headers=HTMX).status_code == 200
    page = client.get(trip).text
    # Two pounds by the published line for fifteen inches (Henson 1991): 1.8 lb.
    assert re.search(r"15\.0 in, 1\.\d\d lb by its length", page)
    assert "guessed 13.0 in" in page
    assert "Best 1:" in page
    assert "largemouth: 1 of 5" in page
    assert "The local rules decide" in page
    catch = re.search(r"/log/catches/([0-9a-f-]+)/edit", page)[1]
    assert 'value="15"' in client.get(f"/log/catches/{catch}/edit").text
    changed = client.post(f"/log/catches/{catch}", data=CATCH | {"weight_lb": "2.25"}, headers=HTMX)
    assert changed.headers["HX-Redirect"].endswith(f"#catch-{catch}")
    assert "15.0 in, 2.25 lb <" in client.get(trip).text
    client.post(f"{trip}/end", headers=HTMX)
    assert "Go on with it" in client.get(trip).text
    with zipfile.ZipFile(io.BytesIO(client.get(f"{trip}/share.zip").content)) as found:
        assert b"Harl Mill" not in b"".join(found.read(name) for name in found.namelist())


def test_a_wrong_field_comes_back_where_it_stood_with_what_was_typed(client, trip):
    answer = client.post("/log/trips", data=TRIP | {"day": "soon"}, headers=HTMX)
    assert (answer.status_code, answer.headers["HX-Retarget"]) == (422, "#_trip_form")
    assert "Day is soon: it must be a day as YYYY-MM-DD" in answer.text
    assert 'value="Second cold front"' in answer.text
    answer = client.post(f"{trip}/catches", data=CATCH | {"length_in": "150"}, headers=HTMX)
    assert answer.status_code == 422
    assert "Length is 150: it must be 2 to 70 in" in answer.text
    assert 'value="white"' in answer.text
    assert re.search(r"<details open>\s*<summary>Add a fish", answer.text)


def test_photos_are_dropped_in_and_a_bad_one_is_named(client, trip):
    key = trip.rpartition("/")[2]
    files = [("photos", ("a.jpg", photo_bytes(), "image/jpeg")), ("photos", ("b.jpg", b"rubbish", "image/jpeg"))]
    answer = client.post("/log/photos", data={"trip": key}, files=files)
    assert answer.status_code == 422
    assert "1 photos kept" in answer.text
    assert "b.jpg is no photo that can be read" in answer.text
    photo = re.search(r'src="(/log/photos/[0-9a-f-]+\.jpg)"', answer.text)[1]
    found = client.get(photo)
    assert found.headers["content-type"] == "image/jpeg"
    assert dict(Image.open(io.BytesIO(found.content)).getexif()) == {}
    assert client.post("/log/photos", data={"trip": key}).status_code == 422
    assert client.post("/log/photos", data={"trip": "x"}, files=files).status_code == 422


def test_shots_are_paged_and_a_wrong_filter_is_named(client, engine):
    from mudlamp.store import log as store
    from tests.services.live.test_writer import NOW, session_record, shot_record

    session = session_record(owner=client.owner)
    store.put(engine, [session, *(shot_record(session.id, number, at=NOW + dt.timedelta(seconds=number)) for number in range(120))])
    first = client.get("/log/shots").text
    assert "120 shots, page 1 of 3" in first
    assert len(re.findall(r"#shot-\d+", first)) == 50
    assert "page=1" in first
    assert len(re.findall(r"#shot-\d+", client.get("/log/shots?page=2").text)) == 20
    answer = client.get("/log/shots?least_ft=far")
    assert answer.status_code == 422
    assert "Out, at least is far: it must be 0 to 200 ft" in answer.text
    assert "No such shot" in client.get("/log/shots?outcome=landed").text
    assert "Pear tree" in client.get("/log/search?q=pear").text
    assert "Nothing in your log" in client.get("/log/search?q=carp").text


def test_a_sheet_is_mapped_looked_at_and_taken(client):
    sheet = {"sheet": ("mine.csv", b"Date,Fish,Size\n2026-10-03,crappie,12\n", "text/csv")}
    page = client.post("/log/keep/sheet", data={"kind": "catches"}, files=sheet).text
    assert "All of them are right" in page
    key = re.search(r'hx-post="/log/keep/sheet/([0-9a-f-]+)"', page)[1]
    mapping = {"kind": "catches", "column:Date": "day", "column:Fish": "species", "column:Size": "length_in"}
    wrong = client.post(f"/log/keep/sheet/{key}/look", data=mapping | {"column:Fish": ""}, headers=HTMX).text
    assert "row 2: Species is empty" in wrong
    assert client.post(f"/log/keep/sheet/{key}", data=mapping, headers=HTMX).status_code == 200
    assert ",0.3048," in client.get("/log/keep/catches.csv").text
    assert client.post("/log/keep/sheet", data={"kind": "catches"}).status_code == 422
    assert client.get("/log/keep/catches.exe").status_code == 422
    assert client.get("/log/keep/passwords.csv").status_code == 422


def test_the_archive_is_made_taken_and_read_back(client, trip):
    job = re.search(r"/log/keep/archive/([0-9a-f-]+)", client.post("/log/keep/archive/start", headers=HTMX).text)[1]
    for _ in range(200):
        text = client.get(f"/log/keep/archive/{job}", headers=HTMX).text
        if "Take the archive" in text:
            break
    data = client.get(f"/log/keep/archive/{job}/mud-lamp.zip").content
    assert "0 of 1 rows were new" in read_back(client, data)
    assert "is no whole archive" in read_back(client, data[: len(data) // 2])
    assert client.post("/log/keep/archive").status_code == 422


def read_back(client, data):
    """Read an archive on the page, and wait until that is over."""
    text = client.post("/log/keep/archive", files={"archive": ("mud-lamp.zip", data, "application/zip")}).text
    job = re.search(r"/log/keep/reading/([0-9a-f-]+)", text)
    while job is not None and "Reading it" in text:
        text = client.get(f"/log/keep/reading/{job[1]}", headers=HTMX).text
    return text


def test_the_phone_takes_the_last_time_like_this_along(client):
    past = client.post("/log/trips", data=TRIP | {"day": "2025-10-20", "title": "A year ago"}, headers=HTMX).headers["HX-Redirect"]
    client.post(f"{past}/conditions", data={"clarity": "stained", "water_f": "57", "time": "08:00"}, headers=HTMX)
    client.post(f"{past}/catches", data=CATCH | {"time": "09:00"}, headers=HTMX)
    told = {"depth_ft": "20", "technique": "pitch", "clarity": "stained", "water_f": "58"}
    card = client.post("/tune", data=told, headers=HTMX).headers["HX-Redirect"].partition("=")[2]
    job = client.post(f"/api/v1/boat/pack?card={card}", headers={"Content-Type": "application/json"}).json()
    job = client.done(job)
    said = client.get("/api/v1/boat/pack").json()["last_time"]
    assert said[0] == "Last 1 time in stained water at 58°F: Oct 20 (A year ago); 1 fish."
    assert "Most on white, 14 ft deep" in said[1]


def test_what_is_deleted_is_brought_back_on_the_page(client, trip):
    answer = client.call("DELETE", f"/log/trip/{trip.rpartition('/')[2]}", headers={"Origin": "http://127.0.0.1"} | HTMX)
    assert answer.headers["HX-Redirect"] == "/log/keep#deleted"
    assert client.get(trip).status_code == 404
    assert "Second cold front" in client.get("/log/keep").text
    client.post(f"/log/deleted/trip/{trip.rpartition('/')[2]}", headers=HTMX)
    assert client.get(trip).status_code == 200


def test_spots_are_added_by_bearing_and_by_place_and_a_chart_is_brought(client, trip):
    client.post(f"{trip}/start", headers=HTMX)
    answer = client.post(
        "/log/spots", data={"water": "harl-mill", "kind": "brush", "note": "cedar", "away_ft": "300", "bearing_deg": "90"}, headers=HTMX
    )
    assert answer.headers["HX-Redirect"] == "/log/spots?water=harl-mill"
    page = client.get("/log/spots").text
    assert "300 ft at 90°" in page
    spot = re.search(r"/log/spots/([0-9a-f-]+)/visit", page.partition("cedar")[2])[1]
    client.post(f"/log/spots/{spot}/visit", data={"fish": "yes"}, headers=HTMX)
    assert "1 of 1 visits with fish" in client.get("/log/spots").text
    wrong = client.post("/log/spots", data={"water": "harl-mill", "kind": "brush"}, headers=HTMX)
    assert wrong.status_code == 422
    assert "Away is empty: give a distance and a bearing" in wrong.text
    assert client.get("/log/spots?water=nowhere").status_code == 422
    page = client.post("/log/spots/chart", data={"name": "Pond"}, files={"chart": ("p.geojson", pond(), "application/json")}).text
    water = re.search(r'name="water" value="(own-[0-9a-f-]+)"', page)[1]
    place = {"water": water, "kind": "ledge", "latitude": "34.1201", "longitude": "-85.05"}
    assert client.post("/log/spots", data=place, headers=HTMX).status_code == 200
    assert "36 ft at 0°" in client.get(f"/log/spots?water={water}").text


def test_the_days_track_is_brought_drawn_charted_and_taken_along(client, trip):
    # A loop over a hole: a point each ten yards, deeper in the middle.
    rows = [
        (42.0 + 0.0001 * i, -88.0 + 0.0001 * j, 3.0 + 2.0 * math.exp(-((i - 5) ** 2 + (j - 5) ** 2) / 9.0))
        for i in range(11)
        for j in range(11)
    ]
    points = "".join(
        f'<trkpt lat="{lat:.5f}" lon="{lon:.5f}"><extensions><m:depth_m>{deep:.2f}</m:depth_m></extensions></trkpt>'
        for lat, lon, deep in rows
    )
    head = '<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x" xmlns:m="urn:mudlamp:spot:1"><trk><trkseg>'
    data = f"{head}{points}</trkseg></trk></gpx>".encode()
    path, key = "/log/track", {"trip": trip.rpartition("/")[2]}
    for wrong, why in (
        (b"<gpx", "must be GPX"),
        (data.replace(b'lat="42.00010"', b'lat="142"', 1), "no longitude and latitude|must be GPX"),
        (data.replace(b"<m:depth_m>3", b"<m:depth_m>deep", 1), "depth_m is deep"),
        (head.encode() + b"</trkseg></trk></gpx>", "has no track"),
    ):
        answer = client.post(path, data=key, files={"track": ("a.gpx", wrong, "application/gpx+xml")})
        assert answer.status_code == 422
        assert re.search(why, answer.text)
    assert client.get(f"{trip}/track.gpx").status_code == 404
    for _ in range(2):
        page = client.post(path, data=key, files={"track": ("a.gpx", data, "application/gpx+xml")}).text
    # Twice is once: the file's track stands in the place of what it said before.
    assert "121 points" in page
    assert len(gpxpy.parse(client.get(f"{trip}/track.gpx").text).tracks[0].segments[0].points) == 121
    for strange in ({"trip": str(uuid.uuid4())}, {"trip": "x"}):
        assert client.post(path, data=strange, files={"track": ("a.gpx", data, "application/gpx+xml")}).status_code in (404, 422)
    water = client.post(f"{trip}/chart", headers=HTMX).headers["HX-Redirect"]
    charted = client.get(water).text
    assert charted.count('class="map-track"') == 1
    assert "band-" in charted
    share = client.get(f"{trip}/share.zip").content
    with zipfile.ZipFile(io.BytesIO(share)) as archive:
        assert not any(b"42.0" in archive.read(name) or b"-88.0" in archive.read(name) for name in archive.namelist())


def test_notes_are_a_page_and_a_session_shows_its_recordings(client, engine, trip):
    from mudlamp.core.records.library import Recording
    from mudlamp.store import library
    from mudlamp.store import log as store
    from tests.services.live.test_writer import NOW, session_record, shot_record

    notes = "\n".join(f"{hour}:00 fog, {hour} fish" for hour in range(100))
    key = trip.rpartition("/")[2]
    form = dict(TRIP) | {"notes": notes}
    assert client.post(trip, data=form, headers=HTMX).headers["HX-Redirect"] == trip
    assert "99:00 fog, 99 fish</textarea>" in client.get(f"{trip}/edit").text
    session = session_record(owner=client.owner, trip_id=uuid.UUID(key))
    recording = Recording(
        id=uuid.uuid4(), owner=client.owner, source="simulated", name="shot 1, landed", digest="0" * 64, size_bytes=1, pings=1, seconds=60.0,
        fan="ahead", created_at=NOW, expires_at=None, session_id=session.id, begins_s=0.0,
    )  # fmt: skip
    store.put(engine, [session, shot_record(session.id, start_s=20.0, end_s=30.0, outcome="landed")])
    library.add_recording(engine, recording)
    play = f"/?recording={recording.id}"
    for page in (client.get(trip).text, client.get(f"/log/{session.id}").text):
        assert f'href="{play}"' in page
        assert f'href="{play}&amp;at=16"' in page
    landed = re.search(r"/landed/([0-9a-f-]+)", client.get(trip).text)[1]
    page = client.post(f"{trip}/landed/{landed}", headers=HTMX).text
    assert f'<a class="small" href="{play}&amp;at=26">replay</a>' in page


def test_the_page_plans_draws_and_hands_out_the_way(client):
    files = {"chart": ("a.geojson", lake(991), "application/json")}
    page = client.post("/log/spots/chart", data={"name": "Two basins"}, files=files).text
    water = re.search(r'name="water" value="(own-[0-9a-f-]+)"', page)[1]
    form = {"water": water, "low_ft": "9", "high_ft": "17", "minutes": "20", "speed_mph": "4.2", "season": "fall", "has_side": "true"}
    page = client.post("/log/spots/plan", data=form, headers={"HX-Request": "true"})
    assert page.status_code == 200
    assert page.text.count('class="map-plan"') == 1
    assert "ft to each side, lanes" in page.text
    path = re.search(r'href="(/log/spots/plan\.gpx\?[^"]+)"', page.text)[1].replace("&amp;", "&")
    assert len(gpxpy.parse(client.get(path).text).routes[0].points) > 10
    wrong = client.post("/log/spots/plan", data=form | {"low_ft": "20"}, headers={"HX-Request": "true"})
    assert (wrong.status_code, "high_ft is 17" in wrong.text) == (422, True)
    assert client.get(path.replace("minutes=20", "minutes=900")).status_code == 422
    assert client.get("/log/spots/plan.gpx?water=own-x").status_code == 422
