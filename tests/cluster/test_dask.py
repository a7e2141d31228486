"""Workers of a cluster find what threads find, to the last digit, though one is lost on the way."""

import os
import signal

import pytest
from dask.distributed import LocalCluster
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.cluster.dask import NoCluster, Workers
from jostle.core.tuning.judges import Threads
from jostle.core.tuning.search import search
from jostle.demo import PLAN
from tests.core.tuning.test_search import AMOUNT, BUSY, THRESHOLD, goal
from tests.plans import plan

SETS = 20


def test_a_cluster_that_loses_a_worker_finds_what_threads_find():
    lost = []
    with LocalCluster(n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None) as cluster:

        def tell(found):
            if len(found.sets) >= 6 and not lost:
                lost.append(next(iter(cluster.workers.values())).pid)
                os.kill(lost[0], signal.SIGKILL)
            return True

        workers = Workers(cluster.scheduler_address)
        elsewhere = search(goal(plan(**BUSY)), [THRESHOLD, AMOUNT], SETS, tell=tell, judges=workers)
        workers.close()
    here = search(goal(plan(**BUSY)), [THRESHOLD, AMOUNT], SETS, judges=Threads())
    assert lost
    assert [one.model_dump_json() for one in elsewhere.sets] == [one.model_dump_json() for one in here.sets]
    assert elsewhere.chosen == here.chosen is not None
    assert elsewhere.confirmed == here.confirmed


def test_where_no_scheduler_answers_it_says_so():
    done = CliRunner().invoke(app, ["tune", str(PLAN), "--group", "tryout", "--sets", "4", "--scheduler", "tcp://127.0.0.1:9"])
    assert done.exit_code == 2
    assert "no scheduler answers at tcp://127.0.0.1:9" in done.output.replace("\n", " ")
    with pytest.raises(NoCluster, match="no scheduler answers at nowhere"):
        Workers("nowhere://1")
