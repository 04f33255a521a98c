import math
from dataclasses import replace

import pytest

from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.units import FOOT_M
from mudlamp.formats.learned import shipped
from mudlamp.services.live.casting import MOST_TOLD, casts_told
from mudlamp.services.water.role import FanLook


@pytest.fixture(scope="module")
def followed(pear_pings):
    tracker = Tracker(shipped())
    views = [tracker.update(ping) for ping, *_ in pear_pings[:90]][-1]
    ping = pear_pings[89][0]
    look = FanLook(
        fan=ping.setup.fan,
        tilt_rad=ping.pose.tilt_rad,
        fan_rad=2.0,
        thickness_rad=math.radians(18.0),
        depth_m=ping.pose.z_m,
        farthest_m=12.0,
    )
    return [view for view in views if view.kind is Kind.FISH], GroundPlane.of(ping), look


def told(views, plane, look, **changes):
    return casts_told(views, plane, look, **{"sink_m_s": 0.3, "rod_ahead_m": 2.4, "rod_up_m": 1.6, **changes})


def test_each_fish_that_can_be_thrown_at_has_a_cast_that_ends_over_it(followed):
    views, plane, look = followed
    casts = told([replace(view, velocity_m_s=(0.0, 0.0)) for view in views], plane, look)
    assert casts
    by_number = {view.number: view for view in views}
    for cast in casts:
        ahead, depth = plane.from_boat(by_number[cast.id].place)
        end, hold = cast.path[-1]
        assert cast.path[0] == pytest.approx((cast.splash_m, 0.0), abs=0.02)
        # Over the fish, or past it by the run that it is drawn over.
        assert -0.05 <= end - ahead <= 6.0 * FOOT_M + 0.05
        assert 0.0 <= depth - hold <= 1.6 * FOOT_M
        assert "count" in cast.said or "Too far" in cast.said
    assert len(casts) <= MOST_TOLD


def test_a_fish_that_swims_is_led_and_one_under_the_rod_tip_is_not_thrown_at(followed):
    views, plane, look = followed
    away = told([replace(views[0], velocity_m_s=(0.4, 0.0))], plane, look)
    assert "ahead of him" in away[0].said or "Too far" in away[0].said
    under = replace(views[0], place=(plane.origin[0] + 2.5, 4.0))
    assert told([under], plane, look) == []
