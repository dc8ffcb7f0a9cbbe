"""The nearest thing that can be drawn, so that an impossible pose is shown as impossible."""

from __future__ import annotations

from zesty_lever.analysis import Result, analyse
from zesty_lever.exercises.catalogue import variation

UNBALANCED_TRUNK_DEG = 45.0


def drawable(result: Result) -> Result:
    """The result itself, or the nearest one with a pose, so that the impossible can be shown.

    First the trunk is held at a usual lean whatever balance says, then the feet come closer too.
    Nothing but an outline is drawn from the replacement, and its numbers are never shown.
    """
    if result.pose is not None:
        return result
    case = result.case
    usual = variation(case.variation).default_technique(case.athlete, case.school)
    settings = dict(case.settings)
    for key, held in (("trunk_deg", UNBALANCED_TRUNK_DEG), ("shin_deg", 30.0), ("thigh_deg", 20.0)):
        if key in settings and (settings[key] is None or key == "trunk_deg"):
            settings[key] = held
    closer = {"stance_m": usual["stance_m"]}
    for trial in (settings, settings | closer, usual):
        nearest = analyse(case.model_copy(update={"settings": trial}), advise=False)
        if nearest.pose is not None:
            return nearest
    return result
