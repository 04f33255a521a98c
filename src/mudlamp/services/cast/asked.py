"""The cast as it is asked and answered at the edge: feet, ounces, miles an hour."""

import math
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.casting.habit import Habit
from mudlamp.core.casting.lures import LureKind
from mudlamp.core.casting.solve import Cast, CastQuery, Drift, Mood, Technique, solve
from mudlamp.core.errors import DomainError
from mudlamp.core.scene.species import Species
from mudlamp.core.units import MPH_M_S, OUNCE_KG, degc_from_degf, feet, meters
from mudlamp.core.water.clarity import Clarity
from mudlamp.services.words import cast as words


class CastAsked(BaseModel):
    """A cast asked for. Bearings [deg] are from the way to the fish, clockwise; wind and current by where they go."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    range_ft: float = Field(ge=2.0, le=190.0, description="how far the fish is on the unit [ft]")
    depth_ft: float = Field(ge=1.0, le=190.0, description="how deep the fish is [ft]")
    head_oz: float = Field(default=0.0625, ge=0.008, le=2.0, description="the head's weight [oz]")
    lure: LureKind = LureKind.JIG
    sink_ft_s: float | None = Field(default=None, ge=0.1, le=9.0, description="your own timed drop [ft/s]; else from weight and body")
    technique: Technique | None = Field(default=None, description="how; else by distance")
    slant: bool = Field(default=True, description="the unit shows range along the beam, not along the water")
    transducer_ft: float = Field(default=1.3, ge=0.0, le=10.0, description="how deep the transducer hangs [ft]")
    thickness_deg: float = Field(default=18.0, ge=2.0, le=60.0, description="the fan's thickness [deg]")
    spare_db: float | None = Field(
        default=None, ge=0.0, le=60.0, description="lure over what hides it [dB], from the card; else 3, assumed"
    )
    target: Species = Species.CRAPPIE
    above_ft: float = Field(default=1.5, ge=0.0, le=10.0, description="how far over the fish to hold the lure [ft]")
    rod_ft: float = Field(default=7.0, ge=2.0, le=20.0, description="the rod's length [ft]")
    tip_ft: float = Field(default=5.0, ge=0.0, le=16.0, description="how high the rod tip is over the water [ft]")
    slack: bool | None = Field(default=None, description="the line falls slack, or tight; else by technique")
    speed_mph: float | None = Field(default=None, ge=0.0, le=6.0, description="how fast the fish swims [mph]")
    heading_deg: float | None = Field(default=None, ge=-360.0, le=360.0, description="which way it swims: 0 straight away [deg]")
    wind_mph: float = Field(default=0.0, ge=0.0, le=55.0, description="the wind [mph]")
    wind_deg: float = Field(default=0.0, ge=-360.0, le=360.0, description="where the wind goes [deg]")
    current_mph: float = Field(default=0.0, ge=0.0, le=4.0, description="the current [mph]")
    current_deg: float = Field(default=0.0, ge=-360.0, le=360.0, description="where the current goes [deg]")
    clarity: Clarity = Clarity.STAINED
    temp_f: float | None = Field(default=None, ge=32.0, le=100.0, description="the water's temperature [deg F]")
    mood: Mood = Mood.USUAL
    long_pct: float = Field(default=0.0, ge=-50.0, le=50.0, description="you throw too far by [%]; short is less than 0")
    off_deg: float = Field(default=0.0, ge=-45.0, le=45.0, description="you throw too far right by [deg]; left is less than 0")


@dataclass(frozen=True, slots=True, kw_only=True)
class CastAnswer:
    """A cast as other scripts get it [ft, s]; `lead_ft` is None for a fish that is not said to move; `said` is what an angler is told."""

    said: str
    horizontal_ft: float
    cast_ft: float
    past_ft: float
    right_ft: float
    aim_ft: float
    aim_right_ft: float
    hold_ft: float
    countdown_s: float
    sink_ft_s: float
    side_tolerance_ft: float
    ring_ft: float
    lead_ft: float | None
    meet_s: float | None
    wait_s: float | None
    stand_off_ft: float
    too_close: bool
    technique: str
    why: str


def cast_of(asked: CastAsked) -> CastAnswer:
    """Return the cast; raise DomainError for figures that cannot be."""
    return answer_of(solved(asked)[1])


def solved(asked: CastAsked) -> tuple[CastQuery, Cast]:
    """Return what is asked, in SI, and the cast; raise DomainError for figures that cannot be, in the angler's units."""
    deepest_ft = asked.range_ft + asked.transducer_ft
    if asked.slant and asked.depth_ft > deepest_ft:
        raise DomainError(f"depth_ft is {asked.depth_ft:g}: {asked.range_ft:g} ft away along the beam it can be {deepest_ft:g} ft at most")
    query = query_of(asked)
    return query, solve(query)


def answer_of(found: Cast) -> CastAnswer:
    """Return a cast at the edge."""
    return CastAnswer(
        said=words.said(found),
        horizontal_ft=_ft(found.horizontal_m),
        cast_ft=_ft(found.cast_m),
        past_ft=_ft(found.past_m),
        right_ft=_ft(found.right_m),
        aim_ft=_ft(found.aim_m),
        aim_right_ft=_ft(found.aim_right_m),
        hold_ft=_ft(found.hold_m),
        countdown_s=round(found.fall.seconds, 1),
        sink_ft_s=_ft(found.sink_m_s),
        side_tolerance_ft=_ft(found.tolerance_m),
        ring_ft=_ft(found.ring_m if found.lead is None else found.lead.ring_m),
        lead_ft=None if found.lead is None else _ft(found.lead.ahead_m),
        meet_s=None if found.lead is None else round(found.lead.meet_s, 1),
        wait_s=None if found.lead is None else round(found.lead.wait_s, 1),
        stand_off_ft=_ft(found.stand_off_m),
        too_close=found.too_close,
        technique=found.technique.value,
        why=" ".join(words.reasons(found)),
    )


def query_of(asked: CastAsked) -> CastQuery:
    """Return what is asked, in SI."""
    return CastQuery(
        range_m=meters(asked.range_ft),
        depth_m=meters(asked.depth_ft),
        head_kg=asked.head_oz * OUNCE_KG,
        lure=asked.lure,
        sink_m_s=None if asked.sink_ft_s is None else meters(asked.sink_ft_s),
        technique=asked.technique,
        is_slant=asked.slant,
        transducer_m=meters(asked.transducer_ft),
        thickness_rad=math.radians(asked.thickness_deg),
        spare_db=asked.spare_db,
        species=asked.target,
        above_m=meters(asked.above_ft),
        rod_m=meters(asked.rod_ft),
        rod_tip_m=meters(asked.tip_ft),
        slack=asked.slack,
        speed_m_s=None if asked.speed_mph is None else asked.speed_mph * MPH_M_S,
        heading_rad=None if asked.heading_deg is None else math.radians(asked.heading_deg),
        wind=Drift(speed_m_s=asked.wind_mph * MPH_M_S, toward_rad=math.radians(asked.wind_deg)),
        current=Drift(speed_m_s=asked.current_mph * MPH_M_S, toward_rad=math.radians(asked.current_deg)),
        clarity=asked.clarity,
        temperature_degc=None if asked.temp_f is None else degc_from_degf(asked.temp_f),
        mood=asked.mood,
        habit=Habit(long=asked.long_pct / 100.0, right_rad=math.radians(asked.off_deg)),
    )


def _ft(length_m: float) -> float:
    # No minus before nothing.
    return round(feet(length_m), 1) + 0.0
