"""What anglers said of tracks, as samples to learn from beside those of drawn waters."""

import uuid
from collections.abc import Mapping, Sequence

import numpy as np
from sqlalchemy import Engine

from mudlamp.core.tracking.classes import FishClass, kind_of
from mudlamp.core.tracking.cuts import REACHES
from mudlamp.core.tracking.track import KINDS
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.services.training.classes import CLASS_OF
from mudlamp.services.training.samples import SPECIES, Samples
from mudlamp.store.corrections import Corrected, corrected_tracks

# A class stands for its first species: only the class is learned.
_SPECIES_OF = {of: SPECIES.index(species.value) for species, of in reversed(CLASS_OF.items())}


def corrections(engine: Engine) -> list[Samples]:
    """Return the samples of all tracks that anglers corrected, session by session; those of the demo are left out, and looks with other traits."""
    sessions: dict[uuid.UUID, list[Corrected]] = {}
    for one in corrected_tracks(engine):
        sessions.setdefault(one.session_id, []).append(one)
    return [samples for samples in map(as_samples, sessions.values()) if len(samples)]


def as_samples(tracks: Sequence[Corrected]) -> Samples:
    """Return the samples that corrected tracks are, look by look.

    What is no look of this release, as an archive from elsewhere may bring it, is left out.
    """
    rows = [(FishClass(one.said), look) for one in tracks if one.said in set(FishClass) for look in one.looks if _is_whole(look)]
    count = len(rows)
    return Samples(
        traits=np.array([_traits(look) for _, look in rows], dtype=np.float32).reshape(count, len(TRAITS)),
        kinds=np.array([KINDS.index(kind_of(said)) for said, _ in rows], dtype=np.int64),
        species=np.array([_SPECIES_OF.get(said, -1) for said, _ in rows], dtype=np.int64),
        side_on=np.zeros(count, dtype=bool),
        length_m=np.full(count, np.nan),
        reaches=np.full((count, len(REACHES)), np.nan, dtype=np.float32),
    )


def _is_whole(look: object) -> bool:
    """Return whether something out of the database has every trait, each a number or None."""
    return (
        isinstance(look, Mapping)
        and look.keys() == set(TRAITS)
        and all(value is None or isinstance(value, int | float) for value in look.values())
    )


def _traits(look: Mapping[str, float | None]) -> list[float]:
    return [np.nan if (value := look[name]) is None else value for name in TRAITS]
