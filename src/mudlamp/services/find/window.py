"""A window of the large water: what is really there about a place, and the scene that the live fan is lowered into."""

import math
from dataclasses import replace

from mudlamp.core.controls import DOWN_TO
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.reach_water import ReachWater
from mudlamp.core.units import FOOT_M
from mudlamp.services.find.line import Thing
from mudlamp.services.find.waters import to_earth

# How far about the boat the window goes [m]: the live fan reaches no farther, and its grid of the ground fits in.
HALF_M = 70.0
NEAR_M = 45.0
MOST_FISH = 180
REACH_M = 18.0


def things_at(water: ReachWater, at_m: tuple[float, float], within_m: float, time_s: float) -> list[Thing]:
    """Return what is within a distance [m] of a place now, nearest first: fish, bait, cover."""
    reach, found = water.reach, []
    for school in water.roaming.near(*at_m, within_m):
        middle, plan = school.middle_m(time_s), school.plan
        found.append(
            Thing(
                what=plan.species.value,
                count=plan.count,
                x_m=float(middle[0]),
                y_m=float(middle[1]),
                z_m=float(middle[2]),
                size_m=0.5 * (plan.shortest_m + plan.longest_m),
            )
        )
    for cloud in water.roaming.clouds:
        middle = cloud.center_m(time_s)
        found.append(Thing(what="bait", count=1, x_m=float(middle[0]), y_m=float(middle[1]), z_m=float(middle[2]), size_m=cloud.radius_m))
    for number in water.cover_near(*at_m, within_m):
        cover = reach.cover[number]
        floor = reach.survey.depth_at(cover.x_m, cover.y_m)
        found.append(Thing(what=type(cover).__name__.lower(), count=1, x_m=cover.x_m, y_m=cover.y_m, z_m=floor, size_m=0.0))
    near = [one for one in found if math.dist((one.x_m, one.y_m), at_m) < within_m + 1.0]
    return sorted(near, key=lambda one: math.dist((one.x_m, one.y_m), at_m))


def _moved(cover: model.Cover, by_m: tuple[float, float]) -> model.Cover:
    """Return a piece of cover in a frame whose origin is another place [m]."""
    moved = replace(cover, x_m=cover.x_m - by_m[0], y_m=cover.y_m - by_m[1])
    if isinstance(moved, model.Weeds) and moved.pocket_m > 0.0:
        return replace(moved, pocket_x_m=moved.pocket_x_m - by_m[0], pocket_y_m=moved.pocket_y_m - by_m[1])
    return moved


def window_of(water: ReachWater, at_m: tuple[float, float], heading_rad: float, time_s: float) -> model.Scene:
    """Return the scene about a place [m], the boat held there and heading so [rad], fish where they are now; its origin is the boat."""
    reach = water.reach
    numbers = water.cover_near(*at_m, NEAR_M)
    fish = []
    for school in water.roaming.near(*at_m, NEAR_M):
        plan = school.plan
        for place, body in zip(school.places_m(time_s), school.length_m, strict=True):
            if math.dist(place[:2], at_m) < NEAR_M:
                fish.append(
                    model.FishGroup(
                        species=plan.species,
                        count=1,
                        x_m=float(place[0]) - at_m[0],
                        y_m=float(place[1]) - at_m[1],
                        z_m=float(place[2]),
                        spread_m=0.0,
                        rise_m=0.0,
                        shortest_m=float(body),
                        longest_m=float(body),
                        mood=plan.mood,
                    )
                )
    fish.sort(key=lambda one: math.hypot(one.x_m, one.y_m))
    bait = [
        replace(plan, x_m=float(middle[0]) - at_m[0], y_m=float(middle[1]) - at_m[1], z_m=float(middle[2]))
        for plan, middle in (
            (cloud_plan, cloud.center_m(time_s)) for cloud_plan, cloud in zip(reach.bait, water.roaming.clouds, strict=True)
        )
        if math.dist(middle[:2], at_m) < NEAR_M
    ]
    depth = reach.survey.depth_at(*at_m)
    longitude, latitude = to_earth([at_m[0]], [at_m[1]])
    return model.Scene(
        name=reach.name,
        title=reach.title,
        teaches="",
        water=reach.water,
        bottom=model.BottomPlan(
            ground=Ground.MUD,
            depth_m=round(depth, 2),
            slope_east=0.0,
            slope_north=0.0,
            relief_m=0.0,
            relief_length_m=5.0,
            survey=reach.survey.window(*at_m, HALF_M),
        ),
        surface=True,
        noise=True,
        boat=model.Boat(
            x_m=0.0,
            y_m=0.0,
            heading_rad=heading_rad,
            speed_m_s=0.0,
            sway_rad=math.radians(3.0),
            drift_m=0.4,
            pitch_rad=math.radians(0.4),
        ),
        transducer=model.Transducer(
            profile="demo",
            fan=Fan.AHEAD,
            depth_m=0.5,
            reach_m=REACH_M,
            down_to_m=DOWN_TO.held(max(15.0 * FOOT_M, round(1.2 * depth + 0.6, 1))),
            look_back_m=2.0 * FOOT_M,
            tilt_rad=None,
        ),
        cover=tuple(_moved(reach.cover[number], at_m) for number in numbers),
        cover_seeds=tuple(numbers),
        fish=tuple(fish[:MOST_FISH]),
        bait=tuple(bait),
        angler=model.ScriptedAngler(head_kg=0.00177),
        origin=replace(model.OPEN_SEA, latitude_deg=latitude[0], longitude_deg=longitude[0]),
    )
