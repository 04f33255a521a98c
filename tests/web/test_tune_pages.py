import re
import time
import uuid
import zlib

import pytest

from mudlamp.store import cards
from mudlamp.store import rigs as rig_store
from tests.patience import PATIENCE_S

FIVE = {"technique": "pitch", "target": "crappie", "depth_ft": "20", "clarity": "stained", "bottom": "sand", "style": "balanced"}
HTMX = {"HX-Request": "true"}


def made_card(client, **more):
    answer = client.post("/tune", data=FIVE | more, headers=HTMX)
    assert answer.status_code == 200
    return re.fullmatch(r"/tune\?card=([0-9a-f-]{36})", answer.headers["hx-redirect"])[1]


def made_rig(client, name="boat"):
    assert client.post("/rig", data={"name": name}).status_code == 303
    return re.search(r'action="/rig/([0-9a-f-]{36})/delete"', client.get("/rig").text)[1]


def followed(client, path):
    """Start long work and follow it to its end; return the last answer."""
    answer, deadline = client.post(path, headers=HTMX), time.monotonic() + PATIENCE_S
    while "hx-retarget" not in answer.headers:
        assert time.monotonic() < deadline
        step = re.search(r'hx-get="([^"]+job=[^"]+)"', answer.text)[1].replace("&amp;", "&")
        time.sleep(0.05)
        answer = client.get(step, headers=HTMX)
    return answer


@pytest.mark.parametrize(("path", "teaches"), [("/tune", "A worked card of the demo's water."), ("/rig", "Enter yours once")])
def test_the_pages_teach_while_they_are_empty_and_load_nothing_from_outside(client, path, teaches):
    page = client.get(path)
    assert page.status_code == 200
    assert teaches in page.text
    assert not re.findall(r'(?:src|href|action)="(?:https?:)?//', page.text)
    assert " style=" not in page.text


def test_a_card_has_every_step_in_order_with_what_to_look_for(client):
    page = client.get(f"/tune?card={made_card(client)}").text
    order = [
        page.index(text)
        for text in ("Turn off your other sonar", 'data-row="down_to_ft"', 'data-row="gain"', 'data-row="ink"', "Check your aim")
    ]
    assert order == sorted(order)
    assert "speckle" in page
    assert "23 ft" in page
    assert "Life jacket" in page


@pytest.mark.parametrize(
    ("wrong", "field", "said"),
    [
        ({"fish_to_ft": "40"}, "fish_to_ft", "it must be 0 to 20 ft"),
        ({"ice": "true", "technique": "scan", "water_f": "70"}, "water_f", "under ice it must be 32 to 41 deg F"),
        ({"ice": "true"}, "technique", "through ice it must be drop or scan"),
        ({"jig_gone_ft": "-3"}, "jig_gone_ft", "it must be 0.3 to 60 ft"),
    ],
)
def test_impossible_answers_get_a_message_by_their_field_and_the_form_is_kept(client, wrong, field, said):
    before = client.get("/tune").text
    answer = client.post("/tune", data=FIVE | {"slope_deg": "7"} | wrong, headers=HTMX)
    assert answer.status_code == 422
    assert answer.headers["hx-retarget"] == "#_ask"
    message = re.search(rf'id="f-{field}-problem">([^<]+)<', answer.text)[1]
    assert said in message
    assert 'name="slope_deg" value="7"' in answer.text
    way = (FIVE | wrong)["technique"]
    assert re.findall(f'<option value="{way}" ?[a-z]*>', answer.text) == [f'<option value="{way}" selected>']
    assert len(re.findall("problem-line", answer.text)) == 1
    # Nothing was kept of it.
    assert client.get("/tune").text.count("card-row") == before.count("card-row")


def test_costs_follow_in_figures_and_autotune_is_set_beside_the_trades_bands(client):
    key = made_card(client)
    assert "measuring…" in client.get(f"/tune?card={key}").text
    measured = followed(client, f"/tune/cards/{key}/costs")
    assert measured.headers["hx-retarget"] == "#card"
    assert "measuring…" not in measured.text
    assert re.search(r"<b>Clean 3 pings</b>: .*lag \+67 ms", measured.text)
    tuned = followed(client, f"/tune/cards/{key}/tuned").text
    assert re.search(r"Auto-tune</h3>\s*<p>(Better than the start|The start stands)", tuned)
    assert "of 100" not in tuned
    assert "Usual band" in tuned
    assert "The card is set to this now." in client.post(f"/tune/cards/{key}/take?what=tuned", headers=HTMX).text


def test_a_measured_card_shows_its_water_and_each_control_too_low_right_and_too_high(client, app):
    from tests.web.conftest import Client

    key = made_card(client)
    page = followed(client, f"/tune/cards/{key}/costs").text
    assert "You&#39;ll see this jig to " in page
    assert "Leave these: Near cut 0 dB, Quieting 1 ping" in page
    assert "Pitch 15 ft." in page
    small = re.findall(rf'src="(/tune/cards/{key}/picture.png[^"]*)"', page)
    assert len(small) == 13
    for src in small[::4]:
        picture = client.get(src.replace("&amp;", "&"))
        assert (picture.headers["content-type"], picture.content[:4]) == ("image/png", b"\x89PNG")
    assert Client(app).get(f"/tune/cards/{key}/picture.png").status_code == 404
    for wrong, said in (
        ("control=rust&value=3", "control is rust: it must be one of down_to_m"),
        ("control=gain&value=400", "gain is 400"),
        ("control=gain&value=nan", "gain is nan: it must be a number"),
        ("size=huge", "size is huge"),
    ):
        refused = client.get(f"/tune/cards/{key}/picture.png?{wrong}")
        assert (refused.status_code, said in refused.text) == (422, True)


def test_the_next_question_is_asked_answered_and_skipped(client):
    key = made_card(client, technique="")
    asked = client.get(f"/tune/cards/{key}/next", headers=HTMX).text
    assert "How do you fish?" in asked
    assert "Reach" in asked
    skipped = re.search(r'hx-get="([^"]+)"', asked)[1]
    assert "How do you fish?" not in client.get(skipped, headers=HTMX).text
    answered = client.post(f"/tune/cards/{key}/answer", data={"technique": "cast"}, headers=HTMX)
    assert "Casting to crappie" in client.get(answered.headers["hx-redirect"]).text
    assert client.post(f"/tune/cards/{key}/answer", data={"depth_ft": "900"}, headers=HTMX).status_code == 422
    known = made_card(
        client, sky="cloud", fish_from_ft="8", fish_to_ft="16", other_sonars="0", cover="open", wind_mph="5", water_f="60", shape="flat"
    )
    assert "That is all that matters here." in client.get(f"/tune/cards/{known}/next", headers=HTMX).text


def test_where_the_angler_ended_shifts_the_next_card_and_can_be_forgotten(client, app):
    from tests.web.conftest import Client

    def start(key):
        return int(re.search(r'data-row="gain".*?<span class="start"><b>(\d+)</b>', client.get(f"/tune?card={key}").text, re.S)[1])

    first = made_card(client)
    ours = start(first)
    noted = client.post(f"/tune/cards/{first}/ended?control=gain&value={ours + 6}", headers=HTMX).text
    said = int(re.search(r"yours: (\d) hotter than ours, give or take \d \(1 day\)", noted)[1])
    second = made_card(client)
    assert start(second) == ours + said
    assert f"yours: {said} hotter than ours" in client.get(f"/tune?card={second}").text
    # The same day's last word counts, from our start as it was: not from the shifted one.
    assert f"yours: {said} hotter" in client.post(f"/tune/cards/{second}/ended?control=gain&value={ours + 6}", headers=HTMX).text
    # Another browser's start is its own.
    other = Client(app)
    assert "hotter than ours" not in other.get(f"/tune?card={made_card(other)}").text
    assert other.post(f"/tune/cards/{first}/ended?control=gain&value=70", headers=HTMX).status_code == 404
    for wrong in ("control=rust&value=3", "control=ink&value=3", "control=gain&value=400", "control=gain&value=nan"):
        assert client.post(f"/tune/cards/{first}/ended?{wrong}", headers=HTMX).status_code == 422
    assert "Forgotten." in client.post(f"/tune/cards/{second}/forget?control=gain", headers=HTMX).text
    assert start(made_card(client)) == ours


def test_the_whole_card_is_set_as_another_style_would(client):
    key = made_card(client)
    page = client.get(f"/tune?card={key}").text
    assert "Set the whole card to Raw" in page
    assert "Set the whole card to Balanced" not in page
    clean = client.post(f"/tune/cards/{key}/take?what=clean", headers=HTMX).text
    assert re.search(r'data-row="quieting_pings">.*?<b>3 pings</b>.*?planned 1 ping', clean, re.DOTALL)
    assert "Set the whole card to Balanced" in clean
    assert client.post(f"/tune/cards/{key}/take?what=loud", headers=HTMX).status_code == 422


def test_a_move_is_said_as_to_a_deck_hand(client):
    key = made_card(client, depth_ft="24")
    moved = client.post(f"/tune/cards/{key}/move", data={"depth_ft": "12", "clarity": "stained"}, headers=HTMX)
    page = client.get(moved.headers["hx-redirect"]).text
    said = re.search(r"You moved\.</b> ([^<]+)<", page)[1]
    assert said.startswith("Down to 27 → 15.")
    assert said.strip().endswith("alone.")
    refused = client.post(f"/tune/cards/{key}/move", data={"depth_ft": "900"}, headers=HTMX)
    assert (refused.status_code, "Depth here is 900: it must be 4 to 190 ft" in refused.text) == (422, True)


def test_symptoms_are_ranked_and_bad_ones_named(client):
    key = made_card(client)
    page = client.get(f"/tune/cards/{key}/symptoms?symptom=no_lure&gain=40", headers=HTMX).text
    assert page.index("Gain too low") < page.index("The lure is off to one side")
    start = int(re.search(r'data-row="gain".*?<span class="start"><b>(\d+)</b>', client.get(f"/tune/cards/{key}").text, re.S)[1])
    assert f"{start - 40} steps under the card" in page
    assert client.get(f"/tune/cards/{key}/symptoms?symptom=rust", headers=HTMX).status_code == 422
    assert "Gain is 400: it must be 0 to 100" in client.get(f"/tune/cards/{key}/symptoms?symptom=no_lure&gain=400", headers=HTMX).text
    assert "quieting_pings is 4" in client.get(f"/tune/cards/{key}/symptoms?symptom=blob&quieting_pings=4", headers=HTMX).text
    assert client.post(f"/tune/cards/{key}/show?cause=rust", headers=HTMX).status_code == 422
    # What the first step of every card does away with can be seen.
    assert f'hx-post="/tune/cards/{key}/show?cause=console"' in client.get(f"/tune/cards/{key}").text
    spokes = client.get(f"/tune/cards/{key}/symptoms?symptom=spokes", headers=HTMX).text
    assert "Your console sonar is on" in spokes


def test_baselines_are_named_copied_compared_and_deleted(client):
    first, second = made_card(client), made_card(client, depth_ft="40")
    for key, name in ((first, "shallow"), (second, "deep")):
        assert name in client.post(f"/tune/cards/{key}/name", data={"name": name}, headers=HTMX).text
    compared = client.get(f"/tune/compare?a={first}&b={second}", headers=HTMX).text
    assert "Down to 23 → 43." in compared
    assert client.get("/tune/compare", headers=HTMX).status_code == 422
    assert client.post(f"/tune/cards/{first}/name", data={"name": "x" * 61}, headers=HTMX).status_code == 422
    assert "shallow copy" in client.post(f"/tune/cards/{first}/copy", data={"name": "shallow copy"}, headers=HTMX).text
    assert "shallow</b>" not in client.call("DELETE", f"/tune/cards/{first}", headers={"Origin": "http://127.0.0.1"} | HTMX).text
    assert [one["name"] for one in client.get("/api/v1/cards").json()["cards"]] == ["deep", "shallow copy"]


def test_a_card_prints_on_one_page_and_as_a_pdf_of_one_page(client):
    key = made_card(client)
    assert "Print this page" in client.get(f"/tune/cards/{key}/print").text
    pdf = client.get(f"/tune/cards/{key}/card.pdf")
    assert pdf.headers["content-type"] == "application/pdf"
    assert pdf.content.startswith(b"%PDF-")
    # Its objects lie in deflated streams (ISO 32000, object streams).
    streams = re.findall(rb"stream\r?\n(.*?)\r?\nendstream", pdf.content, re.DOTALL)
    inside = b"".join(zlib.decompress(one) for one in streams if one.startswith(b"x"))
    assert len(re.findall(rb"/Type /Page\b", inside + pdf.content)) == 1


def test_nobody_reads_anothers_cards_and_rigs(client, app):
    from tests.web.conftest import Client

    key, rig = made_card(client), made_rig(client)
    stranger = Client(app)
    for path in (f"/tune?card={key}", f"/tune/cards/{key}/card.pdf", f"/api/v1/cards/{key}"):
        assert stranger.get(path).status_code == 404
    assert stranger.post(f"/rig/{rig}/power", data={}).status_code == 404
    assert stranger.get("/api/v1/rigs").json() == {"rigs": []}
    assert client.get(f"/tune/cards/{uuid.uuid4()}/print").status_code == 404


def test_a_rigs_sections_are_saved_and_mistakes_stay_in_the_form(client):
    rig = made_rig(client)
    texts = {"chemistry": "agm", "capacity_ah": "80", "charge_pct": "100", "cable_ft": "30", "gauge": "16", "ambient_f": "68"}
    loads = {"unit_w": "60", "sonar_w": "60", "computer_w": "15", "other_w": "0"}
    saved = client.post(f"/rig/{rig}/power", data=texts | loads, headers=HTMX).text
    assert "Too low: under 11.5 V" in saved
    assert "qualified person" in saved
    bad = client.post(f"/rig/{rig}/power", data=texts | loads | {"gauge": "99"}, headers=HTMX)
    assert (bad.status_code, bad.headers["hx-retarget"]) == (422, "#rig-power")
    assert "Wire gauge is 99: it must be 4 to 22 AWG" in bad.text
    assert 'value="99"' in bad.text
    # What was saved stays; the card warns of it.
    assert client.get("/api/v1/rigs").json()["rigs"][0]["values"]["power"]["gauge"] == 16
    assert "Battery first" in client.get(f"/tune?card={made_card(client)}").text


def test_whatever_makes_another_rig_the_active_one_changes_the_lamps_screen(client, app, monkeypatch):
    used = []
    monkeypatch.setattr(app.state.house.sessions, "use_screen", lambda device, screen: used.append(screen.width_px))
    first = made_rig(client, "one")
    size = {"diagonal_in": "9", "width_px": "800", "height_px": "480", "distance_in": "30", "version": "1"}
    assert client.post(f"/rig/{first}/screen", data=size, headers=HTMX).status_code == 200
    second = made_rig(client, "two")
    client.post(f"/rig/{first}/active")
    client.post(f"/rig/{first}/delete")
    assert used == [1280, 800, 1280, 800, 1280]
    assert second in client.get("/rig").text


def test_a_rig_changed_elsewhere_is_not_overwritten(client):
    rig = made_rig(client)
    mine = {"console": "true", "live": "1", "version": "1"}
    assert client.post(f"/rig/{rig}/others", data=mine, headers=HTMX).status_code == 200
    refused = client.post(f"/rig/{rig}/others", data=mine | {"live": "3"}, headers=HTMX)
    assert refused.status_code == 409
    assert client.get("/api/v1/rigs").json()["rigs"][0]["values"]["others"]["live"] == 1


def test_own_words_are_matched_on_the_water_and_printed_beside_ours(client):
    rig = made_rig(client)
    made_card(client)
    assert "not matched yet" in client.get("/tune").text
    assert client.post(f"/rig/{rig}/match/theirs", data={"speckle": "58", "jig": "44"}, headers=HTMX).status_code == 422
    assert (
        "Its steps are 2"
        in client.post(f"/rig/{rig}/words/ghost_cut_db", data={"label": "Ghosts", "kind": "steps", "steps": "a,b"}, headers=HTMX).text
    )
    told = client.post(f"/rig/{rig}/words/gain", data={"label": "Sens", "kind": "percent"}, headers=HTMX).text
    assert "Compute both" in told
    started = client.post(f"/rig/{rig}/match", headers=HTMX)
    step = re.search(r'hx-post="([^"]+)"', started.text)[1].replace("&amp;", "&")
    deadline = time.monotonic() + PATIENCE_S
    while "hx-retarget" not in (answer := client.post(step, headers=HTMX)).headers:
        assert time.monotonic() < deadline
        time.sleep(0.05)
    assert "speckle at our" in answer.text
    assert "speckle must be the higher" in client.post(f"/rig/{rig}/match/theirs", data={"speckle": "40", "jig": "44"}, headers=HTMX).text
    assert "Our Gain 55 is Sens" in client.post(f"/rig/{rig}/match/theirs", data={"speckle": "58", "jig": "44"}, headers=HTMX).text
    assert re.search(r"Sens \d+ ± \d", client.get(f"/tune?card={made_card(client)}").text)


def test_aim_lures_and_rods(client):
    rig = made_rig(client)
    assert (
        "Dial in an aim correction of 5° clockwise"
        in client.post(f"/rig/{rig}/aim", data={"bearing_deg": "30", "shown_deg": "25"}, headers=HTMX).text
    )
    assert client.post(f"/rig/{rig}/aim", data={"bearing_deg": "x"}, headers=HTMX).status_code == 422
    box = client.post(
        f"/rig/{rig}/lures", data={"kind": "jig", "head_oz": "0.0313", "material": "lead", "weight_oz": "0.05"}, headers=HTMX
    ).text
    assert "1/32 oz lead jig" in box
    assert "It will tangle" in box
    box = client.post(f"/rig/{rig}/rods", data={"name": "Long one", "length_ft": "12", "line": "braid"}, headers=HTMX).text
    lure, rod = re.search(r'/lures/([0-9a-f-]+)"', box)[1], re.search(r'/rods/([0-9a-f-]+)/lure"', box)[1]
    assert f'value="{lure}" selected' in client.post(f"/rig/{rig}/rods/{rod}/lure", data={"lure": lure}, headers=HTMX).text
    assert client.post(f"/rig/{rig}/rods/{rod}/lure", data={"lure": "fly"}, headers=HTMX).status_code == 422
    assert client.post(f"/rig/{rig}/lures", data={"kind": "jig"}, headers=HTMX).status_code == 422


def test_the_api_answers_with_a_card_in_figures(client):
    answer = client.post(
        "/api/v1/tune", json={"answers": {"depth_ft": 20, "clarity": "muddy", "target": "bass", "technique": "cast"}, "style": "raw"}
    )
    rows = answer.json()["card"]
    assert [row["control"] for row in rows][:3] == ["down_to_ft", "reach_ft", "gain"]
    assert rows[2]["styles"]["raw"] == {"value": rows[2]["start"], "cost": rows[2]["styles"]["raw"]["cost"]}
    assert set(rows[2]["styles"]["clean"]["cost"]) == {"lure_over_clutter_db", "faintest_fish_db", "clutter_fill_pct", "lag_ms"}
    bad = client.post("/api/v1/tune", json={"answers": {"depth_ft": 20, "fish_to_ft": 30}})
    assert bad.json()["error"]["message"].startswith("answers.fish_to_ft: Fish down to is 30 ft: it must be 0 to 20 ft")
    assert "answers.bait is not a question" in client.post("/api/v1/tune", json={"answers": {"bait": "x"}}).json()["error"]["message"]


def test_naming_the_angler_brings_the_browsers_rig_along(client, engine):
    made_rig(client, "skiff")
    client.post("/angler", data={"name": "Kim"})
    assert "skiff" in client.get("/rig").text
    assert len(rig_store.rigs(engine, client.owner)) == 1


def test_looking_at_a_card_changes_nothing(client, app, engine):
    key = made_card(client)
    before = cards.card(engine, client.owner, uuid.UUID(key))
    for path in (f"/tune?card={key}", f"/tune/cards/{key}", f"/tune/cards/{key}/print", f"/tune/cards/{key}/card.pdf", "/tune/stale"):
        assert client.get(path, headers=HTMX).status_code in (200, 204)
    gone = client.get(f"/tune/cards/{key}/costs?job={uuid.uuid4()}", headers=HTMX)
    assert "no longer running" in gone.text
    assert cards.card(engine, before.owner, before.id) == before
    assert app.state.house.jobs._all == {}


def test_a_stale_card_is_told_of_only_when_it_is(client):
    assert client.get("/tune/stale", headers=HTMX).status_code == 204
    made_card(client, latitude_deg="35", longitude_deg="-90")
    assert client.get("/tune/stale", headers=HTMX).status_code == 204
