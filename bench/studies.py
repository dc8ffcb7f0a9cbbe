"""Prints the throughput of studies: one core, two workers, memory of a worker. Nothing here is asserted."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

from zesty_lever.study.design import Design
from zesty_lever.study.document import study_from
from zesty_lever.study.local import LocalEngine
from zesty_lever.study.run import run_study

AIMS = {"back-squat-high-bar": 2500, "split-squat": 1400, "band-hinge": 2000}
CASES = 8192


def design_of(name: str, *, settings: bool) -> Design:
    """One variation on many bodies; with every leg angle given, or by defaults (which may have to be eased)."""
    legs = {"back-squat-high-bar": {"shin_deg": 34.0}, "split-squat": {"shin_deg": 22.0}}.get(
        name, {}
    )
    if not settings:
        legs = {}
    return Design.of(
        study_from(
            {
                "format": "zesty-lever-study/1",
                "seed": 1,
                "samples": CASES,
                "part_rows": 1024,
                "case": {
                    "variation": name,
                    "settings": legs,
                    "athlete": {"height_m": 1.78, "mass_kg": 82, "sex": "male"},
                },
                "vary": {
                    "athlete.height_m": {"range": [1.6, 1.95]},
                    "athlete.mass_kg": {"range": [60, 105]},
                },
            }
        )
    )


def rate(design: Design, workers: int) -> tuple[float, float]:
    """Cases a second, start of the workers left out, and the largest memory of one, MB."""
    began: list[float] = []
    most = [0.0]
    engines: list[LocalEngine] = []

    def tell(_done: int, _failed: int, _count: int, _seconds: float) -> None:
        began.append(time.perf_counter())
        for solver in engines[0].solvers:
            if solver.pid is not None:
                status = Path(f"/proc/{solver.pid}/status").read_text(encoding="utf-8")
                peak = next(line for line in status.splitlines() if line.startswith("VmHWM"))
                most[0] = max(most[0], float(peak.split()[1]) / 1024)

    def engine(one: Design, pace: object) -> LocalEngine:
        engines.append(LocalEngine(one, workers, pace))  # type: ignore[arg-type]
        return engines[-1]

    with tempfile.TemporaryDirectory() as folder:
        run_study(design, Path(folder) / "out", engine, tell=tell)
    # The first parts have the start in them.
    seconds = began[-1] - began[workers - 1]
    return (len(began) - workers) * 1024 / seconds, most[0]


def main() -> None:
    """One line a kind of case."""
    for name, aim in AIMS.items():
        one, memory = rate(design_of(name, settings=True), 1)
        line = f"study, {name:<22} {one:6.0f} cases a second on one core   aim {aim}   {memory:.0f} MB (aim <= 400)"
        if len(os.sched_getaffinity(0)) > 1:
            two, _ = rate(design_of(name, settings=True), 2)
            line += f"   two workers {two / one:.2f} times (aim 1.75)"
        print(line)
        print(
            f"   with defaults, eased    {rate(design_of(name, settings=False), 1)[0]:6.0f} cases a second"
        )


if __name__ == "__main__":
    main()
