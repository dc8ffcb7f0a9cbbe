"""What can be wrong with a case, a file or a question: every code with its meaning, in one table."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from zesty_lever.frozen import dataclass

# In the order in which they are told where several hold at the same moment of a rep.
CODES = {
    # Files and values: the case is invalid.
    "empty-file": "the file holds nothing",
    "too-large": "a file or line is longer than a case can be",
    "not-text": "the bytes are not UTF-8 text",
    "not-json": "the text is not JSON",
    "key-twice": "an object gives one key twice",
    "wrong-format": "the file is of another kind",
    "newer-version": "the file was written by a newer version",
    "wrong-type": "a value is of another kind than its key takes",
    "missing-key": "a key that has no default is missing",
    "unknown-key": "a key does not exist",
    "not-a-number": "a number is infinite or not a number",
    "out-of-range": "a number lies outside its range",
    "wrong-value": "a value is none of those that its key takes",
    "unknown-variation": "the catalogue has no such variation",
    "band-needs-line-or-table": "a band has neither or both of a force line and a table",
    "band-table": "a band's table does not rise from zero force",
    "not-solvable": "balance can't solve this setting",
    "needs-value": "another setting is left to balance, so this one needs a value",
    "two-free": "two settings are left to balance",
    # Clips and their marks.
    "not-a-clip": "the file is neither a clip nor a picture that can be read",
    "no-picture": "the file has sound only, or no frame",
    "clip-too-long": "the clip is longer or larger than can be measured",
    "clip-changed": "the clip is not the one that was marked",
    "mark-outside": "a mark lies outside the picture or the clip",
    "marks-coincide": "two marks of one line lie on one spot",
    "needs-marks": "too few marks for an angle",
    "needs-extra": "an optional package is missing",
    # Plans and records.
    "unknown-drill": "the list has no such drill",
    "not-records": "the file is no database of records",
    "records-damaged": "the database of records is damaged",
    "records-on-a-share": "the records lie on a network share, where they would be lost",
    "records-busy": "someone else holds the records for too long",
    "records-full": "the disk that the records lie on is full",
    "records-gone": "the server of the records can't be reached",
    "records-read-only": "the records can't be written",
    "changed-meanwhile": "someone else has changed or deleted it since it was read",
    "already-corrected": "someone else has corrected this entry already",
    "unknown-athlete": "the records have no such athlete",
    "unknown-session": "the records have no such session",
    "erased-person": "the person was erased on request and is not taken in again",
    "days-out-of-order": "a day comes before the one it has to follow",
    "unreadable-line": "a line of a log file can't be read",
    # Studies.
    "not-toml": "the text is not TOML",
    "not-parquet": "the file is not Parquet",
    "other-study": "the folder holds another study",
    "study-busy": "another run is at work in the folder",
    "not-a-study": "the folder holds no study",
    "not-allowed": "an address is refused for safety",
    "crashed": "working the case out ended in an error or killed the process",
    "timed-out": "working the case out took far longer than others do",
    "internal": "the program failed on this case; the text says how",
    # Poses: the case is legal, the pose is impossible.
    "out-of-reach": "a leg is too short for its foot's place",
    "would-tip": "the load falls outside what carries it",
    "hip-opening": "the thigh opens further than the hip does",
    "ankle-limit": "the ankle bends further than it can with the heel down",
    "knee-limit": "the knee bends further than it can",
    "cannot-balance": "no angle brings the load over the pressure point",
    "knee-on-floor": "the rear knee goes through the floor",
    "hips-under-floor": "the hips go through the floor",
    "head-on-floor": "the head reaches the floor",
    "below-floor": "a joint, heel, toe or hand goes through the floor",
    "band-too-long": "a band is stretched beyond its measured table",
    "tempo": "at this tempo the body tips or leaves the ground",
    "would-pull": "a contact would have to pull on the ground",
    "would-slip": "a contact needs more grip than the floor gives",
    "would-roll": "a one-sided load rolls the body off its support",
    "did-not-settle": "the search for this pose did not come to rest",
    "does-not-close": "forces and moments do not balance",
    # Questions: choosing, comparing, searching.
    "not-feasible": "the set-up can't be done, so the question has no answer",
    "no-such-load": "the load that would match is outside the variation's range",
    "no-load-needed": "even the lightest load asks for more",
    "not-enough-load": "even the heaviest load asks for less",
    "too-few-draws": "too few possible truths can stand for an interval",
    "not-a-map-axis": "this setting can't be mapped",
    "no-lean": "the variation has no trunk lean of its own",
    "unknown-joint": "no such joint can be asked about",
    "unknown-wish": "this can't be wished for",
    "bad-wish": "the weight of a wish is outside its range",
    "bad-ceiling": "a ceiling's joint or share is outside its range",
    "bad-option": "an option of the command line can't be read",
    "cannot-be-loaded": "too few of a lift's loads can be done to tell its effort",
    "no-best-known": "equal effort needs a known best",
    "effort-at-rest": "effort is told at rest only",
    "effort-misleads": "effort would mislead here: a moving case, or a floor pull with a rounded back",
    "nothing-fits": "no technique keeps those ceilings",
    "unknown-bar": "the gym has no such bar",
    "unknown-disc": "the gym has no such disc",
    "lighter-than-the-bar": "the load is lighter than the bar alone",
}
ORDER = {code: number for number, code in enumerate(CODES)}
LONGEST_TEXT = 480


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: the ``key``, its ``value`` and ``unit``, and what is ``allowed``.

    ``frame`` is the first moment of the rep at which an impossible pose fails (None where the rep
    never began). Raises `KeyError` for a code that is not in `CODES`.
    """

    code: str
    text: str
    key: str = ""
    value: Any = None
    unit: str = ""
    allowed: Any = None
    frame: int | None = None

    def __post_init__(self) -> None:
        """Keep to the table, to one line and to what JSON can hold."""
        if self.code not in CODES:
            raise KeyError(self.code)
        object.__setattr__(self, "text", one_line(self.text, LONGEST_TEXT))
        object.__setattr__(self, "key", one_line(self.key, 80))
        object.__setattr__(self, "value", printable(self.value))

    def as_dict(self) -> dict[str, Any]:
        """Return the ``error`` object of a result file."""
        return {
            "code": self.code,
            "key": self.key,
            "value": self.value,
            "unit": self.unit,
            "allowed": self.allowed,
            "text": self.text,
        }


class CaseError(Exception):
    """A case, a file or a question that can't be taken; wraps the `Problem` that says why."""

    def __init__(
        self,
        code: str,
        text: str,
        *,
        key: str = "",
        value: Any = None,
        unit: str = "",
        allowed: Any = None,
    ) -> None:
        self.problem = Problem(code, text, key, value, unit, allowed)
        super().__init__(self.problem.text)

    @classmethod
    def of(cls, problem: Problem) -> CaseError:
        """Wrap a problem that is known already, so that it can be raised."""
        return cls(
            problem.code,
            problem.text,
            key=problem.key,
            value=problem.value,
            unit=problem.unit,
            allowed=problem.allowed,
        )

    @property
    def code(self) -> str:
        """Code of the problem, one of `CODES`."""
        return self.problem.code

    @property
    def text(self) -> str:
        """What is wrong, in one line."""
        return self.problem.text

    @property
    def key(self) -> str:
        """Key of the value that is wrong."""
        return self.problem.key


def in_order(problems: Sequence[Problem]) -> tuple[Problem, ...]:
    """Problems by the moment at which they arise, then by the order of `CODES`."""
    return tuple(
        sorted(problems, key=lambda p: (-1 if p.frame is None else p.frame, ORDER[p.code]))
    )


def one_line(text: str, longest: int) -> str:
    """Text without line breaks and unprintable characters, cut to a length."""
    shown = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in text)
    return shown if len(shown) <= longest else shown[: longest - 3] + "..."


def printable(value: Any) -> Any:
    """Make a value safe for JSON and for one line: no NaN, no bulk, no half characters."""
    if isinstance(value, float) and not math.isfinite(value):
        return str(value)
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) > 10**18:
        return f"a number of {value.bit_length()} bits"
    if isinstance(value, bool | int | float) or value is None:
        return value
    return one_line(value if isinstance(value, str) else repr(value), 60)


def out_of_range(
    key: str, value: float, unit: str, allowed: tuple[float, float], why: str = ""
) -> CaseError:
    """Error for a number outside its range, worded the same everywhere."""
    low, high = (float(f"{bound:.4g}") for bound in allowed)
    space = f" {unit}" if unit else ""
    huge = isinstance(value, int) and abs(value) > 10**18
    shown = str(printable(value)) if huge else f"{value:.6g}{space}"
    text = f"{key} is {shown}; allowed is {low:g} to {high:g}{space}{why}"
    return CaseError("out-of-range", text, key=key, value=value, unit=unit, allowed=[low, high])


def unknown_key(key: str, known: Sequence[str]) -> CaseError:
    """Error for a key that does not exist, with those that do."""
    return CaseError(
        "unknown-key",
        f"{one_line(key, 80)} is not a known key; known are: {', '.join(known)}",
        key=key,
        allowed=list(known),
    )
