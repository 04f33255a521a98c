"""The list before launch: one's own, ticked off for today."""

import datetime as dt
import uuid

import pytest

from mudlamp.core.errors import DomainError
from mudlamp.services.log.launch import MOST_ITEMS, USUAL, LaunchDesk

TODAY, TOMORROW = dt.date(2026, 11, 26), dt.date(2026, 11, 27)


@pytest.fixture
def desk(engine, now):
    return LaunchDesk(engine, now=lambda: now)


def test_the_usual_list_stands_there_and_is_ticked_off_for_a_day(desk):
    owner = uuid.uuid4()
    assert desk.of(owner, TODAY).items == USUAL
    desk.tick(owner, USUAL[3], TODAY, done=True)
    desk.tick(owner, USUAL[1], TODAY, done=True)
    assert list(desk.of(owner, TODAY).done) == [USUAL[1], USUAL[3]]
    desk.tick(owner, USUAL[1], TODAY, done=False)
    assert list(desk.of(owner, TODAY).done) == [USUAL[3]]
    assert list(desk.of(owner, TOMORROW).done) == []
    assert list(desk.of(uuid.uuid4(), TODAY).done) == []


def test_a_list_of_ones_own_keeps_what_is_done_and_nothing_brings_the_usual_back(desk):
    owner = uuid.uuid4()
    desk.tick(owner, USUAL[0], TODAY, done=True)
    own = desk.write(owner, ["  Net ", USUAL[0], "", "Net", "Coffee"], TODAY)
    assert list(own.items) == ["Net", USUAL[0], "Coffee"]
    assert list(own.done) == [USUAL[0]]
    assert desk.of(owner, TODAY) == own
    assert desk.write(owner, [""], TODAY).items == USUAL


@pytest.mark.parametrize(
    ("lines", "said"), [(["x" * 200], "letters at most"), ([f"item {i}" for i in range(MOST_ITEMS + 1)], "30 at most")]
)
def test_a_list_that_cannot_be_is_refused_and_the_old_one_stays(desk, lines, said):
    owner = uuid.uuid4()
    desk.write(owner, ["Net"], TODAY)
    with pytest.raises(DomainError, match=said):
        desk.write(owner, lines, TODAY)
    assert list(desk.of(owner, TODAY).items) == ["Net"]


def test_the_page_ticks_writes_and_says_what_is_wrong(client):
    assert "8 to go" in client.get("/log").text
    assert "7 to go" in client.post("/log/launch/tick", data={"item": USUAL[0], "done": "1"}).text
    assert client.post("/log/launch/tick", data={"item": "nothing of ours", "done": "1"}).status_code == 422
    answer = client.post("/log/launch", data={"items": "Net\nCoffee"})
    assert "2 to go" in answer.text
    wrong = client.post("/log/launch", data={"items": "y" * 300})
    assert wrong.status_code == 422
    assert "letters at most" in wrong.text
    assert "textarea" not in wrong.text
    assert "2 to go" in client.get("/log").text
