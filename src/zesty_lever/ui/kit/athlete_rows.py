"""Numbers of the athlete that more than one screen shows."""

from __future__ import annotations

from collections.abc import Callable

from zesty_lever.bench import edits
from zesty_lever.exercises.catalogue import Setting
from zesty_lever.ui.kit.controls import described
from zesty_lever.ui.session import Session

ATHLETE_ROWS = (
    described("height_m", "Height", "stature", "m", 1.2, 2.3, 0.01, "Standing height, no shoes."),
    described("mass_kg", "Body mass", "bodyweight", "kg", 30, 250, 1, "Body mass."),
)


def athlete_setter(session: Session, setting: Setting) -> Callable[[float], None]:
    """What takes over one number of the athlete."""

    def take(value: float) -> None:
        session.do(edits.change_athlete, f"Set {setting.name.lower()}", **{setting.key: value})

    return take
