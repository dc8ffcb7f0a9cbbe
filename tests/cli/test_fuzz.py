"""Odd settings everywhere: every case is solved or says why, in words without a NaN, and never crashes."""

import numpy as np
import pytest

from builders import case_of
from zesty_lever.analysis import analyse_many
from zesty_lever.coaching.card import card_of
from zesty_lever.coaching.findings import findings
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.io.documents import result_document
from zesty_lever.problems import CaseError

CASES, MOST_CASES = 8, 56


def odd_cases(entry, seed):
    """Half of the settings anywhere in their range, any load, now and then another angle left to balance."""
    random = np.random.default_rng(seed)
    for _ in range(MOST_CASES):
        chosen = {
            key: float(random.uniform(s.low, s.high))
            for key, s in entry.settings.items()
            if key != entry.free and random.random() < 0.5
        }
        if chosen.get("heel_lift_deg"):
            chosen.pop("pressure_fraction", None)
        if entry.solvable and random.random() < 0.2:
            other = str(random.choice(entry.solvable))
            if other != entry.free:
                setting = entry.settings[entry.free]
                chosen |= {
                    other: None,
                    entry.free: float(random.uniform(setting.low, setting.high)),
                }
        low, high = entry.load_range_kg()
        yield case_of(
            entry.id,
            float(random.uniform(low, high)),
            {
                "height_m": float(random.uniform(1.4, 2.1)),
                "mass_kg": float(random.uniform(45, 130)),
            },
            settings=chosen,
            school=str(random.choice(["hips-first", "even", "knees-travel"])),
            contact_rule=str(random.choice(["vertical", "least-effort"])),
        )


def _outcomes(cases):
    """What becomes of cases, worked out in parts: the first ones, and more where none of those can stand."""
    for start in range(0, MOST_CASES, CASES):
        yield from analyse_many(cases[start : start + CASES])


@pytest.mark.parametrize("name", list(catalogue()))
def test_odd_settings_are_solved_or_explained(name):
    """Errors name a key, carry words and an allowed range of plain numbers; solved ones are finite and can
    be written, judged and set up."""
    solved = 0
    odd = list(odd_cases(catalogue()[name], len(name)))
    for number, outcome in enumerate(_outcomes(odd)):
        if number >= CASES and solved:
            break
        error = outcome if isinstance(outcome, CaseError) else outcome.error
        if error is not None:
            assert error.key
            assert len(error.text) > 20
            assert "nan" not in error.text.lower()
            assert "inf" not in error.text.lower().replace("information", "")
            if error.allowed:
                assert all(
                    a is None or np.isfinite(a) for a in error.allowed if not isinstance(a, str)
                )
        if isinstance(outcome, CaseError):
            continue
        result_document(outcome).as_json()
        if outcome.error is None:
            solved += 1
            assert np.isfinite(outcome.shown.moments.extension).all()
            assert np.isfinite(outcome.shown.contacts.forces).all()
            for found in findings(outcome)[:3]:
                assert np.isfinite(found.size)
            assert all(np.isfinite(line.value) for line in card_of(outcome).lines)
    assert solved >= 1
