"""Warming up: every kernel is compiled (or loaded from its cache) before somebody waits for it."""

from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.core.tracking.reacting import ReactionWatch
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.scene_file import load_scene
from mudlamp.heads.simulated import SimulatedHead


def warm_up() -> None:
    """Run a few pings through everything, with every kind of receiver step on."""
    head, tracker, watch = SimulatedHead(load_scene("pear-tree"), seed=0), Tracker(), ReactionWatch()
    receiver = Receiver(ReceiverSetup(quieting_pings=2, ghost_cut_db=28.0))
    for number in range(6):
        ping = head.listen(number / 20.0)
        receiver.develop(ping)
        tracker.update(ping)
        watch.update(tracker, ping)
    head.truth()
