import threading
import time
import uuid

import pytest

from mudlamp.core.errors import DomainError, UnavailableError
from mudlamp.services.jobs import AT_ONCE, Jobs, JobState, Turnstile, WorkedOut
from tests.patience import PATIENCE_S, until


@pytest.fixture
def jobs():
    found = Jobs()
    yield found
    found.end_all()


def test_one_client_cannot_keep_others_from_their_turn(jobs):
    go, order = threading.Event(), []

    def work(name):
        def done(_job):
            go.wait(PATIENCE_S)
            order.append(name)
            return name

        return done

    greedy, patient = uuid.uuid4(), uuid.uuid4()
    for number in range(2):
        jobs.start(greedy, "much", work(f"greedy {number}"))
    with pytest.raises(UnavailableError, match="2 pieces of work of yours are under way"):
        jobs.start(greedy, "more", work("greedy too many"))
    others = [jobs.start(uuid.uuid4(), "some", work("other")) for _ in range(3)]
    last = jobs.start(patient, "little", work("patient"))
    go.set()
    until(lambda: last.over and all(one.over for one in others))
    assert order.count("other") == 3
    assert "greedy too many" not in order


def test_a_free_place_goes_to_who_has_the_fewest_running(jobs):
    gates = {name: threading.Event() for name in "abcd"}
    started = []

    def work(name):
        def done(_job):
            started.append(name)
            gates[name].wait(PATIENCE_S)
            return name

        return done

    greedy, other, third = uuid.uuid4(), uuid.uuid4(), uuid.uuid4()
    jobs.start(greedy, "a", work("a"))
    jobs.start(other, "b", work("b"))
    until(lambda: len(started) == AT_ONCE)
    jobs.start(greedy, "c", work("c"))
    jobs.start(third, "d", work("d"))
    gates["b"].set()
    until(lambda: len(started) == 3)
    assert started[2] == "d"
    for gate in gates.values():
        gate.set()


def test_equal_work_of_a_client_is_one_job(jobs):
    go, client = threading.Event(), uuid.uuid4()

    def work(_job):
        go.wait(PATIENCE_S)
        return "done"

    first = jobs.start(client, "match", work, same=("match", 1))
    assert jobs.start(client, "match", work, same=("match", 1)) is first
    assert jobs.start(uuid.uuid4(), "match", work, same=("match", 1)) is not first
    go.set()
    until(lambda: first.over)
    assert first.view().state is JobState.DONE
    assert jobs.start(client, "match", work, same=("match", 1)) is not first


def test_equal_questions_are_worked_out_once_and_a_failure_is_not_remembered(jobs):
    answers, counted = WorkedOut(), []

    def ask(question, work):
        return answers.of(question, lambda job: jobs.start(uuid.uuid4(), "answer", job), work)

    def right():
        counted.append(1)
        time.sleep(0.2)
        return 42

    heard = []
    asking = [threading.Thread(target=lambda: heard.append(ask("what", right))) for _ in range(6)]
    for one in asking:
        one.start()
    for one in asking:
        one.join(PATIENCE_S)
    assert heard == [42] * 6
    assert len(counted) == 1

    def wrong():
        raise DomainError("no")

    with pytest.raises(DomainError):
        ask("else", wrong)
    assert ask("else", lambda: 7) == 7


def test_a_turnstile_lets_a_few_wait_and_turns_the_others_away():
    door, go, inside = Turnstile("sheets", at_once=1, waiting=2), threading.Event(), []

    def go_through():
        with door.through():
            inside.append(1)
            go.wait(PATIENCE_S)

    going = [threading.Thread(target=go_through) for _ in range(3)]
    for one in going:
        one.start()
    until(lambda: door._inside == 3)
    with pytest.raises(UnavailableError, match="too many ask for sheets at once"), door.through():
        pass
    assert len(inside) == 1
    go.set()
    for one in going:
        one.join(PATIENCE_S)
    with door.through():
        assert len(inside) == 3
