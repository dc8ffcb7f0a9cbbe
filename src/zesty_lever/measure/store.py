"""Where measurements are kept: a folder each with the marks and the result, as open files."""

from __future__ import annotations

import json
import re
import time
from pathlib import Path

from zesty_lever.frozen import dataclass
from zesty_lever.io.json_files import replacing, write_json
from zesty_lever.measure.marks import MarksFile, marks_text, read_marks
from zesty_lever.measure.motion import Motion
from zesty_lever.problems import CaseError

MARKS, MOTION = "marks.json", "motion.json"


@dataclass(frozen=True)
class Kept:
    """One measurement that is kept: its number (the folder's name), its clip's name and view."""

    number: str
    clip: str
    view: str
    athlete: str

    @property
    def day(self) -> str:
        """The day it was begun, as in its number."""
        return f"{self.number[:4]}-{self.number[4:6]}-{self.number[6:8]}"


class Measurements:
    """The folder ``measurements`` beside the bench."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def new_number(self, clip: str) -> str:
        """A number that no measurement has: time and clip."""
        name = re.sub(r"[^a-z0-9]+", "-", Path(clip).stem.lower()).strip("-")[:30] or "clip"
        base = f"{time.strftime('%Y%m%d-%H%M%S')}-{name}"
        number, more = base, 1
        while (self.folder / number).exists():
            more += 1
            number = f"{base}-{more}"
        return number

    def save(self, number: str, marks: MarksFile, motion: Motion | None) -> None:
        """Write marks, and the result where there is one; whole or not at all. Raises `OSError`."""
        own = self.folder / number
        own.mkdir(parents=True, exist_ok=True)
        with replacing(own / MARKS) as file:
            file.write(marks_text(marks))
        if motion is not None:
            with replacing(own / MOTION) as file:
                write_json(motion.as_json(), file, indent=1)

    def marks(self, number: str) -> MarksFile:
        """The marks of a measurement. Raises `CaseError`, `OSError`."""
        return read_marks(self.folder / number / MARKS)

    def kept(self) -> list[Kept]:
        """Every measurement that can be read, newest first."""
        found = []
        if not self.folder.is_dir():
            return []
        for own in sorted(self.folder.iterdir(), reverse=True):
            try:
                marks = read_marks(own / MARKS)
            except (CaseError, OSError, json.JSONDecodeError):
                continue
            found.append(Kept(own.name, marks.clip, marks.view, marks.athlete.name or ""))
        return found
