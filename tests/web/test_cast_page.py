import datetime as dt
import re
import uuid

import pytest
from sqlalchemy import func, select

from mudlamp.core.records.rigs import KeptLure, KeptRod
from mudlamp.core.units import FOOT_M, OUNCE_KG
from mudlamp.store import log as store
from mudlamp.store import rigs
from mudlamp.store.database import work
from mudlamp.store.models import LandingRow


def test_the_cast_page_answers_a_usual_fish_and_what_is_typed(client):
    page = client.get("/cast")
    assert page.status_code == 200
    assert "Throw fifteen past him, count 25." in page.text
    assert 'aria-label="From the side: the lure hits the water 41.3 ft out' in page.text
    typed = client.post("/cast/answer", data={"range_ft": "17", "depth_ft": "6", "head_oz": "0.0625", "mood": "wary"})
    assert "Throw right at him, count" in typed.text
    assert "Too close: stay" in typed.text
    moving = client.post(
        "/cast/answer", data={"range_ft": "30", "depth_ft": "12", "head_oz": "0.125", "speed_mph": "0.5", "heading_deg": "90"}
    )
    assert "<dt>Lead</dt>" in moving.text


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"range_ft": "far", "depth_ft": "6"}, "Fish, out is far: it must be 2 to 190 ft"),
        ({"range_ft": "30", "depth_ft": "600"}, "Fish, down is 600: it must be 1 to 190 ft"),
        ({"range_ft": "30"}, "Fish, down it must be 1 to 190 ft"),
        ({"range_ft": "10", "depth_ft": "40"}, "10 ft away along the beam it can be 11.3 ft at most"),
        ({"range_ft": "30", "depth_ft": "9", "technique": "magic"}, "How is magic: choose one"),
        ({"range_ft": "30", "depth_ft": "9", "range": "nan"}, "count"),
        ({"range_ft": "nan", "depth_ft": "9"}, "Fish, out is nan: it must be"),
    ],
)
def test_what_cannot_be_worked_out_is_said_by_field(client, given, said):
    found = client.post("/cast/answer", data=given)
    assert found.status_code == 200
    assert said in found.text


def test_the_api_answers_by_the_contract(client):
    found = client.post("/api/v1/cast", json={"range_ft": 34, "depth_ft": 23, "head_oz": 0.0625})
    assert found.status_code == 200
    assert {"horizontal_ft", "cast_ft", "countdown_s", "side_tolerance_ft", "lead_ft", "stand_off_ft", "why"} <= set(found.json())
    assert found.json()["lead_ft"] is None
    assert client.post("/api/v1/cast", json={"range_ft": 34}).status_code == 422
    assert client.post("/api/v1/cast", json={"range_ft": 10, "depth_ft": 40}).status_code == 422


def test_the_page_begins_with_the_rod_in_hand_and_what_is_tied_on_it(client, engine):
    client.post("/rig", data={"name": "Skiff"})
    rig = rigs.active_rig(engine, client.owner)
    box = {"rig_id": rig.id, "created_at": dt.datetime(2026, 1, 1, tzinfo=dt.UTC)}
    lures = [
        KeptLure(
            id=uuid.uuid4(),
            kind=kind,
            head_kg=ounces * OUNCE_KG,
            material="lead",
            color=color,
            finish="",
            trailer="",
            weight_kg=0.0,
            recipe="",
            **box,
        )
        for kind, ounces, color in (("jig", 0.125, "chartreuse"), ("minnow", 0.25, ""))
    ]
    rods = [
        KeptRod(
            id=uuid.uuid4(), name=name, length_m=feet * FOOT_M, line="braid", line_n=None, lure_id=lure.id, in_hand=name == "Long", **box
        )
        for name, feet, lure in (("Long", 12.0, lures[0]), ("Short", 6.5, lures[1]))
    ]
    store.put(engine, [*lures, *rods])
    page = client.get("/cast").text
    assert "Long: 1/8 oz chartreuse jig" in page
    assert re.search(r'name="head_oz"[^>]*value="0.125"', page)
    other = client.get(f"/cast?rod={rods[1].id}").text
    assert re.search(r'name="rod_ft"[^>]*value="6.5"', other)
    assert re.search(r'<option value="minnow"[^>]*selected', other)
    # A rod that is not aboard is no rod.
    assert client.get(f"/cast?rod={uuid.uuid4()}").status_code == 200


def test_where_casts_land_is_learned_taken_in_and_forgotten(client, engine):
    fish = {"range_ft": "40", "depth_ft": "12", "head_oz": "0.125"}
    before = client.post("/api/v1/cast", json={"range_ft": 40, "depth_ft": 12, "head_oz": 0.125}).json()
    assert before["aim_ft"] == before["cast_ft"]
    for number in range(5):
        tapped = client.post("/cast/landed", data=fish | {"landed_long_ft": "5", "landed_right_ft": "-5"})
        assert ("more cast" in tapped.text) is (number < 4)
    assert re.search(r"By your last 5 casts you throw 1\d % long and \d° left: taken in\.", tapped.text)
    assert tapped.headers["HX-Trigger-After-Swap"] == "cast-learned"
    long_pct = float(re.search(r'id="cast-long_pct" name="long_pct" value="([^"]+)"', tapped.text)[1])
    off_deg = float(re.search(r'id="cast-off_deg" name="off_deg" value="([^"]+)"', tapped.text)[1])
    after = client.post(
        "/api/v1/cast", json={"range_ft": 40, "depth_ft": 12, "head_oz": 0.125, "long_pct": long_pct, "off_deg": off_deg}
    ).json()
    assert after["cast_ft"] == before["cast_ft"]
    assert after["aim_ft"] == pytest.approx(before["cast_ft"] - 5.0, abs=0.8)
    assert after["aim_right_ft"] > 3.0
    assert "thrown as you throw, it lands at" in after["why"]
    assert f'value="{long_pct}"' in client.get("/cast").text
    # A drop right under the rod, and throws that go twice as far as meant: the page still opens and answers.
    close = {"range_ft": "9", "depth_ft": "9", "head_oz": "0.125"}
    for _ in range(25):
        assert client.post("/cast/landed", data=close | {"landed_long_ft": "10", "landed_right_ft": "5"}).status_code == 200
    assert 'class="cast-said"' in client.get("/cast").text
    # Only the newest count; the others are kept for the review.
    for _ in range(25):
        last = client.post("/cast/landed", data=fish | {"landed_long_ft": "0", "landed_right_ft": "0"})
    assert "By your last 20 casts" in last.text or "Your last 20 casts" in last.text
    with work(engine, client.owner) as session:
        assert session.scalar(select(func.count()).select_from(LandingRow)) == 55
    assert "no error" not in client.post("/cast/forget").text
    assert f'value="{long_pct}"' not in client.get("/cast").text
    for wrong in (
        {"landed_long_ft": "far"},
        {"landed_long_ft": "5"},
        {"landed_long_ft": "nan", "landed_right_ft": "0"},
        {"landed_long_ft": "900", "landed_right_ft": "0"},
    ):
        assert client.post("/cast/landed", data=fish | wrong).status_code == 422
    assert client.post("/cast/landed", data={"range_ft": "x", "landed_long_ft": "5", "landed_right_ft": "0"}).status_code == 422
