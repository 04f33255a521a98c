"""Joining our Gain to the angler's own: a line through two points matched on the water, with its doubt."""

import math
from dataclasses import dataclass

from mudlamp.core.errors import DomainError

# Two points nearer together than this on our Gain say little about a slope.
LEAST_APART = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """One point: our figure with its standard error, theirs with its own (half a step of their scale, as a uniform error)."""

    ours: float
    ours_error: float
    theirs: float
    theirs_error: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Joined:
    """Their figure = `theirs` at `ours`, plus `slope` a step; errors of the two points propagate."""

    first: Match
    second: Match

    @property
    def slope(self) -> float:
        """Their steps for one of ours."""
        return (self.second.theirs - self.first.theirs) / (self.second.ours - self.first.ours)

    def at(self, ours: float) -> tuple[float, float]:
        """Return their figure for one of ours, and its standard error: both points' errors, weighed by how near they are.

        Source: propagation of independent errors through a line by two points.
        """
        share = (ours - self.first.ours) / (self.second.ours - self.first.ours)
        errors = [math.hypot(point.theirs_error, self.slope * point.ours_error) for point in (self.first, self.second)]
        return self.first.theirs + share * (self.second.theirs - self.first.theirs), math.hypot(
            (1.0 - share) * errors[0], share * errors[1]
        )


def joined(speckle: Match, jig: Match) -> Joined:
    """Return the line through two matched points; raise DomainError where they cannot make one.

    Speckle shows at a higher Gain than the one at which a hung jig vanishes, or at a lower: whichever it is, theirs must agree.
    """
    apart = speckle.ours - jig.ours
    if abs(apart) < LEAST_APART:
        raise DomainError(
            f"the two points are {abs(apart):.1f} steps of our gain apart: they must be at least {LEAST_APART:g}, in clearer water or over deeper"
        )
    if speckle.theirs == jig.theirs or (speckle.theirs > jig.theirs) != (apart > 0.0):
        more = "higher" if apart > 0.0 else "lower"
        raise DomainError(
            f"speckle is {speckle.theirs:g} and jig is {jig.theirs:g}: speckle must be the {more} of the two in this water; set both again"
        )
    first, second = sorted((speckle, jig), key=lambda point: point.ours)
    return Joined(first=first, second=second)
