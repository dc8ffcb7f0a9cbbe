"""Films invented athletes: the demo's clips, and clips with known truth for the tests of measuring.

The body is the program's own pose, seen by a pinhole camera: textured limbs and clothes that slide over
the joints, a bar with its disc, a wall; with blur, noise, shake and compression. What is filmed is
invented; what is known exactly is where every joint is. ``python tools/film.py`` writes the demo's clips.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from filming.canvas import cloth
from filming.coach import key_frames, marks_of, some_take
from filming.film import Film
from filming.scene import Camera, Take

from zesty_lever.cases.model import Athlete, Case
from zesty_lever.models import read

__all__ = ("Camera", "Film", "Take", "cloth", "demo_takes", "key_frames", "marks_of", "some_take")

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "src/zesty_lever/data/demo"


def front_marks_of(film: Film, frames: Sequence[int], **more: Any) -> dict[str, Any]:
    """A marks file's data for a film of the front: both legs' joints, a taped length on the floor between the ankles."""
    take = film.take
    names = [f"{n}_{s}" for n in ("ankle", "knee", "hip", "toe") for s in ("left", "right")]
    case = take.cases[0]
    low = np.array([0.0, 0.0, 0.6]), np.array([0.0, 0.0, -0.6])
    ends = [take.camera.px(p) + film.shifts[0] for p in low]
    return {
        "format": "zesty-lever-marks/1",
        "view": "front",
        "athlete": case.athlete.as_json(),
        "variation": case.variation,
        "load_kg": case.load_kg,
        "calibration": {
            "length": {
                "frame": 0,
                "from_px": [round(float(v), 2) for v in ends[0]],
                "to_px": [round(float(v), 2) for v in ends[1]],
                "length_m": 1.2,
                "z_m": 0.0,
            }
        },
        "camera": {
            "distance_m": take.camera.distance_m,
            "height_m": take.camera.height_m,
            "yaw_deg": 0.0,
        },
        "marks": {
            n: {str(f): p for f, p in v.items()} for n, v in film.clicks(frames, names).items()
        },
        **more,
    }


def demo_takes() -> dict[str, Take]:
    """The three pieces of film that ship with the application."""
    bench = json.loads((DEMO / "bench.json").read_text(encoding="utf-8"))
    oda = read(Athlete, bench["athletes"][0], "athlete")
    tempo = (1.6, 0.0, 1.0, 0.0)
    squat = Case(athlete=oda, variation="back-squat-high-bar", load_kg=55, tempo_s=tempo)
    shoots = squat.changed(settings={"hips_rise_deg": 20.0})
    caves = squat.changed(settings={"knee_track_m": -0.035})
    light = {"noise": 1.5, "crf": 28, "stand_s": 0.4, "blur_steps": 3}
    side = Camera(
        distance_m=4.1, height_m=0.85, yaw_deg=1.5, pitch_deg=0.4, roll_deg=0.4, focal_px=1330.0
    )
    front = Camera(distance_m=4.3, height_m=0.9, focal_px=1330.0, front=True)
    split = Case(athlete=oda, variation="goblet-split-squat", load_kg=14)
    return {
        "squat-side": Take((squat, shoots, squat), camera=side, seed=21, **light),
        "squat-front": Take((squat, squat, caves), camera=front, seed=22, **light),
        "split-squat": Take(
            (split,), camera=replace(side, yaw_deg=0.0), seed=23, bar=False, **light
        ),
    }


def make_demo(folder: Path) -> None:
    """Write the demo's clips, photo and their marks."""
    folder.mkdir(parents=True, exist_ok=True)
    takes = demo_takes()
    for name in ("squat-side", "squat-front"):
        film = Film(takes[name])
        film.write(folder / f"{name}.mp4")
        frames = key_frames(film.take)
        if name == "squat-side":
            data = marks_of(film, frames, sleeve=True, yaw=False)
        else:
            data = front_marks_of(film, frames)
        data["clip"] = f"{name}.mp4"
        (folder / f"{name}.marks.json").write_text(
            json.dumps(data, indent=1) + "\n", encoding="utf-8"
        )
    film = Film(takes["split-squat"])
    from PySide6.QtGui import QImage

    luma = film.frame(key_frames(film.take)[1])
    tint = np.stack([luma, luma * 0.96, luma * 0.9], axis=-1).astype(np.uint8)
    picture = QImage(
        tint.tobytes(), tint.shape[1], tint.shape[0], 3 * tint.shape[1], QImage.Format.Format_RGB888
    )
    picture.save(str(folder / "split-squat.jpg"), "JPG", 85)
    case = film.take.cases[0]
    marks = {
        "format": "zesty-lever-marks/1",
        "clip": "split-squat.jpg",
        "athlete": case.athlete.as_json(),
        "variation": case.variation,
        "load_kg": case.load_kg,
    }
    (folder / "split-squat.marks.json").write_text(
        json.dumps(marks, indent=1) + "\n", encoding="utf-8"
    )


if __name__ == "__main__":
    make_demo(DEMO / "clips")
