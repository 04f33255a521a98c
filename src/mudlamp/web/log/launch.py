"""The list before launch, on the Log page."""

from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.records.launch import LaunchList
from mudlamp.services.house import House
from mudlamp.web.context import At, Form, Visitor, Who, render
from mudlamp.web.times import local

router = APIRouter(include_in_schema=False)
PART = "log/_launch.html"


@dataclass(frozen=True, slots=True, kw_only=True)
class LaunchItemView:
    """An item: its text, and whether it is done today."""

    text: str
    done: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LaunchView:
    """The list: its items, how many are left, its text to be edited."""

    items: Sequence[LaunchItemView]
    left: int
    text: str


def launch_view(found: LaunchList) -> LaunchView:
    """Return the list's view."""
    items = tuple(LaunchItemView(text=one, done=one in found.done) for one in found.items)
    return LaunchView(items=items, left=sum(not one.done for one in items), text="\n".join(found.items))


def launch_of(house: House, who: Visitor) -> LaunchList:
    """Return somebody's list, as it stands today on their clock."""
    return house.launch.of(who.owner, local(house.now()).date())


@router.post("/log/launch/tick")
def tick(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Tick an item off, or take that back."""
    today = local(house.now()).date()
    return render(request, PART, launch_view(house.launch.tick(who.owner, given.get("item", ""), today, done="done" in given)))


@router.post("/log/launch")
def write(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Write the list anew, a line an item."""
    return render(request, PART, launch_view(house.launch.write(who.owner, given.get("items", "").splitlines(), local(house.now()).date())))
