"""The Find page, and the list of where to look first."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.casting.solve import Mood
from mudlamp.core.records.spots import SPOT_KINDS
from mudlamp.core.scene.places import BAND_M, Season
from mudlamp.core.searching.boat import TRUE_SPEED_M_S
from mudlamp.core.sonar.console import VIEWS
from mudlamp.core.units import FOOT_M, MPH_M_S, degf_from_degc
from mudlamp.services.edge.controls import EDGE, EdgeControl
from mudlamp.services.find import plans
from mudlamp.services.find.desk import CONTROLS, PACES
from mudlamp.services.find.lookfirst import SPECIES, LookList, look_list
from mudlamp.services.find.waters import DEMO, reach_named, season_at
from mudlamp.services.words.find import VIEW_WORDS
from mudlamp.web.context import render

router = APIRouter(prefix="/find", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class KnobView:
    """A control of the pictures: its name, our word, its bounds and step, or its steps."""

    name: str
    label: str
    low: float
    high: float
    steps: Sequence[str]
    caption: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceView:
    """A view that can be opened: its name, our word, its carriers [kHz]."""

    name: str
    title: str
    carriers: Sequence[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class FindView:
    """The Find page."""

    water: str
    title: str
    temperature_f: int
    asked: plans.PlanAsked
    paces: Sequence[int]
    views: Sequence[ChoiceView]
    knobs: Sequence[KnobView]
    kinds: Sequence[str]
    seasons: Sequence["SeasonView"]
    moods: Sequence[Mood]
    true_mph: tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonView:
    """A season with its depth band [ft]."""

    name: str
    low_ft: int
    high_ft: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LookFirstView:
    """Where to look first: what was asked, and the list."""

    seasons: Sequence[Season]
    species: Sequence[str]
    chosen_species: str
    temperature_f: int
    found: LookList


def _knob(edge: EdgeControl) -> KnobView:
    low, high = edge.bounds
    return KnobView(
        name=edge.name,
        label=edge.label,
        low=low,
        high=high,
        steps=[f"{step:g}" for step in edge.control.steps],
        caption=edge.caption or edge.unit,
    )


@router.get("")
def find(request: Request) -> HTMLResponse:
    """Show the Find page."""
    reach = reach_named(DEMO)
    view = FindView(
        water=DEMO,
        title=reach.title,
        temperature_f=round(degf_from_degc(reach.water.temperature_degc)),
        asked=plans.first_ask(reach),
        paces=[int(pace) for pace in PACES],
        views=[
            ChoiceView(name=kind.value, title=VIEW_WORDS[kind.value], carriers=[round(hz / 1000.0) for hz in profile.carriers_hz])
            for kind, profile in VIEWS.items()
        ],
        knobs=[_knob(EDGE[control]) for control in CONTROLS],
        kinds=SPOT_KINDS,
        moods=tuple(Mood),
        true_mph=(TRUE_SPEED_M_S[0] / MPH_M_S, TRUE_SPEED_M_S[1] / MPH_M_S),
        seasons=[
            SeasonView(name=season.value, low_ft=round(low / FOOT_M), high_ft=round(high / FOOT_M))
            for season, (low, high) in BAND_M.items()
        ],
    )
    return render(request, "find/page.html", view)


@router.get("/look-first")
def look_first(
    request: Request,
    season: Season | None = None,
    species: Annotated[str, Query(pattern=f"^({'|'.join(SPECIES)})$")] = SPECIES[0],
    temperature_f: Annotated[float, Query(ge=32.0, le=100.0)] = 58.0,
    warming: bool = False,
) -> HTMLResponse:
    """Show where to look first, without any chart: by season, or by the water's temperature and whether it is warming."""
    chosen = season or season_at(temperature_f, warming=warming)
    view = LookFirstView(
        seasons=tuple(Season),
        species=SPECIES,
        chosen_species=species,
        temperature_f=round(temperature_f),
        found=look_list(chosen, species),
    )
    return render(request, "find/look_first.html", view)
