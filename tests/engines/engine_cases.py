"""Random legal cases for the engines: athletes, settings and loads of every variation."""

import numpy as np

from zesty_lever.cases.parse import case_from
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import catalogue


def random_cases(name, count, seed):
    random = np.random.default_rng(seed)
    entry = catalogue()[name]
    low, high = entry.load_range_kg()
    for _ in range(count):
        height = random.uniform(1.5, 2.0)
        if not entry.stands_level:
            yield nearby_case(entry, height, random)
            continue
        settings = {
            "stance_m": random.uniform(0.12, 0.36) * height,
            "toe_out_deg": random.uniform(0, 35),
            "thigh_deg": random.uniform(-15, 60),
            "shin_deg": random.uniform(22, 37),
            "knee_track_m": random.uniform(-0.05, 0.05),
        }
        style = random.integers(3)
        if style == 0:
            settings["heel_lift_deg"] = random.uniform(1, 20)
        elif style == 1:
            settings["heel_height_m"] = random.uniform(0, 0.04)
            settings["pressure_fraction"] = random.uniform(0.3, 0.7)
        if entry.family == "hinge":
            settings |= {
                "shin_deg": random.uniform(-4, 12),
                "trunk_deg": random.uniform(30, 78),
                "stance_m": random.uniform(0.1, 0.2) * height,
                "hands_ahead_m": random.uniform(-0.2, 0.2),
            }
            del settings["thigh_deg"]
            settings.pop("heel_lift_deg", None)
        settings = {k: v for k, v in settings.items() if k in entry.settings}
        if "reach_deg" in entry.settings:
            settings["reach_deg"] = random.uniform(0, 120)
        yield case_from(
            {
                "format": "zesty-lever-case/1",
                "variation": name,
                "settings": settings,
                "load_kg": random.uniform(low, min(high, 200)),
                "athlete": {
                    "height_m": height,
                    "mass_kg": random.uniform(20, 30) * height**2,
                    "sex": ["male", "female"][random.integers(2)],
                    "lengths_m": {"thigh": 0.245 * height * random.uniform(0.92, 1.08)},
                    "limits_deg": {
                        "ankle_dorsiflexion": 45,
                        "hip_opening": 60,
                        "hip_flexion": random.uniform(95, 130),
                    },
                },
            }
        )


def nearby_case(entry, height, random):
    """A variation at its defaults, every setting moved by up to a tenth of its range."""
    athlete = {
        "height_m": height,
        "mass_kg": random.uniform(20, 30) * height**2,
        "sex": ["male", "female"][random.integers(2)],
        "limits_deg": {"ankle_dorsiflexion": 45, "hip_opening": 60},
    }
    bare = case_from({"format": "zesty-lever-case/1", "athlete": athlete, "variation": entry.id})
    settings = {}
    for key, value in technique_of(entry, bare.athlete, "even").items():
        if value is not None:
            setting = entry.settings[key]
            reach = 0.1 * (setting.high - setting.low) if value else 0.0
            settings[key] = float(
                np.clip(value + random.uniform(-reach, reach), setting.low, setting.high)
            )
    low, high = entry.load_range_kg()
    return case_from(
        {
            "format": "zesty-lever-case/1",
            "athlete": athlete,
            "variation": entry.id,
            "settings": settings,
            "load_kg": random.uniform(low, min(high, 200)),
            "contact_rule": ["least-effort", "vertical"][random.integers(2)],
        }
    )
