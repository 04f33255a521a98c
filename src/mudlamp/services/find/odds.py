"""Where schools could be, by season, band and chart."""

from mudlamp.core.scene.places import SCHOOLS_AT, Season
from mudlamp.core.searching.charted import Charted
from mudlamp.core.searching.coverage import Odds


def odds_for(water: Charted, band_m: tuple[float, float], season: Season | None = None) -> Odds:
    """Return the odds of a depth band [m] of a water in a season: the water's own, where none is given."""
    return Odds(water.chart, band_m, water.places, SCHOOLS_AT[season or water.season])
