"""A session that died, made again: the same water, and the set-up that was last on it."""

import uuid
from collections.abc import Sequence

from mudlamp.core.errors import MissingError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.log import SessionDetail
from mudlamp.core.setup import Setting, settings_of
from mudlamp.formats.scene.file import NAMED
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.messages import SetControls
from mudlamp.services.live.registry import Sessions
from mudlamp.services.water.plans import Waters


def open_again(
    sessions: Sessions, waters: Waters, detail: SessionDetail, *, device: uuid.UUID, angler_id: uuid.UUID | None, screen: Screen
) -> SessionHandle:
    """Return a new session on the water of a logged one, with its last set-up.

    Raises MissingError where the water is not known any more: a scene file or a recording of before the application started again.
    """
    session_id, scene = detail.summary.id, detail.summary.scene
    known = sessions.plan_of(device, session_id)
    if known is None and (detail.summary.source != "simulated" or scene not in NAMED):
        raise MissingError("Its water is not known any more. Pick one from the list of waters.")
    plan, seed = (waters.stock(scene), None) if known is None else known
    session = sessions.open(device, plan, angler_id=angler_id, screen=screen, seed=seed, anew=True)
    settings = _last_set(detail)
    # What was recorded with cannot be changed: a recording brings its own.
    if settings and plan.source == "simulated":
        session.command(SetControls(values=tuple(settings)))
    return session


def _last_set(detail: SessionDetail) -> Sequence[Setting]:
    return settings_of(detail.setups[-1].values) if detail.setups else ()
