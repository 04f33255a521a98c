"""Work over many waters: the same answer from local processes and from a Dask cluster on loopback, also where a worker is killed."""

import os
import signal
import time
from functools import partial

import pytest
from distributed import LocalCluster

from mudlamp.core.errors import DomainError
from mudlamp.formats.scene.file import load_scene
from mudlamp.services.bench.following import bench_following, jobs_of
from mudlamp.services.crew import Crew


@pytest.fixture(scope="module")
def cluster():
    """A scheduler and two workers."""
    with LocalCluster(n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None, silence_logs=50) as found:
        yield found


def squared(number):
    return number * number


def slow(marks, number):
    """Leave a mark of who works on it, then work for a while."""
    with open(os.path.join(marks, f"{number}-{os.getpid()}"), "x"):
        pass
    time.sleep(1.5)
    return number


def test_results_come_in_the_order_of_the_items_wherever_they_are_worked_out(cluster):
    for address in (None, cluster.scheduler_address):
        with Crew(workers=2, cluster=address) as crew:
            assert list(crew.each(squared, range(7))) == [0, 1, 4, 9, 16, 25, 36]


def test_a_bench_gives_the_same_figures_on_a_cluster(cluster):
    jobs = jobs_of([load_scene("lone"), load_scene("pear-tree")], [902], seconds=1.0, drawn=False)
    assert bench_following(jobs, cluster=cluster.scheduler_address) == bench_following(jobs)


def test_what_a_killed_worker_was_at_is_done_again(cluster, tmp_path):
    with Crew(cluster=cluster.scheduler_address) as crew:
        found = crew.each(partial(slow, str(tmp_path)), range(4))
        first = next(found)
        # The worker that is at one of the others by now.
        at_work = sorted(tmp_path.iterdir(), key=lambda path: path.stat().st_mtime_ns)[-1]
        os.kill(int(at_work.name.partition("-")[2]), signal.SIGKILL)
        assert [first, *found] == [0, 1, 2, 3]
    numbers = [path.name.partition("-")[0] for path in tmp_path.iterdir()]
    assert len(numbers) > len(set(numbers))


@pytest.mark.parametrize(
    ("address", "said"), [("127.0.0.1:8786", "it must be a scheduler's address"), ("tcp://127.0.0.1:9", "no scheduler answers")]
)
def test_an_address_that_is_none_or_where_nobody_answers_is_said(address, said, monkeypatch):
    monkeypatch.setattr("mudlamp.services.crew.PATIENCE_S", 1)
    with pytest.raises(DomainError, match=said):
        Crew(cluster=address)
