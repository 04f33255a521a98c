"""Where schools could be, by season, band and chart."""

from mudlamp.core.scene.places import SCHOOLS_AT, Season
from mudlamp.core.scene.reach import Reach
from mudlamp.core.searching.coverage import Odds


def odds_for(reach: Reach, band_m: tuple[float, float], season: Season | None = None) -> Odds:
    """Return the odds of a depth band [m] of a reach in a season: the water's own, where none is given."""
    return Odds(reach.chart, band_m, reach.places, SCHOOLS_AT[season or reach.season])
