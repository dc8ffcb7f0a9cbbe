"""What a coach would set by hand on a film, off by what tape and finger are off by; takes drawn by chance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from filming.canvas import post_px
from filming.film import Film
from filming.scene import DISC_RADIUS_M, FACE_Z_M, SLEEVE_M, Camera, Take, skin
from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Athlete, Case


def key_frames(take: Take) -> list[int]:
    """The frames that are marked: the start, the deepest moment of each rep, the end."""
    deepest = [int(np.argmin(np.abs(take.times_s - rep[1]))) for rep in take.motion.reps]
    return [0, *deepest, len(take.times_s) - 1]


def marks_of(
    film: Film,
    frames: Sequence[int] | None = None,
    names: Sequence[str] = ("ankle", "knee", "hip", "bar"),
    *,
    sleeve: bool = False,
    yaw: bool = True,
    tape: bool = True,
    finger: float = 1.0,
    **more: Any,
) -> dict[str, Any]:
    """A marks file's data as a coach would set it for a film of the side: off by what tape and finger are off by."""
    take = film.take
    camera, case = take.camera, take.cases[0]
    rng = np.random.default_rng([take.seed, 6])
    at = list(key_frames(take) if frames is None else frames)
    points = take.motion.at(float(take.times_s[0]))
    spots = skin(points, "right", take.thick)
    shift = film.shifts[0]
    known: dict[str, Any] = {}
    if take.bar and "bar" in spots:
        face = camera.px(spots["bar"]) + shift
        radius = DISC_RADIUS_M * float(camera.scale(spots["bar"]))
        squash = float(np.cos(np.radians(camera.yaw_deg)))
        known["calibration"] = {
            "disc": {
                "frame": 0,
                "centre_px": [round(float(v + rng.normal(0, 0.7)), 2) for v in face],
                "half_axes_px": [
                    round(radius + rng.normal(0, 0.7), 2),
                    round(radius * squash + rng.normal(0, 0.7), 2),
                ],
                "diameter_m": 0.45,
                "face_z_m": round(FACE_Z_M + rng.normal(0, 0.02), 3),
            }
        }
        if sleeve:
            end = camera.px(spots["sleeve"]) + shift
            known["sleeve"] = {
                "frame": 0,
                "hub_px": [round(float(v + rng.normal(0, 0.6)), 2) for v in face],
                "end_px": [round(float(v + rng.normal(0, 0.6)), 2) for v in end],
                "length_m": SLEEVE_M,
            }
    low, high = post_px(camera)
    # Nothing is quite upright.
    high = high + [float(np.tan(np.radians(rng.normal(0, 0.25)))) * float(low[1] - high[1]), 0.0]
    ends = [low + share * (high - low) for share in (0.1, 0.7)]
    known["plumb_px"] = [[round(float(v + rng.normal(0, 0.7)), 2) for v in end] for end in ends]
    if tape:
        known["camera"] = {
            "distance_m": round(camera.distance_m + rng.normal(0, 0.2), 2),
            "height_m": round(camera.height_m + rng.normal(0, 0.03), 2),
        }
        if yaw:
            known["camera"] |= {
                "yaw_deg": round(camera.yaw_deg + rng.normal(0, 1.5), 1),
                "yaw_sd_deg": 1.5,
            }
    # A tape on the floor and a look at the feet are off as well.
    off = {"stance_m": rng.normal(0, 0.03), "toe_out_deg": rng.normal(0, 3.0)}
    settings = {
        k: round(max(case.settings[k] + v, 0.1), 3)
        for k, v in off.items()
        if case.settings.get(k) is not None
    }
    return {
        "format": "zesty-lever-marks/1",
        "view": "side",
        "near_side": "right",
        "athlete": _as_known(case.athlete),
        "variation": case.variation,
        "load_kg": case.load_kg,
        "settings": settings,
        "stickers": take.stickers,
        "marks": {
            n: {str(f): p for f, p in v.items()}
            for n, v in film.clicks(at, names, finger=finger).items()
        },
        **known,
        **more,
    }


def _as_known(athlete: Athlete) -> dict[str, Any]:
    """The athlete as a coach knows them: hip joints can't be taped."""
    lengths = {k: v for k, v in athlete.lengths_m.items() if k != "hip_width"}
    return athlete.changed(lengths_m=lengths).as_json()


def some_take(seed: int, **more: Any) -> Take:
    """A take drawn by chance: a build, a technique, a load, a camera as coaches set it up."""
    rng = np.random.default_rng([seed, 1])
    sex = ("male", "female")[int(rng.integers(2))]
    height = round(float(rng.uniform(1.55, 1.95)), 2)
    # Hips are as wide as they are; who measures only knows the usual.
    hips = round(0.1 * height * float(np.clip(rng.normal(1.0, 0.12), 0.7, 1.3)), 3)
    athlete = Athlete(
        name="Invented",
        height_m=height,
        mass_kg=round(24.0 * height**2, 1),
        sex=sex,
        lengths_m={"hip_width": hips},
    )
    variation = ("back-squat-high-bar", "back-squat-low-bar", "back-squat-high-bar")[
        int(rng.integers(3))
    ]
    school = ("even", "hips-first", "knees-travel")[int(rng.integers(3))]
    case = Case(
        athlete=athlete,
        variation=variation,
        school=school,
        load_kg=float(rng.choice([40, 60, 80])),
        tempo_s=(
            round(float(rng.uniform(1.2, 2.2)), 1),
            0.0,
            round(float(rng.uniform(0.8, 1.4)), 1),
            0.0,
        ),
    )
    case = analyse(case).case
    yaw = float(more.pop("yaw_deg", rng.uniform(-2.0, 2.0)))
    camera = Camera(
        distance_m=float(rng.uniform(3.6, 4.6)),
        height_m=float(rng.uniform(0.75, 1.0)),
        yaw_deg=yaw,
        pitch_deg=float(rng.normal(0.0, 0.5)),
        roll_deg=float(rng.normal(0.0, 0.6)),
        centre_off_px=(float(rng.normal(0, 20)), float(rng.normal(0, 20))),
    )
    camera = replace(camera, focal_px=310.0 * camera.distance_m)
    return Take((case,), camera=camera, seed=seed, **more)
