"""Prints speeds as ratios of one run. Nothing here is asserted: machines are noisy."""

from __future__ import annotations

import gc
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from zesty_lever.__main__ import ARITHMETIC

os.environ.update(ARITHMETIC)

from zesty_lever.bench import edits
from zesty_lever.memory import keep_freed_memory

REPEATS = 9
# So long the second process takes to load its program, s.
SECOND_CORE_LOADS_S = 2.0


def timed(call, repeats):  # noqa: ANN001, ANN201
    """Median seconds of a call."""
    seconds = []
    for _ in range(repeats):
        start = time.perf_counter()
        call()
        seconds.append(time.perf_counter() - start)
    return statistics.median(seconds)


BARE = (
    "import sys\nfrom PySide6.QtWidgets import QApplication, QMainWindow\n"
    "from PySide6.QtCore import QTimer\napp = QApplication(sys.argv)\nw = QMainWindow()\n"
    "w.resize(1280, 800)\nw.show()\nQTimer.singleShot(0, app.quit)\napp.exec()\n"
    "import time\nprint(time.time(), flush=True)\n"
)
OURS = (
    "import time\nfrom pathlib import Path\nfrom zesty_lever import __main__ as program\nmain = program.main\n"
    "def told(argv=None):\n"
    "    status = main(['--demo', '--exit-after-first-frame'])\n"
    "    print(time.time(), flush=True)\n"
    "    lines = Path('/proc/self/status').read_text().splitlines()\n"
    "    print(next(float(x.split()[1]) / 1024 for x in lines if x.startswith('VmHWM')), flush=True)\n"
    "    return status\n"
    "program.main = told\ngetattr(program, 'run', told)()\n"
)


def bench_start() -> None:
    """Start to the first painted frame against a bare Qt window's, interleaved; what closing takes, apart."""
    environment = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    # Set for this process; the program sets its own.
    for name in ("PYTHONDONTWRITEBYTECODE", "NPY_DISABLE_CPU_FEATURES", "OPENBLAS_NUM_THREADS"):
        environment.pop(name, None)
    frames: dict[str, list[float]] = {"bare": [], "ours": []}
    closing: list[float] = []
    memory = 0.0
    for _ in range(REPEATS + 1):
        for name, code in (("bare", BARE), ("ours", OURS)):
            start = time.time()
            ran = subprocess.run(
                [sys.executable, "-c", code],
                check=True,
                env=environment,
                capture_output=True,
                text=True,
            )
            end = time.time()
            at, *more = map(float, ran.stdout.split())
            frames[name].append(at - start)
            if more:
                closing.append(end - at)
                memory = more[0]
    bare_s, ours_s = (statistics.median(frames[n][1:]) for n in ("bare", "ours"))
    print(
        f"start to first frame   {ours_s:6.3f} s   bare Qt window {bare_s:.3f} s   "
        f"ratio {ours_s / bare_s:.2f}   bar 3.0, aim 2.3"
    )
    print(f"memory at first frame  {memory:6.1f} MB   bar 85, aim 75")
    print(f"closing                {1e3 * statistics.median(closing):6.1f} ms   bar 60, aim 30")


# What bars in milliseconds hold beside, us a NumPy call on 61 numbers.
BESIDE_US = 0.9


def call_us(times: int = 60) -> float:
    """How long a small NumPy call takes right now, us, once it is warm."""
    import numpy as np

    a = np.linspace(0.0, 1.0, 61)
    for _ in range(30):
        np.sin(a) * a + 1.0
    start = time.perf_counter()
    for _ in range(times):
        np.sin(a) * a + 1.0
    return 1e6 * (time.perf_counter() - start) / (3 * times)


class Spread:
    """Seconds of a call again and again, each with what a small NumPy call took just then."""

    def __init__(self) -> None:
        self.seconds: list[float] = []
        self.calls: list[float] = []

    def time(self, call) -> None:  # noqa: ANN001
        """One more."""
        self.calls.append(call_us())
        start = time.perf_counter()
        call()
        self.seconds.append(time.perf_counter() - start)

    def words(self) -> str:
        """Median, mean and 95 %, ms; median and 95 % as on a machine where a NumPy call takes `BESIDE_US`."""
        ordered = sorted(1e3 * x for x in self.seconds)
        middle, high = statistics.median(ordered), ordered[int(0.95 * len(ordered))]
        scale = BESIDE_US / statistics.median(self.calls)
        return (
            f"median {middle:6.2f}   mean {statistics.mean(ordered):6.2f}   95 % {high:6.2f} ms   "
            f"(at {BESIDE_US:g} us: {scale * middle:.2f}, {scale * high:.2f})"
        )


def spread(call, repeats):  # noqa: ANN001, ANN201
    """`Spread` of a call, in words."""
    found = Spread()
    for _ in range(repeats):
        found.time(call)
    return found.words()


def bench_choosing() -> None:
    """Shortlist, line-up and search beside a plain single solve."""
    from zesty_lever.analysis import analyse
    from zesty_lever.cases.parse import case_from
    from zesty_lever.choosing import bests as told
    from zesty_lever.choosing import shortlist as lists
    from zesty_lever.choosing.second_core import SECOND_CORE
    from zesty_lever.choosing.technique import search
    from zesty_lever.choosing.uncertainty import DRAWS, draw_many
    from zesty_lever.choosing.wishes import Wish

    data = {
        "format": "zesty-lever-case/1",
        "variation": "back-squat-high-bar",
        "load_kg": 60,
        "athlete": {
            "height_m": 1.78,
            "mass_kg": 82,
            "sex": "male",
            "best_loads_kg": {"back-squat-high-bar": 120},
        },
        "frames": "none",
    }
    case = case_from(data)
    one = timed(lambda: analyse(case), 30)
    six = [
        case_from({**data, "variation": n, "load_kg": None})
        for n in (
            "back-squat-high-bar",
            "front-squat",
            "split-squat",
            "romanian-deadlift",
            "hip-thrust",
            "step-up",
        )
    ]
    first = []
    wish = Wish({"knee": 1, "back": -1})

    def cold(*, spans: bool) -> None:
        told.forget_demands()
        for kept in (lists._READY, lists._SPANS):  # noqa: SLF001 (a cold start is what is timed)
            kept.clear()
        lists.shortlist(
            case.athlete,
            wish,
            spans=spans,
            tell=lambda _: first.append(time.perf_counter() - began),
        )

    # As in a window that has stood for a moment: the other process has loaded its program.
    SECOND_CORE.start()
    time.sleep(SECOND_CORE_LOADS_S)
    began = time.perf_counter()
    ranked = timed(lambda: cold(spans=False), 3)
    whole = timed(lambda: cold(spans=True), 3)
    again = timed(lambda: lists.shortlist(case.athlete, Wish({"hip": 1})), 3)
    drawn = timed(lambda: draw_many(six, joints=("hip_right", "knee_right", "lumbosacral")), 3)
    sought = timed(lambda: search(case, "back"), 3)
    print(
        f"shortlist, never asked: ranking {ranked:5.2f} s   bar 0.5, aim 0.25   with intervals {whole:5.2f} s   "
        f"bar 1.4, aim 0.7   ({ranked / one:.0f} and {whole / one:.0f} single solves; progress from {1e3 * first[0]:.0f} ms on)"
    )
    print(f"shortlist, another wish        {again:5.2f} s")
    print(
        f"line-up of six, {DRAWS} draws {drawn:5.2f} s   {drawn / one:5.0f} single solves   aim < 0.5 s"
    )
    print(f"technique search       {sought:5.2f} s   {sought / one:5.0f} single solves")


def bench_families() -> None:
    """One drag step of a handle in every family."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QPointF

    from zesty_lever.ui.app import application, make_window

    app = application()
    window = make_window(Path(tempfile.mkdtemp(prefix="zesty-lever-bench-")), demo=True)
    window.show()
    for name, joint in (
        ("back-squat-high-bar", "knee_right"),
        ("split-squat", "knee_right"),
        ("romanian-deadlift", "shoulder_mid"),
        ("hip-thrust", "knee_right"),
    ):
        window.session.do(edits.set_variation, name)
        app.processEvents()
        handle = next(
            h for h in window.bench.figure.handles if h.kind.joint == joint and h.isVisible()
        )
        start = QPointF(handle.geometry().center())
        handle.grabbed.emit()
        seconds = []
        for step in range(60):
            at = time.perf_counter()
            handle.moved.emit(start + QPointF(0.5 * (10 - abs(step % 40 - 20)), 0))
            app.processEvents()
            seconds.append(time.perf_counter() - at)
        handle.dropped.emit()
        print(
            f"drag step, {name:<20} median {1e3 * statistics.median(seconds):5.1f} ms   aim < 16 ms"
        )


def bench_drag() -> None:
    """One drag step: mouse move to painted frame, offscreen, for each handle."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QPointF, Qt
    from PySide6.QtTest import QTest

    from zesty_lever.ui.app import application, make_window

    app = application()
    window = make_window(Path(tempfile.mkdtemp(prefix="zesty-lever-bench-")), demo=True)
    window.show()
    app.processEvents()
    # As the program does after its first frame.
    gc.collect()
    gc.freeze()
    figure = window.bench.figure
    for handle in [h for h in figure.handles if h.isVisible()]:
        centre = handle.rect().center()
        start_at = QPointF(handle.geometry().center())
        done = 0
        QTest.mousePress(handle, Qt.MouseButton.LeftButton, pos=centre)
        found = Spread()

        def move(target: QPointF, own=handle) -> None:  # noqa: ANN001
            own.moved.emit(target)
            app.processEvents()  # paints whatever the move made stale

        for step in range(120):
            shift = 10 - abs(step % 40 - 20)
            target = start_at + QPointF(0.8 * shift, 0.5 * shift)
            found.time(lambda to=target: move(to))
            done += window.session.result.feasible
        QTest.mouseRelease(handle, Qt.MouseButton.LeftButton, pos=centre)
        print(
            f"drag step, {handle.kind.name:<9}   {found.words()}   bar 16 and 24, aim 8 and 16 ms   "
            f"({done} of 120 poses possible)"
        )


def bench_commits() -> None:
    """Making a change a step of history, on every screen, bands too: until all that shows it is painted."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from zesty_lever.ui.app import application, make_window

    app = application()
    window = make_window(Path(tempfile.mkdtemp(prefix="zesty-lever-bench-")), demo=True)
    window.show()
    session = window.session

    def rest(seconds: float) -> None:
        end = time.perf_counter() + seconds
        while time.perf_counter() < end:
            app.processEvents()
            time.sleep(0.005)

    for screen in ("Bench", "Line-up", "Shortlist", "Technique", "Set-up card", "Athlete"):
        window.show_screen(screen)
        rest(2.0)
        found = {"a setting": Spread(), "another variation": Spread()}

        def done(edit, *args) -> None:  # noqa: ANN001, ANN002
            session.do(edit, *args)
            app.processEvents()

        def change(kind: str, *args, into=found) -> None:  # noqa: ANN001, ANN002
            into[kind].time(lambda: done(*args))
            rest(0.2)

        for name in ("band-hinge", "side-banded-split-squat", "box-squat", "back-squat-high-bar"):
            change("another variation", edits.set_variation, name)
            given = session.result.case.settings
            for key in ("stance_m", "thigh_deg", "trunk_deg", "band_N_m"):
                if given.get(key) is not None:
                    change("a setting", edits.set_setting, key, round(given[key] * 1.02 + 0.001, 3))
        for kind, own in found.items():
            largest = 1e3 * max(own.seconds)
            print(
                f"commit on {screen:<12} {kind:<18} median {1e3 * statistics.median(own.seconds):5.0f}   "
                f"largest {largest:5.0f} ms (at {BESIDE_US:g} us: {largest * BESIDE_US / statistics.median(own.calls):.0f})   "
                f"bar 100, aim 50"
            )


def bench_solve() -> None:
    """Whole reps, alone and in batches, and cases of a .jsonl."""
    from zesty_lever.analysis import analyse, analyse_many
    from zesty_lever.cases.parse import case_from
    from zesty_lever.io.json_files import solve_lines

    data = {
        "format": "zesty-lever-case/1",
        "variation": "back-squat-high-bar",
        "load_kg": 60,
        "athlete": {"height_m": 1.78, "mass_kg": 82, "sex": "male"},
        "frames": "none",
    }
    case = case_from(data)
    one = timed(lambda: analyse(case), 60)
    many = timed(lambda: analyse_many([case] * 1000), 3) / 1000
    frames = 61
    bars = {
        "back-squat-high-bar": "bar 4, aim 2.4",
        "split-squat": "bar 7, aim 5",
        "romanian-deadlift": "bar 5, aim 3.3",
        "band-hinge": "bar 9, aim 5",
        "conventional-deadlift": "",
        "hip-thrust": "",
        "side-banded-split-squat": "",
    }
    for name, bar in bars.items():
        other = case_from({**data, "variation": name, "load_kg": None})
        print(f"one rep, {name:<24} {spread(lambda c=other: analyse(c), 40)}   {bar}")
    moving = case_from({**data, "mode": "dynamic"})
    print(f"one rep, dynamic                {1e3 * timed(lambda: analyse(moving), 30):5.2f} ms")
    print(f"one rep of {frames} frames   {1e3 * one:5.2f} ms")
    print(
        f"a rep in a batch       {1e3 * many:5.3f} ms ({1e6 * many / frames:.1f} us a pose)   "
        f"ratio to one alone {many / one:.3f}"
    )
    line = json.dumps(data).encode()
    cases = timed(lambda: sum(1 for _ in solve_lines(line for _ in range(2000))), 1) / 2000
    print(
        f"a case of a .jsonl     {1e3 * cases:5.3f} ms   ratio to the bare batch {cases / many:.2f}"
    )


def bench_effort() -> None:
    """Demands of the catalogue, calibration from three bests, all expected bests once demands are known."""
    from zesty_lever.cases.parse import athlete_from
    from zesty_lever.choosing import bests as told
    from zesty_lever.choosing.calibrate import Known, calibrated
    from zesty_lever.exercises.catalogue import catalogue

    athlete = athlete_from({"height_m": 1.78, "mass_kg": 82, "sex": "male"})
    kilograms = {"back-squat-high-bar": 130, "conventional-deadlift": 160, "front-squat": 108}
    loaded = [v.id for v in catalogue().values() if v.load and v.load_range_kg()[1] > 0]
    cases = {name: told.Case(athlete=athlete, variation=name) for name in loaded}

    def demands() -> None:
        told.forget_demands()
        for case in cases.values():
            told.demand_for(case)

    known = [
        Known(n, told.demand_for(cases[n]), kg, told.lift_use(n).use, told.lift_use(n).sd)
        for n, kg in kilograms.items()
    ]
    strength = told.strength_of(athlete.changed(best_loads_kg=kilograms))
    print(f"demands of {len(loaded)} lifts        {timed(demands, 3):6.2f} s    aim < 1 s")
    print(
        f"calibration, three bests   {1e3 * timed(lambda: calibrated(athlete, known), 9):6.1f} ms   aim < 40 ms"
    )

    def expected() -> None:
        strength.expected.clear()
        for name in loaded:
            told.expected_best(strength, name)

    every = timed(expected, 3)
    print(f"all expected bests         {every:6.2f} s    aim < 0.3 s")
    print(
        f"the best worth testing     {1e3 * timed(lambda: told.most_telling(strength), 3):6.1f} ms"
    )


def bench_measure() -> None:
    """A 10 s 1080p60 H.264 clip: first frame, steps both ways, following four marks on one core."""
    from fractions import Fraction

    import av
    import numpy as np

    from zesty_lever.measure.clip import Clip
    from zesty_lever.measure.track import track

    path = Path(tempfile.mkdtemp(prefix="zesty-lever-bench-")) / "a.mp4"
    rng = np.random.default_rng(1)
    low = rng.standard_normal((90, 160))
    ground = np.clip(128 + 40 * np.kron(low, np.ones((14, 14)))[:1200, :2100], 0, 255)
    ground = ground + 12 * rng.standard_normal(ground.shape)
    ground = np.clip(ground, 0, 255).astype(np.uint8)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=60, options={"crf": "23", "preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, "yuv420p"
        stream.codec_context.gop_size = 60
        for number in range(600):
            y = round(50 + 45 * np.sin(number / 40))
            frame = np.concatenate(
                [ground[y : y + 1080, 60:1980], np.full((540, 1920), 128, np.uint8)]
            )
            picture = av.VideoFrame.from_ndarray(frame, format="yuv420p")
            picture.pts, picture.time_base = number, Fraction(1, 60)
            out.mux(stream.encode(picture))
        out.mux(stream.encode(None))
    code = f"from pathlib import Path\nfrom zesty_lever.measure.clip import Clip\nClip(Path({str(path)!r})).picture(0)"
    run = [sys.executable, "-c", code]
    bare = [sys.executable, "-c", "import zesty_lever.measure.measuring"]
    first, base = (timed(lambda r=r: subprocess.run(r, check=True), 3) for r in (run, bare))
    print(
        f"first frame of a 10 s 1080p60 clip   {first - base:5.2f} s above the program's own start   aim < 0.5 s"
    )
    clip = Clip(path)
    clip.picture(100)

    def steps(order: range) -> str:
        seconds = []
        for number in order:
            start = time.perf_counter()
            clip.picture(number)
            seconds.append(time.perf_counter() - start)
        seconds.sort()
        return f"median {1e3 * seconds[len(seconds) // 2]:5.1f} ms   95 % {1e3 * seconds[int(0.95 * len(seconds))]:5.1f} ms"

    print(f"step to the next frame   {steps(range(101, 220))}   aim < 30 ms")
    print(f"step back                {steps(range(218, 121, -1))}   aim < 60 ms")
    cores = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(cores)})
    try:
        own = Clip(path)
        marks = {
            name: {0: (x, 500.0), 119: (x, 500.0 - 45 * np.sin(119 / 40))}
            for name, x in (("ankle", 400.0), ("knee", 800.0), ("hip", 1200.0), ("bar", 1500.0))
        }
        start = time.perf_counter()
        track(own, marks)
        pace = 120 / (time.perf_counter() - start)
    finally:
        os.sched_setaffinity(0, cores)
    print(f"following four marks both ways, one core   {pace:5.1f} frames a second   aim >= 20")


def bench_machine() -> None:
    """How fast this machine is right now: small NumPy calls, as the drag makes them."""
    now = statistics.median(call_us(1000) for _ in range(20))
    print(f"this machine now       {now:5.2f} us a NumPy call on 61 numbers")


if __name__ == "__main__":
    keep_freed_memory()
    bench_machine()
    bench_solve()
    bench_choosing()
    bench_drag()
    bench_families()
    bench_commits()
    bench_start()
    bench_effort()
    bench_measure()
