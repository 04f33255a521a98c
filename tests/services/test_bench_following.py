from mudlamp.formats.scene.file import load_scene
from mudlamp.services.bench.following import bench_following, jobs_of


def test_following_is_scored_with_the_hand_told_and_from_pings_alone():
    jobs = jobs_of([load_scene("pear-tree")], [902], seconds=5.0, drawn=True)
    assert [(job.drawn, job.seed) for job in jobs] == [(False, 902), (True, 902)]
    shares = []
    found = bench_following(jobs, progress=shares.append)
    assert shares == [0.5, 1.0]
    assert {"stock scenes", "drawn waters", "pear-tree", jobs[1].kind} <= set(found)
    row = found["pear-tree"]
    assert row.waters == 1
    for figures in (row.with_hand, row.from_pings):
        assert 0.2 < figures["covered"] <= 1.0
        assert 0.0 < figures["gospa_m"] < 3.0
    # With the lure in the hand it is not in the water.
    assert row.with_hand["lure_stray"] == 0.0
