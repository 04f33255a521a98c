"""What a cloud of bait is and does, in words."""

from collections.abc import Mapping

from mudlamp.core.plane import Place
from mudlamp.core.tracking.bait_watch import BaitDoing
from mudlamp.core.tracking.groups import Cloud
from mudlamp.core.units import feet

# Echoes to a square meter from which bait is packed, and under which it is thin.
PACKED_M2, THIN_M2 = 12.0, 4.0
# By a cloud's doing, also as it is kept.
DOING_WORDS: Mapping[str, str] = {BaitDoing.TIGHTENS: "bait tightens", BaitDoing.BURSTS: "bait bursts"}
# Common practice: what bait does tells where the hunter is.
WHY_WORDS = {
    BaitDoing.TIGHTENS: "something bigger is near it",
    BaitDoing.BURSTS: "a bigger fish shot through it. Throw there",
}


def cloud_words(cloud: Cloud, doing: BaitDoing | None = None) -> str:
    """Return the words on a cloud of bait, and on what it has just done."""
    if doing is not None:
        return DOING_WORDS[doing]
    return "bait, packed" if cloud.per_m2 > PACKED_M2 else "bait, thin" if cloud.per_m2 < THIN_M2 else "bait"


def bait_words(doing: BaitDoing, place: Place, *, flat: bool) -> str:
    """Return what bait did at a place by the boat [m]: ahead and down, or under a flat fan to the right; and why."""
    words = DOING_WORDS[doing]
    return f"{words[0].upper()}{words[1:]} {_where(place, flat=flat)}: {WHY_WORDS[doing]}."


def _where(place: Place, *, flat: bool) -> str:
    ahead, other = round(feet(place[0])), round(feet(place[1]))
    if not flat:
        return f"{ahead} ft ahead, {other} ft down"
    return f"{ahead} ft ahead" + (f", {abs(other)} ft {'right' if other > 0 else 'left'}" if other else "")
