from dataclasses import replace

import pytest

from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.services.bench.classes import Judge, Verdict, bench_classes, scored
from mudlamp.services.bench.following import jobs_of

FISH = TruthRow(
    time_s=0.0, id="f1", kind="fish", species="crappie", x_m=0.0, y_m=8.0, z_m=3.0, length_m=0.3, heading_rad=0.0, speed_m_s=0.1,
    range_m=8.0, angle_rad=0.1, across_rad=0.0, over_db=20.0, in_fan=True, seen=True, side_on=True,
)  # fmt: skip
PANFISH = Identity(odds={FishClass.PANFISH: 0.8, FishClass.BASS: 0.2}, name=FishClass.PANFISH, words=(), look=None)
VIEW = TrackView(
    number=4, kind=Kind.FISH, odds={}, place=(8.0, 3.0), world=(0.0, 8.0, 3.0), range_m=8.0, angle_rad=0.1, velocity_m_s=(0.0, 0.0),
    length_m=0.3, level_db=-40.0, coasting=False, age_s=5.0, identity=PANFISH,
)  # fmt: skip


def test_a_track_is_judged_once_it_was_fair_for_three_seconds_and_by_what_it_was_called_last():
    judge = Judge()
    for n in range(40):
        judge.add(0.1 * n, [VIEW], [replace(FISH, side_on=n != 5)])
        assert bool(judge.verdicts) == (n >= 36)
    assert judge.verdicts[4] == Verdict(true="panfish", called="panfish", sure=0.8)
    far = Judge()
    for n in range(40):
        far.add(0.1 * n, [replace(VIEW, range_m=13.0)], [replace(FISH, range_m=13.0)])
    assert not far.verdicts


def test_scores_are_those_of_a_table_by_hand():
    verdicts = [
        *[Verdict(true="panfish", called="panfish", sure=0.75)] * 3,
        Verdict(true="panfish", called="unknown", sure=0.75),
        Verdict(true="bass", called="panfish", sure=0.5),
        Verdict(true="bass", called="bass", sure=0.5),
        Verdict(true="bass", called=None, sure=0.0),
    ]
    found = scored(verdicts)
    assert found.f1 == {"panfish": pytest.approx(6.0 / 8.0), "bass": pytest.approx(0.5)}
    assert found.macro_f1 == pytest.approx(0.625)
    # At 0.75 three of four are right, at 0.5 one of two: as sure as they are right.
    assert found.error == 0.0
    assert scored([]).tracks == 0


def test_a_drawn_water_is_judged():
    found = bench_classes(jobs_of([], [907, 916], seconds=6.0, drawn=True))
    assert found.tracks >= 1
    assert 0.0 <= found.macro_f1 <= 1.0
    assert 0.0 <= found.error <= 1.0
