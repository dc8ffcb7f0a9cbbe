"""What was measured: curves, reps and tempo, findings, meant against done, and where it can go."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from zesty_lever.analysis import Result
from zesty_lever.bench.model import SLOT_NAMES
from zesty_lever.cases.model import Case
from zesty_lever.io.json_files import replacing, write_json
from zesty_lever.measure.against import Against, against, against_sentences
from zesty_lever.measure.motion import Motion
from zesty_lever.ui.kit.controls import Wrapped, picker, push_button
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.ui.measure.plots import KINDS, Curves
from zesty_lever.wording.units import minus


class ResultPanel(QWidget):
    """The measured rep in numbers, pictures and words. ``overlaid``: a set-up to be drawn over the picture, or None."""

    overlaid = Signal(object)

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self.desk = desk
        self.found: Against | None = None
        self._asked: tuple[object, object] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        row = QHBoxLayout()
        self.kind = picker("Picture of the result", [])
        self.kind.currentTextChanged.connect(self._show_kind)
        row.addWidget(self.kind, 1)
        self.rep = picker("Rep that is handed over", [])
        self.rep.activated.connect(self._choose_rep)
        row.addWidget(self.rep, 1)
        column.addLayout(row)
        self.curves = Curves(desk, theme)
        column.addWidget(self.curves)
        self.words = Wrapped(wordWrap=True)
        self.words.setFont(font(13))
        column.addWidget(self.words)
        line = QHBoxLayout()
        self.meant = picker("Meant", [f"Meant: set-up {name}" for name in SLOT_NAMES])
        self.meant.activated.connect(self._compare)
        line.addWidget(self.meant, 1)
        self.overlay = QCheckBox("Drawn over the picture")
        self.overlay.setFont(font(12))
        self.overlay.setToolTip(
            "The set-up's figure at its deepest point, from the same ankle, through the same camera."
        )
        self.overlay.clicked.connect(self._overlay)
        line.addWidget(self.overlay)
        column.addLayout(line)
        self.compared = Wrapped(wordWrap=True)
        self.compared.setFont(font(13))
        column.addWidget(self.compared)
        self.waiting = Waiting(desk.session.jobs, "meant", long=False)
        self.waiting.answered.connect(self._answer)
        self.waiting.failed.connect(self._say_compared)
        column.addWidget(self.waiting)
        self._add_outlets(column)
        column.addStretch(1)
        desk.changed.connect(self.refresh)
        desk.session.changed.connect(self._compare)
        self.refresh()

    def _add_outlets(self, column: QVBoxLayout) -> None:
        """Where a measurement can go."""
        out = QHBoxLayout()
        self.outlets = []
        for slot, name in enumerate(SLOT_NAMES):
            button = push_button(
                f"To the bench as {name}",
                f"The measured rep becomes set-up {name}, with its own errors.",
            )
            button.clicked.connect(lambda _on=False, at=slot: self.desk.hand_over(at))
            out.addWidget(button)
            self.outlets.append(button)
        column.addLayout(out)
        out = QHBoxLayout()
        self.lengths = push_button(
            "Lengths to the athlete", "Shank and thigh as measured here become the athlete's."
        )
        self.lengths.clicked.connect(self.desk.lengths_to_athlete)
        out.addWidget(self.lengths)
        self.saver = push_button(
            "Save the result …", "Angles and all else as JSON, or the angles as CSV."
        )
        self.saver.clicked.connect(self._ask_save)
        out.addWidget(self.saver)
        column.addLayout(out)

    # --- showing -----------------------------------------------------------------------------

    def _show_kind(self, kind: str) -> None:
        if kind:
            self.curves.show_kind(kind)

    def refresh(self) -> None:
        """Show what was measured last."""
        motion = self.desk.motion
        kinds = list(KINDS[self.desk.marks.view])
        if [self.kind.itemText(i) for i in range(self.kind.count())] != kinds:
            self.kind.blockSignals(True)
            self.kind.clear()
            self.kind.addItems(kinds)
            self.kind.blockSignals(False)
            self.curves.show_kind(kinds[0])
        self._fill_reps(motion)
        for widget in (*self.outlets, self.overlay, self.meant):
            widget.setEnabled(motion is not None and motion.case is not None)
        self.lengths.setEnabled(motion is not None and bool(motion.lengths_m))
        self.saver.setEnabled(motion is not None)
        self.overlay.setVisible(self.desk.marks.view == "side")
        self.meant.setVisible(self.desk.marks.view == "side")
        self.words.setText(minus(_words(motion)))
        self._compare()

    def _fill_reps(self, motion: Motion | None) -> None:
        entries = (
            []
            if motion is None
            else [f"Rep {n} handed over" for n in range(1, len(motion.reps) + 1)]
        )
        if [self.rep.itemText(i) for i in range(self.rep.count())] != entries:
            self.rep.blockSignals(True)
            self.rep.clear()
            self.rep.addItems(entries)
            self.rep.blockSignals(False)
        self.rep.setVisible(len(entries) > 1)
        if motion is not None and motion.rep:
            self.rep.setCurrentIndex(motion.rep - 1)

    def _choose_rep(self, at: int) -> None:
        self.desk.do("Rep handed over", self.desk.marks.changed(rep=at + 1))
        motion = self.desk.motion
        if motion is not None and at < len(motion.reps):
            clip = self.desk.clip
            assert clip is not None
            self.desk.show_frame(clip.nearest(motion.reps[at].bottom_s))

    # --- meant against done ------------------------------------------------------------------

    def _meant_case(self) -> Case | None:
        """The set-up that was meant; None where it is of another variation."""
        session, motion = self.desk.session, self.desk.motion
        if motion is None or motion.case is None:
            return None
        meant = session.bench.case(max(self.meant.currentIndex(), 0))
        return meant if meant.variation == motion.case.variation else None

    def _compare(self) -> None:
        motion = self.desk.motion
        if (
            motion is None
            or motion.case is None
            or self.desk.marks.view != "side"
            or not self.isVisible()
        ):
            self._asked = None
            self._say_compared("")
            return
        meant = self._meant_case()
        if meant is None:
            self._asked = None
            self._say_compared(
                "That set-up is another exercise: put this one on the bench to compare what was meant with what was done."
            )
            return
        if self._asked == (meant, motion):
            return
        self._asked = (meant, motion)

        def work(tell: Callable[[float], None]) -> Against:
            tell(0.1)
            return against(meant, motion)

        self.waiting.ask(work)

    def showEvent(self, event: object) -> None:
        self._compare()

    def _answer(self, found: Against) -> None:
        self.found = found
        self.compared.setText(minus("\n".join(against_sentences(found))))
        self._overlay()

    def _say_compared(self, words: str) -> None:
        self.found = None
        self.compared.setText(words)
        self.overlaid.emit(None)

    def _overlay(self) -> None:
        shown: Result | None = None
        if self.found is not None and self.overlay.isChecked():
            shown = self.found.meant if self.found.meant.frames else None
            motion, clip = self.desk.motion, self.desk.clip
            if motion is not None and clip is not None:
                self.desk.show_frame(motion.first + motion.low)
        self.overlaid.emit(shown)

    # --- files -------------------------------------------------------------------------------

    def _ask_save(self) -> None:
        name = Path(self.desk.marks.clip).stem or "measurement"
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the result", f"{name}.motion.json", "JSON, CSV (*.json *.csv)"
        )
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Write the result as JSON, or its angles as CSV, by the file's ending; what goes wrong is said."""
        motion = self.desk.motion
        if motion is None:
            return
        try:
            with replacing(path) as file:
                if path.suffix.lower() == ".csv":
                    file.write(motion.csv_text())
                else:
                    write_json(motion.as_json(), file, indent=1)
        except OSError as error:
            self.desk.told.emit(f"Could not save {path.name}: {error.strerror}")
            return
        self.desk.told.emit(f"Saved as {path.name}.")


def _words(motion: Motion | None) -> str:
    """Reps, findings and what the error leaves open, in words."""
    if motion is None:
        return "Mark ankle, knee and hip (and the bar, or the shoulder) at the start, at the deepest moment and at the end; then follow."
    lines = []
    for number, rep in enumerate(motion.reps, 1):
        down, low, up, top = rep.tempo_s
        lines.append(
            f"Rep {number}: {down:.1f} down, {low:.1f} held, {up:.1f} up, {top:.1f} between, ± 0.2 s."
        )
    if motion.marks.view == "front" and motion.distances_m:
        names = {
            "stance": "stance",
            "hip_shift": "hip shift",
            "knee_track_left": "left knee",
            "knee_track_right": "right knee",
        }
        parts = [
            f"{names[k]} {100 * v:.0f} ± {100 * motion.distances_sd_m[k]:.1f} cm"
            for k, v in motion.distances_m.items()
        ]
        toes = [
            f"{side} toes {motion.angles[f'toe_out_{side}'][0]:.0f} ± 4°"
            for side in ("left", "right")
            if f"toe_out_{side}" in motion.angles
        ]
        lines.append(
            f"At the deepest point: {', '.join([*parts, *toes])} (+ knee outside the toe line, hips to the right)."
        )
    flags = [f for f in motion.faults if not f.open]
    lines += [f"{'Flag' if f.severity == 'flag' else 'Note'}: {f.text} {f.cue}" for f in flags]
    if not flags:
        lines.append("No fault that the error does not leave open.")
    if any(f.open for f in motion.faults):
        lines.append("Left open by the error: " + " ".join(f.text for f in motion.faults if f.open))
    for name, (value, sd) in motion.lengths_m.items():
        lines.append(f"{name.capitalize()} {100 * value:.0f} ± {100 * sd:.0f} cm long.")
    return "\n".join(lines)
