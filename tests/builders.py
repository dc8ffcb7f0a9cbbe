"""Cases of invented athletes, and the spread of builds that facts are held to."""

from itertools import product

from zesty_lever.analysis import analyse
from zesty_lever.cases.parse import case_from
from zesty_lever.joints import JOINTS

MALE = {"height_m": 1.78, "mass_kg": 82, "sex": "male"}


def case_of(variation="back-squat-high-bar", load=60, athlete=None, **more):
    """A case with defaults that keep tests short."""
    data = {
        "format": "zesty-lever-case/1",
        "athlete": {**MALE, **(athlete or {})},
        "variation": variation,
        **({} if load is None else {"load_kg": load}),
        **more,
    }
    return case_from(data)


def solve(*args, **kwargs):
    """Analyse a feasible case."""
    result = analyse(case_of(*args, **kwargs))
    assert result.error is None, result.error.text
    return result


def extension(result, joint, frame=None):
    """Extension moment (N m) of a joint, at the bottom unless another frame is given."""
    frame = result.timeline.bottom if frame is None else frame
    return float(result.shown.moments.extension[JOINTS.index(joint), frame])


def vector(result, joint):
    """Moment vector (N m, ISB axes) of a joint at the bottom."""
    return result.shown.moments.vector[:, JOINTS.index(joint), result.timeline.bottom]


def builds():
    """Heights 1.50-2.00 m, both sexes, thigh -8 / 0 / +8 % (the spread that facts are held to)."""
    for height, sex, thigh in product(
        (1.50, 1.62, 1.75, 1.88, 2.00), ("female", "male"), (0.92, 1.0, 1.08)
    ):
        yield {
            "height_m": height,
            "mass_kg": round(23.5 * height**2, 1),
            "sex": sex,
            "lengths_m": {"thigh": round(0.245 * height * thigh, 4)},
        }
