"""A worked card of the demo's water, for whoever has none of their own yet."""

import threading
import uuid
from functools import lru_cache

from mudlamp.core.advice.styles import Style
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.setup import values_of
from mudlamp.services.cards import questions
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.measuring import measured
from mudlamp.services.cards.stored import answers_json, made_plan, measured_json, plan_json
from mudlamp.services.demo import SPACE, TRIPS, demo_rig
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.words.labels import labels_of

ANSWERS = {
    "technique": "pitch", "target": "crappie", "depth_ft": "20", "clarity": "stained", "bottom": "sand", "cover": "brush",
    "fish_from_ft": "8", "fish_to_ft": "16", "wind_mph": "5", "water_f": "58",
}  # fmt: skip


# On as few waters as something can be believed on: it must be there soon after the start.
WATERS = 3
EXAMPLE_KEY = uuid.uuid5(SPACE, "card")
_ONE_AT_A_TIME = threading.Lock()


def example_card() -> OpenCard:
    """Return the demo's card: the pear tree's water on the demo's boat, its costs measured; worked out once, and nobody's."""
    with _ONE_AT_A_TIME:
        return _made()


@lru_cache(maxsize=1)
def _made() -> OpenCard:
    made = TRIPS[-1].day
    asked = questions.ask(ANSWERS, now=made)
    if asked.answers is None:
        raise RuntimeError(f"the demo's answers are wrong: {asked.problems}")
    aboard = Aboard(rig=demo_rig(), lure=BoxedLure())
    plan = made_plan(asked.answers, aboard, style=Style.BALANCED)
    found = measured(plan, labels_of(None), count=WATERS)
    key = EXAMPLE_KEY
    row = KeptCard(
        id=key, owner=key, rig_id=None, parent_id=None, name=None, style=Style.BALANCED.value, answers=answers_json(asked.texts, aboard),
        plan=plan_json(plan), values=values_of(plan.card.start.window, plan.card.start.receiver), costs=measured_json(found), tuned=None,
        created_at=made, noticed_at=None,
    )  # fmt: skip
    return OpenCard(kept=row, plan=plan, setup=plan.card.start, measured=found, tuned=None)
