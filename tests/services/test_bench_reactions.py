import pytest

from mudlamp.core.score.reactions import Claim, Happened
from mudlamp.services.bench.reactions import ENOUGH, Run, bench_reactions, figures, reaction_jobs, short_of, totals


def run(truth, told, *, null=False):
    return Run(truth=truth, told=told, minutes=1.0, null=null)


def looked(time_s, fish="a"):
    return Happened(time_s=time_s, fish=fish, token="looked")


def claim(time_s, fish="a"):
    return Claim(time_s=time_s, fish=fish, token="looked", told_s=time_s + 0.5)


def test_runs_add_up_and_waters_with_nothing_to_tell_count_apart():
    runs = [run([looked(1.0), looked(20.0)], [claim(1.2)]), run([looked(3.0)], [claim(3.1), claim(9.0)]), run([], [claim(4.0)], null=True)]
    found = figures(runs)
    row = found.tokens["looked"]
    assert (row.full, row.claims, row.precision) == (3, 3, 0.67)
    assert found.null_claims_in_30_min == pytest.approx(30.0)
    assert found.median_error_s == pytest.approx(0.15)
    assert found.told_within_1_s == 1.0
    assert found.macro_f1_full is None
    assert "looked" in found.short


def test_more_waters_are_drawn_until_every_token_but_the_rare_ones_has_enough_cases():
    scores = totals([run([looked(20.0 * i) for i in range(ENOUGH)], [])])
    assert "looked" not in short_of(scores)
    assert "bit" in short_of(scores)
    assert "hit_weight" not in short_of(scores)


def test_a_water_is_watched_and_scored():
    jobs = reaction_jobs(range(900, 904), seconds=6.0)
    assert jobs
    assert all(job.scene.angler is not None and job.scene.fish_count for job in jobs)
    shares = []
    found = bench_reactions(jobs[:2], progress=shares.append)
    assert shares[-1] == 1.0
    assert found.waters == 2
    nothing = reaction_jobs(range(900, 916), seconds=6.0)
    assert any(job.scene.angler is None for job in nothing)
    assert any(not job.scene.fish_count for job in nothing)
