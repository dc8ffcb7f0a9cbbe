"""Small studies, and poison for the process that works them out."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from zesty_lever.study.design import Design
from zesty_lever.study.document import study_from
from zesty_lever.study.local import LocalEngine
from zesty_lever.study.part import LEAST_LIMIT_S
from zesty_lever.study.run import run_study

MAN = {"height_m": 1.78, "mass_kg": 82, "sex": "male"}
# Some builds of this can't be done, so every column has empty cells.
BUILDS = {
    "format": "zesty-lever-study/1",
    "seed": 11,
    "samples": 60,
    "part_rows": 32,
    "case": {"athlete": MAN, "settings": {"shin_deg": 30.0}},
    "vary": {
        "variation": {"values": ["back-squat-high-bar", "band-hinge", "goblet-squat"]},
        "athlete.height_m": {"range": [1.5, 2.0]},
        "athlete.lengths_m.thigh": {"range": [0.36, 0.50]},
        "settings.stance_m": {"range": [0.25, 0.7]},
    },
}
SQUATS = {
    **BUILDS,
    "samples": 400,
    "vary": {
        "athlete.mass_kg": {"range": [55.0, 110.0]},
        "settings.stance_m": {"range": [0.25, 0.6]},
    },
    "case": {"athlete": MAN, "variation": "back-squat-high-bar", "load_kg": 60},
}
# Put before everything else a child imports: what happens to the case whose mass is nearest to 80 kg of its part.
POISON = """
import os, sys, time
if any("zesty_lever.study.child" in one for one in sys.orig_argv):
    from zesty_lever.study import solving
    sound = solving.rows_of
    def rows_of(cases):
        if any({which} for case in cases):
            {what}
        return sound(cases)
    solving.rows_of = rows_of
"""


def design(data=BUILDS, **changes):
    """A checked design of a small study."""
    return Design.of(study_from({**data, **changes}))


def run_local(made, out, workers=2, **more):
    """Work a study out here; the engine is in the answer's place for tests that look at it."""
    engines = []

    def engine(one, pace):
        engines.append(LocalEngine(one, workers, pace))
        return engines[-1]

    limit = more.pop("least_limit_s", LEAST_LIMIT_S)
    ended = run_study(made, out, engine, least_limit_s=limit, **more)
    return ended, engines


def bytes_of(out):
    """Every part's name and bytes."""
    return {path.name: path.read_bytes() for path in sorted((out / "parts").glob("*.parquet"))}


def poisoned(monkeypatch, folder, which, what):
    """Children from here on meet their poison where ``which`` holds."""
    folder.mkdir(exist_ok=True)
    (folder / "sitecustomize.py").write_text(POISON.format(which=which, what=what))
    before = os.environ.get("PYTHONPATH")
    monkeypatch.setenv("PYTHONPATH", f"{folder}{os.pathsep}{before}" if before else str(folder))


def command(*words, **more):
    """Start the command line."""
    return subprocess.Popen(
        [sys.executable, "-m", "zesty_lever", *map(str, words)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        **more,
    )


def finished(*words, seconds=120, **more):
    """Run the command line to its end: status, what it printed, what it complained of."""
    process = command(*words, **more)
    out, complaints = process.communicate(timeout=seconds)
    return process.returncode, out, complaints


def toml_of(path: Path, data) -> Path:
    """A study as a file."""
    lines = [f"{k} = {_value(v)}" for k, v in data.items() if k != "vary"]
    for key, factor in data.get("vary", {}).items():
        lines.append(f'[vary."{key}"]')
        lines += [f"{k} = {_value(v)}" for k, v in factor.items()]
    path.write_text("\n".join(lines) + "\n")
    return path


def _value(value):
    if isinstance(value, dict):
        return "{" + ", ".join(f"{k} = {_value(v)}" for k, v in value.items()) + "}"
    if isinstance(value, list | tuple):
        return "[" + ", ".join(map(_value, value)) + "]"
    return f'"{value}"' if isinstance(value, str) else repr(value)
