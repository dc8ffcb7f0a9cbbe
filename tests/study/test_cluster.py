"""Studies on a real Dask cluster on this machine: a scheduler and workers as processes of their own."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import pyarrow.parquet as pq
import pytest
from studies import BUILDS, SQUATS, bytes_of, command, design, finished, run_local, toml_of

from zesty_lever.problems import CaseError
from zesty_lever.study.cluster import check_address
from zesty_lever.study.folder import StudyFolder

pytestmark = pytest.mark.slow
LONGER = {**SQUATS, "samples": 6000}
ENVIRONMENT = {
    **os.environ,
    "DASK_DISTRIBUTED__ADMIN__LOW_LEVEL_LOG_LENGTH": "0",
    "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "2",
}


class Cluster:
    """A scheduler and its workers, each killed on its own."""

    def __init__(self, folder: Path, workers: int = 2, environment=ENVIRONMENT) -> None:
        self.folder, self.environment = folder, environment
        self.log = (folder / "cluster.log").open("wb")
        own = folder / "scheduler.json"
        self.scheduler = self.start(
            "dask_scheduler",
            "--host",
            "127.0.0.1",
            "--port",
            "0",
            "--no-dashboard",
            "--scheduler-file",
            own,
        )
        self.address = self.told(own)
        self.workers = [self.add_worker() for _ in range(workers)]

    def start(self, what, *words, environment=None):
        return subprocess.Popen(
            [sys.executable, "-m", f"distributed.cli.{what}", *map(str, words)],
            stdout=self.log,
            stderr=self.log,
            env=environment or self.environment,
            cwd=self.folder,
        )

    def told(self, own):
        end = time.monotonic() + 60
        while time.monotonic() < end:
            try:
                return json.loads(own.read_text())["address"]
            except (OSError, ValueError):
                time.sleep(0.05)
        raise AssertionError("the scheduler did not start")

    def add_worker(self, environment=None):
        return self.start(
            "dask_worker",
            self.address,
            "--nthreads",
            "1",
            "--no-nanny",
            "--no-dashboard",
            environment=environment,
        )

    def close(self):
        for process in (*self.workers, self.scheduler):
            process.kill()
            process.wait()
        self.log.close()


@pytest.fixture
def cluster(tmp_path):
    made = Cluster(tmp_path)
    yield made
    made.close()


@pytest.fixture(scope="module")
def whole(tmp_path_factory):
    out = tmp_path_factory.mktemp("whole")
    assert run_local(design(LONGER), out)[0].there == 188
    return out


def run_on(cluster, study, out, *more, **kinds):
    return finished(
        "study", "run", study, "--out", out, "--scheduler", cluster.address, *more, **kinds
    )


def test_a_cluster_gives_the_same_bytes_with_and_without_a_shared_folder(cluster, tmp_path):
    run_local(design(), tmp_path / "local", workers=1)
    study = toml_of(tmp_path / "study.toml", BUILDS)
    for name, more in (("plain", ()), ("shared", ("--shared-folder",))):
        status, told, complaints = run_on(cluster, study, tmp_path / name, *more)
        assert status == 0, complaints
        assert told.startswith("6 of 6 parts are in")
        assert bytes_of(tmp_path / name) == bytes_of(tmp_path / "local")


def test_a_file_of_cases_is_sent_along(cluster, tmp_path):
    made = design()
    values = made.inputs.values(made.rows_of(0))
    import pyarrow as pa

    pq.write_table(pa.table(values), tmp_path / "cases.parquet")
    study = {
        **{k: v for k, v in BUILDS.items() if k not in ("vary", "samples", "seed")},
        "cases": "cases.parquet",
        "part_rows": 16,
    }
    path = toml_of(tmp_path / "study.toml", study)
    status, _, complaints = run_on(cluster, path, tmp_path / "far")
    assert status == 0, complaints
    assert finished("study", "run", path, "--out", tmp_path / "near")[0] == 0
    assert bytes_of(tmp_path / "far") == bytes_of(tmp_path / "near")


def started_on(cluster, study, out):
    """A run with its first parts on disk."""
    run = command("study", "run", study, "--out", out, "--scheduler", cluster.address)
    folder = StudyFolder(out)
    end = time.monotonic() + 60
    while len(folder.done()) < 3 and time.monotonic() < end and run.poll() is None:
        time.sleep(0.01)
    assert 3 <= len(folder.done()) < 188
    return run


def test_a_killed_worker_costs_nothing_but_time(cluster, tmp_path, whole):
    study = toml_of(tmp_path / "study.toml", LONGER)
    run = started_on(cluster, study, tmp_path / "out")
    cluster.workers[0].kill()
    cluster.workers.append(cluster.add_worker())
    _, complaints = run.communicate(timeout=120)
    assert run.returncode == 0, complaints
    assert bytes_of(tmp_path / "out") == bytes_of(whole)


def test_a_killed_scheduler_ends_the_run_soon_and_the_same_command_goes_on(tmp_path, whole):
    (tmp_path / "one").mkdir()
    cluster = Cluster(tmp_path / "one")
    study = toml_of(tmp_path / "study.toml", LONGER)
    run = started_on(cluster, study, tmp_path / "out")
    cluster.scheduler.kill()
    began = time.monotonic()
    _, complaints = run.communicate(timeout=60)
    assert time.monotonic() - began < 10.0
    assert run.returncode == 3 and "the scheduler is gone" in complaints
    cluster.close()
    kept = bytes_of(tmp_path / "out")
    assert len(kept) >= 3 and all(
        whole_bytes == bytes_of(whole)[n] for n, whole_bytes in kept.items()
    )
    (tmp_path / "two").mkdir()
    again = Cluster(tmp_path / "two")
    status, _, complaints = run_on(again, study, tmp_path / "out")
    again.close()
    assert status == 0, complaints
    assert bytes_of(tmp_path / "out") == bytes_of(whole)


def test_a_killed_run_goes_on_where_it_was(cluster, tmp_path, whole):
    study = toml_of(tmp_path / "study.toml", LONGER)
    run = started_on(cluster, study, tmp_path / "out")
    run.send_signal(signal.SIGKILL)
    run.communicate()
    status, _, complaints = run_on(cluster, study, tmp_path / "out")
    assert status == 0, complaints
    assert bytes_of(tmp_path / "out") == bytes_of(whole)


def test_a_case_that_kills_its_process_leaves_the_worker_alone(tmp_path):
    from studies import POISON

    few = {**SQUATS, "samples": 80, "part_rows": 16}
    mass = design(few).inputs.values(design(few).rows_of(0))["athlete.mass_kg"][5]
    (tmp_path / "sitecustomize.py").write_text(
        POISON.format(which=f"case.athlete.mass_kg == {mass!r}", what="os.kill(os.getpid(), 9)")
    )
    made = Cluster(tmp_path, 1, {**ENVIRONMENT, "PYTHONPATH": str(tmp_path)})
    try:
        study = toml_of(tmp_path / "study.toml", few)
        status, _, complaints = run_on(made, study, tmp_path / "out")
        assert status == 0, complaints
        assert made.workers[0].poll() is None
    finally:
        made.close()
    rows = pq.read_table(StudyFolder(tmp_path / "out").part_path(0)).to_pylist()
    assert [r["row"] for r in rows if r["problem"] == "crashed"] == [5]


def test_a_worker_of_another_version_is_refused_by_name(cluster, tmp_path):
    old = tmp_path / "old"
    old.mkdir()
    (old / "sitecustomize.py").write_text(
        "import zesty_lever.version\nzesty_lever.version.VERSION = '0.0.9'\n"
    )
    cluster.workers.append(cluster.add_worker({**ENVIRONMENT, "PYTHONPATH": str(old)}))
    study = toml_of(tmp_path / "study.toml", BUILDS)
    end = time.monotonic() + 60
    status = 0
    while status == 0 and time.monotonic() < end:
        # Until the worker has joined.
        status, _, complaints = run_on(cluster, study, tmp_path / f"out{time.monotonic()}")
    assert status == 2
    assert re.search(r"worker tcp://127\.0\.0\.1:\d+ has version 0\.0\.9", complaints)


def test_no_scheduler_is_said_soon(tmp_path):
    study = toml_of(tmp_path / "study.toml", BUILDS)
    began = time.monotonic()
    status, _, complaints = finished(
        "study", "run", study, "--out", tmp_path / "out", "--scheduler", "tcp://127.0.0.1:9"
    )
    assert status == 3 and "no scheduler answers at tcp://127.0.0.1:9" in complaints
    assert time.monotonic() - began < 20


@pytest.mark.parametrize(
    ("address", "taken"),
    [
        ("tcp://127.0.0.1:8786", True),
        ("localhost:8786", True),
        ("tcp://[::1]:8786", True),
        ("tls://10.1.2.3:8786", True),
        ("tcp://10.1.2.3:8786", False),
        ("compute.example:8786", False),
        ("ws://192.0.2.1:80", False),
    ],
)
def test_a_scheduler_elsewhere_has_to_be_encrypted_or_allowed(address, taken):
    check_address(address, insecure=True)
    if taken:
        check_address(address, insecure=False)
        return
    with pytest.raises(CaseError, match="a scheduler runs any code it is sent"):
        check_address(address, insecure=False)
