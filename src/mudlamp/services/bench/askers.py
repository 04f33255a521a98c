"""Answers as somebody may give them: anything that can be, most of it known. For benches and tests of cards."""

from collections.abc import Callable
from enum import StrEnum
from typing import TypeVar

import numpy as np

from mudlamp.core.advice.answers import Answers, BottomShape, CoverKind, Goal, Sky, Technique
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import FOOT_M

Drawn = TypeVar("Drawn")
Word = TypeVar("Word", bound=StrEnum)
DEPTH_M = (5.0 * FOOT_M, 80.0 * FOOT_M)


def drawn_answers(seed: int) -> Answers:
    """Return the answers of a seed; some cannot be true together (`answers.clashes`)."""
    rng = np.random.default_rng(seed)

    def may(share: float, draw: Callable[[], Drawn]) -> Drawn | None:
        return draw() if rng.random() < share else None

    def one_of(kind: type[Word]) -> Word:
        return kind(str(rng.choice([one.value for one in kind])))

    depth = float(np.exp(rng.uniform(*np.log(DEPTH_M))))
    fish = sorted(float(one) for one in rng.uniform(0.15, 1.0, 2) * depth)
    known, ice = rng.random() < 0.7, bool(rng.random() < 0.1)
    return Answers(
        goal=may(0.7, lambda: one_of(Goal)),
        target=may(0.8, lambda: one_of(Species)),
        technique=may(0.8, lambda: one_of(Technique)),
        depth_m=depth,
        shape=may(0.6, lambda: one_of(BottomShape)),
        fish_from_m=fish[0] if known else None,
        fish_to_m=fish[1] if known else None,
        ground=may(0.7, lambda: one_of(Ground)),
        cover=may(0.7, lambda: one_of(CoverKind)),
        secchi_m=may(0.8, lambda: float(0.3 * 2.0 ** rng.uniform(0.0, 4.2))),
        sky=may(0.7, lambda: one_of(Sky)),
        sun_rad=may(0.6, lambda: float(rng.uniform(-0.2, 1.2))),
        wind_m_s=None if ice else may(0.7, lambda: float(rng.uniform(0.0, 8.0))),
        temperature_degc=None if ice else may(0.6, lambda: float(rng.uniform(4.0, 30.0))),
        other_sonars=may(0.5, lambda: int(rng.integers(0, 3))),
        ice=ice,
    )
