"""What a session finds out about its set-ups beside the pings: the cheapest remedy, present prices, what auto would choose."""

from collections import deque
from collections.abc import Callable

from mudlamp.core.advice.auto import USUAL_LURE_DB, Choice, auto_down_to, auto_gain
from mudlamp.core.controls import GAIN, Control
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.trial import Price, Remedy, Sample
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.services.edge.controls import EDGE, of
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.pane import Pane
from mudlamp.services.live.told import ChangeTold, PriceTold, RemedyTold
from mudlamp.services.live.trials import Question, Trials
from mudlamp.services.words.readings import NO_PRICE, PRICE_FAILED, price_words, remedy_words

SAMPLES = 9
AUTO_PINGS = 4


class Remedies:
    """Keeps the newest pings and asks them; answers are told to the audience when they are there."""

    def __init__(self, audience: Audience) -> None:
        self._audience = audience
        self._trials = Trials()
        self._samples: deque[Sample] = deque(maxlen=SAMPLES)
        self._brings: tuple[str, ...] = ()

    def note(self, ping: Ping, truth: list[TruthRow] | None) -> None:
        """Keep a ping, with its truth where it was looked up."""
        self._samples.append((ping, truth))

    def choice(self, control: Control, setup: ReceiverSetup, lure_mark_db: float | None) -> Choice | None:
        """Return what the rule of a control would choose from the newest pings, or None where they do not tell.

        `lure_mark_db` is the strength of the lure tied on, where it is known [dB re 1 m^2].
        """
        pings = [ping for ping, _ in self._samples][-AUTO_PINGS:]
        if control is not GAIN:
            return auto_down_to(pings)
        return auto_gain(pings, setup, lure_mark_db=USUAL_LURE_DB if lure_mark_db is None else lure_mark_db)

    def _question(self, pane: Pane, whole: Window) -> Question | None:
        """Return the newest pings for a trial: with Quieting all of them, without only those whose truth is known."""
        every = tuple(self._samples)
        known = tuple(one for one in every if one[1] is not None)
        if not known:
            return None
        samples = known if pane.setup.quieting_pings == 1 else every
        return Question(setup=pane.setup, samples=samples, window=pane.seen(whole), settling_s=pane.receiver.settling_s)

    def ask_price(self, control: Control, pane: Pane, whole: Window) -> None:
        """Work out what a control costs now."""
        name = EDGE[control].name

        def tell(price: Price | None) -> None:
            self._audience.tell(PriceTold(control=name, now=PRICE_FAILED if price is None else price_words(price)))

        question = self._question(pane, whole)
        if question is None:
            self._audience.tell(PriceTold(control=name, now=NO_PRICE))
            return
        self._trials.ask_price(control.name, question, tell)

    def seek(self, pane: Pane, whole: Window, *, is_current: Callable[[ReceiverSetup], bool]) -> None:
        """Look for the cheapest change that brings back what the pane has erased; it is passed on if the set-up still is the current one."""
        question = self._question(pane, whole) if pane.meter.erased() else None
        if question is None:
            return
        setup = question.setup

        def tell(remedy: Remedy | None) -> None:
            if is_current(setup):
                self._tell(remedy_words(remedy, setup), remedy)

        self._trials.ask_remedy(question, tell)

    def _tell(self, words: str, remedy: Remedy | None) -> None:
        self._brings = () if remedy is None else remedy.brings
        change = None if remedy is None else ChangeTold(control=of(remedy.control).name, value=of(remedy.control).value(remedy.value))
        self._audience.tell(RemedyTold(words=words, change=change))

    def drop(self) -> None:
        """Take back what was told."""
        self._tell("", None)

    def check(self, erased: tuple[str, ...]) -> None:
        """Take the remedy back where what it would bring shows already."""
        if self._brings and not set(self._brings) & set(erased):
            self.drop()
