"""A study's parts: the same bytes however they are made, and none lost or half-written whatever happens."""

from __future__ import annotations

import errno
import os
import signal
import time

import numpy as np
import pyarrow.parquet as pq
import pytest
from studies import (
    BUILDS,
    SQUATS,
    bytes_of,
    command,
    design,
    finished,
    poisoned,
    run_local,
    toml_of,
)

from zesty_lever.problems import CaseError
from zesty_lever.study import folder as folders
from zesty_lever.study import solver as solvers
from zesty_lever.study.columns import RESULTS
from zesty_lever.study.folder import StudyFolder
from zesty_lever.study.summary import status_of, summary_of

FEW = {**SQUATS, "samples": 80, "part_rows": 16}
POISONED = 5


def one_case():
    """What holds for one case of the few only."""
    mass_kg = design(FEW).inputs.values(np.array([POISONED]))["athlete.mass_kg"][0]
    return f"case.athlete.mass_kg == {mass_kg!r}"


@pytest.fixture(scope="module")
def once(tmp_path_factory):
    """The study worked out by one process, in one go."""
    out = tmp_path_factory.mktemp("once")
    ended, _ = run_local(design(), out, workers=1)
    assert ended.there == 6 and not ended.failed and not ended.stopped
    return out


def test_workers_shards_and_restarts_give_the_same_bytes(once, tmp_path):
    many, _ = run_local(design(), tmp_path / "many", workers=3)
    assert many.there == 6
    for shard in ((2, 2), (1, 2)):
        run_local(design(), tmp_path / "shards", workers=1, shard=shard)
    first, _ = run_local(design(), tmp_path / "limited", limit=2)
    assert first.stopped == "stopped after 2 parts, as asked" and first.missing == 4
    again, _ = run_local(design(), tmp_path / "limited")
    assert again.there == 6
    for name in ("many", "shards", "limited"):
        assert bytes_of(tmp_path / name) == bytes_of(once)


def test_a_part_has_the_fixed_schema_and_nothing_that_is_no_number(once):
    tables = [pq.read_table(path) for path in StudyFolder(once).done_paths()]
    made = design()
    assert all(table.schema.names == list(made.columns) for table in tables)
    assert len({str(table.schema) for table in tables}) == 1
    whole = {name: [v for t in tables for v in t[name].to_pylist()] for name in made.columns}
    assert whole["row"] == list(range(made.rows))
    for able, problem, *results in zip(
        whole["feasible"], whole["problem"], *(whole[n] for n in RESULTS), strict=True
    ):
        assert able == (problem is None)
        assert [v is None for v in results] == [not able] * len(RESULTS)
        assert all(v is None or np.isfinite(v) for v in results)
    assert str(tables[0].schema.field("hip_left_extensor_peak_Nm").type) == "float"
    assert str(tables[0].schema.field("settings.stance_m").type) == "double"


@pytest.mark.slow
def test_results_have_64_bits_where_the_study_asks(tmp_path, once):
    run_local(design(precision=64), tmp_path / "fine", workers=1)
    fine, coarse = (
        pq.read_table(StudyFolder(out).part_path(0))["hip_left_extensor_peak_Nm"].to_numpy()
        for out in (tmp_path / "fine", once)
    )
    assert fine.dtype == np.float64
    np.testing.assert_array_equal(fine.astype(np.float32), coarse)


def test_a_killed_computing_process_costs_nothing_but_time(tmp_path, once, monkeypatch):
    ask, killed = solvers.Solver.ask, []

    def ask_and_kill(self, *given):
        if len(killed) < 2 and self.pid is not None:
            killed.append(self.pid)
            os.kill(self.pid, signal.SIGKILL)
        return ask(self, *given)

    monkeypatch.setattr(solvers.Solver, "ask", ask_and_kill)
    ended, _ = run_local(design(), tmp_path)
    assert len(killed) == 2 and ended.there == 6
    assert bytes_of(tmp_path) == bytes_of(once)


@pytest.mark.slow
def test_a_run_killed_at_any_moment_goes_on_and_gives_the_same_bytes(tmp_path):
    study = toml_of(tmp_path / "study.toml", SQUATS)
    status, _, _ = finished("study", "run", study, "--out", tmp_path / "whole")
    assert status == 0
    killed = 0
    while killed < 3:
        run = command("study", "run", study, "--out", tmp_path / "broken", "--workers", "2")
        folder = StudyFolder(tmp_path / "broken")
        before = len(folder.done())
        end = time.monotonic() + 60
        while len(folder.done()) <= before and time.monotonic() < end and run.poll() is None:
            time.sleep(0.005)
        run.kill()
        run.communicate()
        killed += 1
    (tmp_path / "broken" / "parts" / ".part-000003.abcdef.tmp").write_bytes(b"half")
    status, told, _ = finished("study", "run", study, "--out", tmp_path / "broken")
    assert status == 0 and told.startswith("13 of 13 parts are in")
    assert bytes_of(tmp_path / "broken") == bytes_of(tmp_path / "whole")
    assert not list((tmp_path / "broken" / "parts").glob(".*"))


def test_interrupting_a_run_keeps_whole_parts_and_says_so(tmp_path):
    study = toml_of(tmp_path / "study.toml", {**SQUATS, "samples": 6000})
    # Whoever runs the tests in the background may have it ignore interrupts.
    run = command(
        "study",
        "run",
        study,
        "--out",
        tmp_path / "out",
        "--workers",
        "1",
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    folder = StudyFolder(tmp_path / "out")
    while not folder.done() and run.poll() is None:
        time.sleep(0.01)
    run.send_signal(signal.SIGINT)
    _, complaints = run.communicate(timeout=30)
    assert run.returncode == 3 and "interrupted" in complaints
    for path in folder.done_paths():
        assert pq.read_table(path).num_rows == 32


def test_a_case_that_raises_is_crashed_with_its_message(tmp_path, monkeypatch):
    made = design(FEW)
    run_local(made, tmp_path / "sound", workers=1)
    poisoned(monkeypatch, tmp_path / "path", one_case(), 'raise ValueError("no hip")')
    ended, _ = run_local(made, tmp_path / "out", workers=1)
    check_poisoned(tmp_path, ended, "crashed", "ValueError: no hip")


@pytest.mark.slow
def test_a_case_that_kills_its_process_is_found_and_named(tmp_path, monkeypatch):
    made = design(FEW)
    run_local(made, tmp_path / "sound", workers=1)
    poisoned(monkeypatch, tmp_path / "path", one_case(), "os.kill(os.getpid(), 9)")
    ended, _ = run_local(made, tmp_path / "out")
    check_poisoned(tmp_path, ended, "crashed", "the process ended without an answer")


@pytest.mark.slow
def test_a_case_that_takes_for_ever_is_timed_out(tmp_path, monkeypatch):
    made = design(FEW)
    run_local(made, tmp_path / "sound", workers=1)
    monkeypatch.setattr(solvers, "LEAST_PIECE_S", 0.5)
    monkeypatch.setattr(solvers, "TRIES", 2)
    poisoned(monkeypatch, tmp_path / "path", one_case(), "time.sleep(1000)")
    ended, _ = run_local(made, tmp_path / "out", workers=1, least_limit_s=1.0)
    check_poisoned(tmp_path, ended, "timed-out", "no answer in")


def check_poisoned(tmp_path, ended, problem, note):
    """One row has its problem; every other row is as it was without the poison."""
    assert ended.there == 5 and not ended.failed
    sound, found = (
        [
            row
            for p in StudyFolder(tmp_path / out).done_paths()
            for row in pq.read_table(p).to_pylist()
        ]
        for out in ("sound", "out")
    )
    wrong = [row for row in found if row["problem"] == problem]
    assert [row["row"] for row in wrong] == [POISONED] and wrong[0]["note"].startswith(note)
    assert sound[:POISONED] + sound[POISONED + 1 :] == found[:POISONED] + found[POISONED + 1 :]


def test_a_process_that_can_t_start_fails_the_part_and_not_its_cases(tmp_path, monkeypatch):
    folder = tmp_path / "path"
    folder.mkdir()
    (folder / "sitecustomize.py").write_text(
        "import sys\nif any('study.child' in one for one in sys.orig_argv):\n    raise SystemExit(7)\n"
    )
    monkeypatch.setenv("PYTHONPATH", str(folder))
    ended, _ = run_local(design(), tmp_path / "out", workers=1, limit=1)
    assert ended.there == 0 and "did not start" in ended.failed[0]
    assert "did not start" in status_of(StudyFolder(tmp_path / "out")).failed[0]
    monkeypatch.undo()
    run_local(design(), tmp_path / "out", workers=1, limit=1)
    assert not status_of(StudyFolder(tmp_path / "out")).failed


def test_a_full_disk_leaves_no_half_part_and_names_the_part(tmp_path, monkeypatch):
    write, count = os.write, []

    def full(handle, data):
        count.append(handle)
        if len(count) == 4:
            write(handle, bytes(data[:100]))
            raise OSError(errno.ENOSPC, "No space left on device")
        return write(handle, data)

    monkeypatch.setattr(folders.os, "write", full)
    ended, _ = run_local(design(), tmp_path, workers=1)
    assert ended.stopped.startswith("the disk is full: part 2 could not be written")
    assert ended.there == 2 and not list((tmp_path / "parts").glob(".*"))
    monkeypatch.undo()
    assert run_local(design(), tmp_path, workers=1)[0].there == 6


def test_another_study_s_folder_is_refused_and_left_as_it_is(tmp_path):
    run_local(design(), tmp_path / "out", limit=1)
    before = {p: p.read_bytes() for p in (tmp_path / "out").rglob("*") if p.is_file()}
    with pytest.raises(CaseError, match="holds another study"):
        run_local(design(seed=12), tmp_path / "out")
    assert before == {p: p.read_bytes() for p in (tmp_path / "out").rglob("*") if p.is_file()}
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "letter.txt").write_text("dear")
    with pytest.raises(CaseError, match="is not empty and holds no study"):
        run_local(design(), tmp_path / "full")
    assert [p.name for p in (tmp_path / "full").iterdir()] == ["letter.txt"]


def test_two_whole_runs_in_one_folder_are_kept_apart_and_shards_are_not(tmp_path):
    folder = StudyFolder(tmp_path)
    folder.open_for(design())
    with folder.held(shared=False), pytest.raises(CaseError, match="another run is at work"):
        run_local(design(), tmp_path)
    with folder.held(shared=True):
        ended, _ = run_local(design(), tmp_path, shard=(1, 3))
        assert ended.there == ended.own == 2


# --- what is told ----------------------------------------------------------------------------


def test_a_summary_is_what_plain_sums_over_the_rows_give(once):
    rows = [r for p in StudyFolder(once).done_paths() for r in pq.read_table(p).to_pylist()]
    groups = summary_of(StudyFolder(once), ["variation"])
    assert [g.values[0] for g in groups] == BUILDS["vary"]["variation"]["values"]
    for group in groups:
        own = [r for r in rows if r["variation"] == group.values[0]]
        able = [r for r in own if r["feasible"]]
        assert (group.cases, group.feasible) == (len(own), len(able))
        assert sum(group.problems.values()) == len(own) - len(able)
        values = np.array([r["knee_right_extensor_peak_Nm"] for r in able])
        expected = (values.mean(), *np.percentile(values, [5, 50, 95]))
        np.testing.assert_allclose(group.results["knee_right_extensor_peak_Nm"], expected, 1e-6)
    both = summary_of(StudyFolder(once), ["variation", "problem"])
    assert sum(g.cases for g in both) == 180 and len(both) > 3
    assert next(g for g in both if g.values[1] is not None).results["shear_N"] is None
    with pytest.raises(CaseError, match="--by knees is no column"):
        summary_of(StudyFolder(once), ["knees"])


def test_the_commands_say_what_they_did(tmp_path):
    study = toml_of(tmp_path / "study.toml", BUILDS)
    out = tmp_path / "out"
    status, told, _ = finished("study", "check", study)
    assert status == 0 and told.startswith("180 cases in 6 parts\nabout 0.")
    assert "of 180 sampled cases can be done" in told and "row " in told
    status, told, complaints = finished("study", "run", study, "--out", out, "--limit", "2")
    assert status == 3 and told.startswith("2 of 6 parts are in") and "as asked" in complaints
    status, told, _ = finished("study", "status", out, "--json")
    assert status == 0 and '"done": 2, "missing": 4' in told
    assert finished("study", "run", study, "--out", out)[0] == 0
    status, told, _ = finished("study", "status", out)
    assert told.startswith("6 of 6 parts there, 0 missing")
    csv = tmp_path / "all.csv"
    status, told, _ = finished("study", "summary", out, "--by", "variation", "--csv", csv)
    assert status == 0 and "variation band-hinge: 60 cases" in told
    lines = csv.read_text().splitlines()
    assert lines[0] == "variation,cases,feasible,problems,result,mean,p5,p50,p95"
    assert len(lines) == 1 + 3 * len(RESULTS)


@pytest.mark.parametrize(
    ("words", "complaint"),
    [
        (["run", "none.toml", "--out", "out"], "No such file"),
        (["run", "study.toml", "--out", "out", "--shard", "3/2"], "expected I/N with I from 1"),
        (["run", "study.toml", "--out", "out", "--workers", "0"], "--workers is 0"),
        (["run", "study.toml", "--out", "out", "--limit", "0"], "--limit is 0"),
        (["run", "study.toml", "--out", "out", "--scheduler", "tcp://10.0.0.7:8786"], "tls://"),
        (["status", "nowhere"], "holds no study"),
        (["summary", "nowhere"], "holds no study"),
    ],
)
def test_wrong_usage_is_status_2_and_one_line(tmp_path, words, complaint):
    toml_of(tmp_path / "study.toml", BUILDS)
    status, _, complaints = finished("study", *words, cwd=tmp_path)
    assert status == 2 and complaint in complaints and len(complaints.splitlines()) == 1
    assert not (tmp_path / "out").exists()
