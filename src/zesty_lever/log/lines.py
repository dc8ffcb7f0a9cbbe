"""The log as open JSON lines: what each line holds, typed (format zesty-lever-log/1)."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal, get_args

import msgspec

from zesty_lever.log.entry import Entry, Moment, Side
from zesty_lever.models import Model, at_most, read
from zesty_lever.plan.document import STYLES
from zesty_lever.problems import CaseError, one_line

LOG_FORMAT = "zesty-lever-log/1"
LONGEST_LINE_BYTES = 40_000_000
# One encoder for all lines: making one a line costs as much as the line.
_text = json.JSONEncoder(ensure_ascii=False, separators=(",", ":"), allow_nan=False).encode
KINDS = (
    "athlete",
    "body",
    "coach",
    "template",
    "plan",
    "session",
    "entry",
    "pain",
    "attachment",
    "decision",
)
# Words that a later version may add to: a new one is kept as text, shown, and not counted.
WORDS: dict[str, tuple[tuple[str, ...], str]] = {
    "style": (STYLES, "straight"),
    "side": (get_args(Side), "both"),
}
MOMENTS: tuple[str, ...] = get_args(Moment)
LONGEST_WORD = 20


class Header(Model, frozen=True, kw_only=True):
    """The first line: the format, when it was written (ms since 1970), the model of its sums."""

    format: Literal["zesty-lever-log/1"]
    written_ms: Annotated[int, msgspec.Meta(ge=0, le=2**53)]
    model: Annotated[int, msgspec.Meta(ge=0, le=10**6)] = 0
    of: Annotated[str, at_most(80)] = ""


class EntryLine(Entry, frozen=True, kw_only=True):
    """One set, with its faults and pains; ids are texts, since JSON's numbers are exact only to 2^53."""

    kind: Literal["entry"] = "entry"


ID_KEYS = ("id", "athlete", "session", "coach", "replaces", "plan", "template", "entry")


def with_text_ids(data: dict[str, Any]) -> dict[str, Any]:
    """A line with its ids as texts."""
    return {k: str(v) if k in ID_KEYS and isinstance(v, int) else v for k, v in data.items()}


def with_number_ids(data: dict[str, Any]) -> dict[str, Any]:
    """A line with its ids as numbers. Raises `CaseError` for one that is none."""
    found = dict(data)
    for key in ID_KEYS:
        value = data.get(key)
        if isinstance(value, str):
            if not value.isascii() or not value.isdigit() or len(value) > 19:
                raise CaseError(
                    "wrong-value", f"{key} is {one_line(value, 40)}; allowed is an id", key=key
                )
            found[key] = int(value)
    return found


def entry_from_line(data: dict[str, Any]) -> Entry:
    """Read an entry; words that this version does not know stay as texts, and the set is not counted.

    Raises `CaseError` for anything else that is wrong.
    """
    own = ("kind", "case_hash", "uncounted")
    plain = {k: v for k, v in with_number_ids(data).items() if k not in own}
    unknown: dict[str, str] = {}
    for key, (known, usual) in WORDS.items():
        value = plain.get(key, usual)
        if isinstance(value, str) and value not in known:
            unknown[key] = one_line(value, LONGEST_WORD)
            plain[key] = usual
    entry = read(Entry, plain)
    if unknown:
        words = ", ".join(f"{key} {value}" for key, value in unknown.items())
        entry = entry.changed(**unknown, uncounted=f"{words} is not known to this version")
    return entry


def line_text(data: dict[str, Any]) -> str:
    """A line as text; NaN is refused rather than written."""
    return _text(data) + "\n"
