import threading

import pytest

from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.services.live import trials
from mudlamp.services.live.trials import Question, Trials
from tests.patience import PATIENCE_S

QUESTION = Question(setup=ReceiverSetup(), samples=(), window=Window(down_to_m=7.3, reach_m=12.2, look_back_m=0.6), settling_s=1.0)


@pytest.fixture
def broken(monkeypatch):
    def fail(*given, **more):
        raise ArithmeticError("no such figure")

    monkeypatch.setattr(trials, "present_price", fail)
    monkeypatch.setattr(trials, "cheapest_remedy", fail)


def test_a_price_that_fails_is_told_and_written_to_the_log(broken, capsys):
    told, done = [], threading.Event()
    Trials().ask_price("gain", QUESTION, lambda price: (told.append(price), done.set()))
    assert done.wait(PATIENCE_S)
    assert told == [None]
    said = capsys.readouterr()
    assert "trial failed" in said.out + said.err
    assert "no such figure" in said.out + said.err


def test_a_remedy_that_fails_does_not_block_the_next(broken, monkeypatch):
    found, done = Trials(), threading.Event()
    found.ask_remedy(QUESTION, lambda remedy: None)
    found._remedy.result(PATIENCE_S)
    monkeypatch.setattr(trials, "cheapest_remedy", lambda *given, **more: done.set() or trials_nothing())
    found.ask_remedy(QUESTION, lambda remedy: None)
    assert done.wait(PATIENCE_S)


def trials_nothing():
    from mudlamp.core.receiver.trial import Hidden

    return Hidden(lost=(), remedy=None)
