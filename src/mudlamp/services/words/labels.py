"""Texts that name controls: written with `{gain}` and the like, filled with our words, or with those the angler typed for their own unit."""

from collections.abc import Mapping

from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.edge.controls import LABELS


def labels_of(rig: RigProfile | None) -> Mapping[str, str]:
    """Return what to call each control, by its core name: the angler's own word where one was typed, else ours."""
    own = {} if rig is None else {name: one.label for name, one in rig.words.items()}
    return {**LABELS, **own}


def say(text: str, labels: Mapping[str, str] = LABELS) -> str:
    """Return a text with its controls called by name."""
    return text.format(**labels)
