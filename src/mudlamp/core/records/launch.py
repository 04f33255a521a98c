"""The list that is gone through before launch, as it is kept."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class LaunchList:
    """What is to be looked at before launch, and what of it is done on a day."""

    items: Sequence[str]
    done: Sequence[str]
    day: dt.date | None
