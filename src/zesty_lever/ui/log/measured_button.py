"""A measured rep for a set: the measurements that are kept of the athlete, the newest first."""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu, QToolButton

from zesty_lever.cases.model import Case
from zesty_lever.cases.parse import case_from
from zesty_lever.coaching.rules import rules
from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import Fault
from zesty_lever.models import read
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session

MOST_SHOWN = 20


@dataclass(frozen=True)
class Measured:
    """What a measurement says of a set: its case, the faults seen, and the case as it is kept."""

    case: Case
    faults: tuple[Fault, ...]
    data: bytes


def measured_from(folder: Path) -> Measured:
    """Read a measurement that is kept. Raises `CaseError` where it gives no case, `OSError` if it can't be read."""
    try:
        data = json.loads((folder / "motion.json").read_text(encoding="utf-8"))
    except ValueError as error:
        raise CaseError("not-json", f"{folder.name} can't be read", key="motion") from error
    if not isinstance(data, dict) or not data.get("measured_case"):
        raise CaseError("needs-marks", f"{folder.name} gives no case", key="case")
    seen = [f for f in data.get("findings", []) if isinstance(f, dict) and f.get("code") in rules()]
    faults = tuple(
        read(Fault, {"code": f["code"], "severity": f.get("severity", "note")}) for f in seen
    )
    return Measured(
        case_from(data["measured_case"]), faults, json.dumps(data["measured_case"]).encode()
    )


class MeasuredButton(QToolButton):
    """``given`` (Measured): take it for the chosen set. ``refused`` (why)."""

    given = Signal(object)
    refused = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setText("Measured rep \N{BLACK DOWN-POINTING SMALL TRIANGLE}")
        self.setFont(font(12))
        self.setToolTip("Take a measured rep for the chosen set: its angles then count.")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        menu.aboutToShow.connect(self.fill)
        self.setMenu(menu)

    def fill(self) -> None:
        """The measurements of the athlete on the bench."""
        menu = self.menu()
        menu.clear()
        folder = self.session.folder
        kept = self.session.bench.athlete.measurements if folder is not None else ()
        for number in reversed(kept[-MOST_SHOWN:]):
            menu.addAction(number, partial(self.take, number))
        if menu.isEmpty():
            menu.addAction("None yet: Measure keeps them").setEnabled(False)

    def take(self, number: str) -> None:
        """Hand a measurement on; what is wrong with it is said."""
        if self.session.folder is None:
            return
        try:
            self.given.emit(measured_from(self.session.folder / "measurements" / number))
        except (CaseError, OSError) as error:
            self.refused.emit(str(error))
