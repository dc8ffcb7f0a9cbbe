"""Clips with known truth: angles, their errors, reps, faults, warnings; the case that comes out."""

import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pytest
from film import Film, key_frames, marks_of, some_take
from measured import CLIPS, film, marked, measured, opened, take, tracked

from zesty_lever.analysis import analyse
from zesty_lever.choosing.uncertainty import draw
from zesty_lever.measure.against import against, against_sentences
from zesty_lever.measure.clip import Clip
from zesty_lever.measure.marks import CameraTape, MarksFile, marks_from
from zesty_lever.measure.measuring import measure

ANGLES = ("shin", "thigh", "trunk")


def off(motion, truth):
    """Error of every angle over the frames, deg."""
    true = truth.motion.angles_deg(motion.times_s)
    return {name: motion.angles[name] - true[name] for name in ANGLES}


def test_the_shipped_side_clip_is_measured_as_it_was_filmed():
    """Shin within 1.2 and thigh within 2 degrees RMS, trunk by the bar within 3; three reps and their tempo."""
    motion, truth = measured("squat-side"), take("squat-side")
    errors = off(motion, truth)
    rms = {name: float(np.sqrt(np.mean(e**2))) for name, e in errors.items()}
    assert rms["shin"] < 1.2
    assert rms["thigh"] < 2.0
    assert rms["trunk"] < 3.0
    for name in ANGLES:
        assert np.mean(np.abs(errors[name]) < 2.0 * motion.sd[name]) > 0.9
    assert len(motion.reps) == 3
    for rep, (_, bottom, _), case in zip(motion.reps, truth.motion.reps, truth.cases, strict=True):
        assert rep.bottom_s == pytest.approx(bottom, abs=0.1)
        assert rep.tempo_s[0] == pytest.approx(case.tempo_s[0], abs=0.35)
        assert rep.tempo_s[2] == pytest.approx(case.tempo_s[2], abs=0.35)


def test_only_the_second_rep_has_the_hips_first():
    """Filmed with 20 degrees of hips rising first in rep 2: flagged there, in no other rep, and nothing else."""
    found = measured("squat-side").findings
    assert [(f.code, f.rep) for f in found] == [("hips-rise-first", 2)]
    assert found[0].size > 5.0 > found[0].sd


def test_the_bar_keeps_its_place_to_a_centimetre():
    """The path of the bar against the truth, from its own start."""
    motion, truth = measured("squat-side"), take("squat-side")
    bar = truth.motion.at(motion.times_s)["bar"][:2].T
    gap = (motion.bar_m - motion.bar_m[0]) - (bar - bar[0])
    assert np.sqrt(np.mean(gap[:, 0] ** 2)) < 0.01
    assert np.sqrt(np.mean(gap[:, 1] ** 2)) < 0.015


def test_measured_lengths_are_the_athletes():
    """Shank and thigh within two of their standard errors of the build that was filmed."""
    motion, athlete = measured("squat-side"), take("squat-side").cases[0].athlete
    for name, (value, sd) in motion.lengths_m.items():
        assert value == pytest.approx(athlete.length_m(name), abs=2.5 * sd)


@pytest.mark.slow
def test_only_the_last_rep_from_the_front_caves():
    """Knees 3.5 cm inside in rep 3: both flagged there alone; stance and toe-out as filmed."""
    motion, truth = measured("squat-front"), take("squat-front")
    settings = analyse(truth.cases[0]).case.settings
    assert {(f.code, f.rep) for f in motion.findings} == {("knee-track", 3)}
    for fault in motion.findings:
        assert fault.size == pytest.approx(3.5, abs=1.64 * fault.sd)
    assert motion.distances_m["stance"] == pytest.approx(settings["stance_m"], abs=0.015)
    assert motion.case.settings["toe_out_deg"] == pytest.approx(settings["toe_out_deg"], abs=4.0)
    assert abs(motion.distances_m["hip_shift"]) < 0.01
    third = measured("squat-front", rep=3)
    assert third.case.settings["knee_track_m"] == pytest.approx(-0.035, abs=0.025)
    assert third.distances_m["knee_track_right"] == pytest.approx(-0.035, abs=0.015)


@pytest.mark.slow
def test_side_and_front_add_up():
    """What the side saw stays when the front is measured with it as settings, and makes the front surer."""
    side = measured("squat-side").case
    front = measured("squat-front", settings=side.settings)
    kept = {k: side.settings[k] for k in ("shin_deg", "thigh_deg", "trunk_deg")}
    assert {k: front.case.settings[k] for k in kept} == kept
    assert front.case.settings["stance_m"] == pytest.approx(0.397, abs=0.015)
    alone = measured("squat-front")
    assert front.distances_sd_m["knee_track_left"] < alone.distances_sd_m["knee_track_left"]
    assert "depth-unknown" in {w.code for w in alone.warnings}
    assert "depth-unknown" not in {w.code for w in front.warnings}


def test_the_measured_case_brings_its_own_errors():
    """It can be done, and its interval is narrower than with the usual 3 degrees."""
    case = measured("squat-side").case
    assert 0.5 < case.errors.shin_deg < 3.0
    result = analyse(case)
    usual = analyse(case.changed(errors=None))
    own, flat = (
        draw(r, draws=300, joints=["hip_right"]).interval("hip_right") for r in (result, usual)
    )
    assert own.nominal == pytest.approx(flat.nominal)
    assert own.half_width < 0.9 * flat.half_width


def test_meant_against_done_says_what_is_sure_and_what_is_not():
    """The same as meant: nothing excluded. Meant 8 degrees deeper: shallower for sure, with less at hip and knee."""
    motion = measured("squat-side")
    meant = take("squat-side").cases[0]
    same = against(meant, motion)
    assert not any(change.difference.excludes_none for change in same.changes)
    assert all("as meant" in line for line in against_sentences(same)[:1])
    deeper = against(meant.changed(settings={"thigh_deg": -12.0}), motion)
    words = " ".join(against_sentences(deeper))
    assert "shallower" in words
    assert deeper.changes[0].difference.nominal < 0.0
    assert "at the same load" in words


def test_a_hidden_hip_has_no_angle_and_a_planted_ankle_is_carried():
    """While the hip is hidden: no thigh, no trunk; the ankle's gap is carried and said to be."""
    marks = marked("squat-side").changed(hidden={"hip": ((20, 30),), "ankle": ((70, 80),)})
    motion = measure(opened("squat-side"), marks)
    at = slice(20 - motion.first, 31 - motion.first)
    assert np.isnan(motion.angles["thigh"][at]).all()
    assert np.isnan(motion.angles["trunk"][at]).all()
    assert not np.isnan(motion.angles["shin"][at]).any()
    assert motion.inferred["ankle"][70 - motion.first : 81 - motion.first].all()
    frames = motion.as_json()["frames"]
    assert frames[25]["angles_deg"]["thigh"] is None
    assert frames[25]["marks_px"]["hip"] is None
    assert frames[75]["inferred"] == ["ankle"]
    json.dumps(motion.as_json(), allow_nan=False)
    assert "mark-lost" in {w.code for w in motion.warnings}


def test_a_sleeve_shows_a_yaw_of_five_degrees_and_a_camera_one_and_a_half_metres_high():
    """Neither is entered; the sleeve's marks tell both, and the words say what was done about it."""
    shot = some_take(3)
    camera = replace(shot.camera, yaw_deg=5.0, height_m=1.5, pitch_deg=-6.0)
    shot = replace(shot, camera=camera)
    made = Film(shot)
    frames = key_frames(shot)
    marks = marks_from(
        marks_of(
            made,
            frames,
            sleeve=True,
            tape=False,
            camera={"distance_m": round(camera.distance_m, 2)},
        )
    )
    still = stills(made, marks, frames)
    codes = {w.code: w for w in still.warnings}
    assert codes["yaw"].size == pytest.approx(5.0, abs=2.0)
    assert codes["camera-high"].size == pytest.approx(1.5, abs=0.2)
    square = Film(replace(shot, camera=replace(camera, yaw_deg=0.0, height_m=0.9, pitch_deg=0.0)))
    marks = marks_from(
        marks_of(
            square,
            frames,
            sleeve=True,
            tape=False,
            camera={"distance_m": round(camera.distance_m, 2)},
        )
    )
    assert not {"yaw", "camera-high"} & {w.code for w in stills(square, marks, frames).warnings}


class Stills:
    """The marked moments of a film as a clip of their own: no picture is looked at where every frame is marked."""

    def __init__(self, made, frames):
        self.path = Path("film")
        self.frames, self.width, self.height = (
            len(frames),
            made.take.camera.width,
            made.take.camera.height,
        )
        self.times_s = made.take.times_s[frames]

    def luma(self, _index):
        return np.zeros((self.height, self.width), np.uint8)

    def group_start(self, index):
        return index


def stills(made, marks, frames):
    """Measure by the hand marks alone."""
    own = {
        name: {frames.index(f): p for f, p in places.items()}
        for name, places in marks.marks.items()
    }
    return measure(Stills(made, frames), marks.changed(marks=own))


def test_a_lifted_heel_a_knee_past_the_toe_and_a_straying_bar_are_told():
    """Filmed with the heel 10 degrees up and the shin at 42: each with its size; the heel goes into the set-up.

    With only the ball to stand on, the trunk as measured may tip by a hair: inside its error balance finds it.
    """
    shot = some_take(3)
    settings = {k: shot.cases[0].settings[k] for k in ("stance_m", "toe_out_deg", "thigh_deg")}
    lifted = {**settings, "heel_lift_deg": 10.0, "shin_deg": 42.0, "trunk_deg": None}
    case = analyse(shot.cases[0].changed(settings={**lifted, "pressure_fraction": 0.73})).case
    shot = replace(shot, cases=(case,))
    frames = list(range(0, len(shot.times_s), 3))
    names = ("ankle", "knee", "hip", "bar", "heel", "ball", "toe")
    marks = marks_from(marks_of(Film(shot), frames, names, finger=0.0, school="hips-first"))
    motion = stills(Film(shot), marks, frames)
    sizes = {f.code: f.size for f in motion.findings}
    assert sizes["heel-lift"] == pytest.approx(10.0, abs=2.0)
    points = shot.motion.at(shot.motion.reps[0][1])
    past = 100.0 * float(points["knee_right"][0] - points["toe_right"][0])
    assert sizes["knee-past-toe"] == pytest.approx(past, abs=2.5)
    assert "bar-drift" in sizes
    assert motion.case.settings["heel_lift_deg"] == pytest.approx(10.0, abs=2.0)
    assert analyse(motion.case).feasible


@pytest.mark.parametrize(
    "name",
    [
        "romanian-deadlift",
        "conventional-deadlift",
        "hip-thrust",
        "split-squat",
        "step-up",
        "good-morning",
    ],
)
def test_every_family_is_measured(name):
    """Two reps of 2 s down and 1 s up, marked to a pixel: angles to 1.5 (trunk 2.5) degrees RMS, reps, tempo in its order."""
    shot = some_take(3)
    case = analyse(
        shot.cases[0].changed(variation=name, settings={}, load_kg=None, tempo_s=(2, 0, 1, 0))
    ).case
    shot = replace(shot, cases=(case, case))
    names = ["ankle", "knee", "hip", "shoulder", *(["bar"] if "bar" in shot.motion.tracks else [])]
    frames = list(range(0, len(shot.times_s), 2))
    motion = stills(Film(shot), marks_from(marks_of(Film(shot), frames, names, finger=0.0)), frames)
    errors = off(motion, shot)
    for angle, most in (("shin", 1.5), ("thigh", 1.5), ("trunk", 2.5)):
        assert np.sqrt(np.nanmean(errors[angle] ** 2)) < most
    assert len(motion.reps) == 2
    for rep in motion.reps:
        assert rep.tempo_s[0] == pytest.approx(2.0, abs=0.35)
        assert rep.tempo_s[2] == pytest.approx(1.0, abs=0.35)


def test_a_thigh_seen_longer_than_it_was_measured_is_said():
    """An athlete whose thigh was taped 20 % shorter than it is: the picture contradicts."""
    marks = marked("squat-side")
    short = marks.athlete.changed(lengths_m={"thigh": 0.34})
    motion = measured("squat-side", athlete=short)
    told = next(w for w in motion.warnings if w.code == "segment-long")
    assert "measured as 34 cm" in told.text


def test_what_is_not_known_of_the_camera_is_said_and_widens_the_errors():
    """No tape, no sleeve: distance and yaw are unknown, in words and in the standard errors."""
    full = measured("squat-side")
    bare = measured("squat-side", camera=CameraTape(), sleeve=None)
    assert {"yaw-unknown", "distance-unknown"} <= {w.code for w in bare.warnings}
    for name in ANGLES:
        assert bare.sd[name].mean() > full.sd[name].mean()


def test_a_still_gives_angles_of_its_moment():
    """A photo: one frame, no rep, a case without tempo of its own."""
    truth = take("split-squat")
    at = key_frames(truth)[1]
    clicks = film("split-squat").clicks([at], ["ankle", "knee", "hip", "shoulder"])
    marks = MarksFile(
        athlete=truth.cases[0].athlete,
        variation=truth.cases[0].variation,
        marks={name: {0: tuple(places[at])} for name, places in clicks.items()},
        camera=CameraTape(distance_m=4.1, height_m=0.85, yaw_deg=0.0),
    )
    motion = measure(Clip(CLIPS / "split-squat.jpg"), marks)
    true = truth.motion.angles_deg(truth.times_s[at])
    for name in ANGLES:
        assert motion.angles[name][0] == pytest.approx(
            float(true[name]), abs=3.0 * motion.sd[name][0]
        )
    assert motion.reps == ()
    assert motion.rep == 0
    assert "no-scale" in {w.code for w in motion.warnings}
    assert analyse(motion.case).feasible


def test_seen_from_the_left_is_the_same_athlete():
    """The clip turned over and its marks with it: the same angles, near side left."""
    marks, width = marked("squat-side"), opened("squat-side").width

    def over(place):
        return (width - 1.0 - place[0], place[1])

    disc = marks.calibration.disc
    turned = marks.changed(
        near_side="left",
        calibration=marks.calibration.changed(disc=disc.changed(centre_px=over(disc.centre_px))),
        sleeve=marks.sleeve.changed(
            hub_px=over(marks.sleeve.hub_px), end_px=over(marks.sleeve.end_px)
        ),
        plumb_px=tuple(over(p) for p in marks.plumb_px),
        marks={n: {f: over(p) for f, p in places.items()} for n, places in marks.marks.items()},
    )
    right = tracked("squat-side")
    flipped = right.places_px.copy()
    flipped[..., 0] = width - 1.0 - flipped[..., 0]
    motion = measure(opened("squat-side"), turned, tracks=replace(right, places_px=flipped))
    usual = measured("squat-side")
    for name in ANGLES:
        assert motion.angles[name] == pytest.approx(usual.angles[name], abs=1e-6)


def ensemble(job):
    """One filmed, marked and measured take: errors and whether they lie in their bands.

    Marked twice: on the very spots to a pixel, and with a finger that is off as assumed.
    """
    seed, more = job
    found = {}
    with TemporaryDirectory() as folder:
        shot = some_take(seed, **more)
        made = Film(shot)
        path = Path(folder) / "a.mp4"
        made.write(path)
        for name, finger in (("spot", 0.0), ("finger", 1.0)):
            motion = measure(Clip(path), marks_from(marks_of(made, finger=finger)))
            errors = off(motion, shot)
            bands = {
                n: [np.abs(errors[n]) < times * motion.sd[n] for times in (1.0, 2.0)]
                for n in ANGLES
            }
            (rep,) = motion.reps
            tempo = shot.cases[0].tempo_s
            late = max(abs(rep.tempo_s[0] - tempo[0]), abs(rep.tempo_s[2] - tempo[2]))
            found[name] = (errors, bands, abs(rep.bottom_s - shot.motion.reps[0][1]), late)
    return found


def run(count, **more):
    # Started anew, not forked: the process of the tests has threads and may have grown large.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        return list(pool.map(ensemble, [(100 + seed, more) for seed in range(count)]))


def rms(found, name, marked_by="spot"):
    return float(np.sqrt(np.mean(np.concatenate([f[marked_by][0][name] for f in found]) ** 2)))


@pytest.mark.slow
def test_clips_not_seen_before_in_clothes():
    """720p30, clothes that slide, marks to a pixel at start, deepest, end: shin within 1.2, thigh 2.0 RMS.

    Tape, upright, disc, yaw and depths are off as coaches' are. With a finger off by 15, 7 and 4 mm one standard
    error holds 55-80 % of frames, two 90 %. Yaw of 8 degrees, entered: no more than 1.3 times
    worse than the same takes with a camera about square.
    """
    found = run(16)
    assert rms(found, "shin") < 1.2
    assert rms(found, "thigh") < 2.0
    for name in ("shin", "thigh"):
        one, two = (
            np.mean(np.concatenate([f["finger"][1][name][k] for f in found])) for k in (0, 1)
        )
        assert 0.55 <= one <= 0.80, (name, one)
        assert two >= 0.9
    for marked_by in ("spot", "finger"):
        assert max(f[marked_by][2] for f in found) < 0.1
        assert max(f[marked_by][3] for f in found) < 0.35
    turned = run(16, yaw_deg=8.0)
    for name in ("shin", "thigh"):
        assert rms(turned, name) < 1.3 * rms(found, name)


@pytest.mark.slow
def test_clips_not_seen_before_with_stickers():
    """Stickers do not slide: shin within 1.0, thigh 1.3 RMS, marks to a pixel."""
    found = run(10, stickers=True)
    assert rms(found, "shin") < 1.0
    assert rms(found, "thigh") < 1.3
