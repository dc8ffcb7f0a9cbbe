"""Beside the picture: the marks with their guide, and what is known of scale and camera."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.measure import edits
from zesty_lever.measure.marks import MarksFile, Place
from zesty_lever.measure.warn import largest_error
from zesty_lever.ui.kit.controls import Quantity, Wrapped, note, push_button
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.ui.measure.guide import Guide
from zesty_lever.ui.measure.picture import Picture
from zesty_lever.ui.measure.tools import TOOL_WORDS, Tool

USUAL_LENGTH_M = 1.0


class MarksPanel(QWidget):
    """Which mark is next, which are set in this frame, and what can be done with them."""

    def __init__(self, desk: Desk, picture: Picture, theme: Theme) -> None:
        super().__init__()
        self.desk, self.picture = desk, picture
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        top = QHBoxLayout()
        self.guide = Guide(desk, theme)
        top.addWidget(self.guide)
        self.words = Wrapped(wordWrap=True)
        self.words.setFont(font(14, bold=True))
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        top.addWidget(self.words, 1)
        column.addLayout(top)
        self.grid = QGridLayout()
        self.grid.setSpacing(4)
        column.addLayout(self.grid)
        self.buttons: dict[str, QPushButton] = {}
        self._view = ""
        row = QHBoxLayout()
        for text, tip, call in (
            ("Copy on", "Copy this mark to the next frame (C).", desk.copy_forward),
            (
                "Hidden",
                "From here to where it is pressed again this mark can't be seen (H).",
                desk.toggle_hidden,
            ),
            ("Remove", "Take this mark away in this frame (Delete).", desk.remove),
            (
                "Worst place",
                "Go to where the two ways of following disagree most (J).",
                desk.to_disagreement,
            ),
        ):
            button = push_button(text, tip)
            button.clicked.connect(call)
            row.addWidget(button)
        column.addLayout(row)
        self.stickers = QCheckBox("Stickers on the joints")
        self.stickers.setFont(font(12))
        self.stickers.setToolTip(
            "Stickers on skin or tight clothes sit better than a finger finds a joint under shorts."
        )
        self.stickers.clicked.connect(
            lambda on: desk.do("Stickers", desk.marks.changed(stickers=on))
        )
        column.addWidget(self.stickers)
        self.follow = push_button(
            "Follow the marks", "From hand mark to hand mark, both ways (F).", pixels=13
        )
        self.follow.clicked.connect(desk.follow)
        column.addWidget(self.follow)
        column.addWidget(desk.waiting)
        self.state = note("")
        column.addWidget(self.state)
        column.addStretch(1)
        for signal in (desk.changed, desk.framed, desk.chosen):
            signal.connect(self.refresh)
        self.refresh()

    def _fill(self) -> None:
        """A button a mark, for the view."""
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self.buttons = {}
        wide = 4 if self.desk.marks.view == "side" else 2
        for number, name in enumerate(edits.names_of(self.desk.marks)):
            button = push_button(
                name, f"{edits.words_of(name)[:1].upper()}{edits.words_of(name)[1:]}."
            )
            button.setCheckable(True)
            button.clicked.connect(partial(self._pick, name))
            self.buttons[name] = button
            self.grid.addWidget(button, number // wide, number % wide)
        self._view = self.desk.marks.view

    def _pick(self, name: str) -> None:
        self.desk.choose(name)
        self.picture.use(Tool.MARK)
        self.picture.setFocus()
        self.refresh()

    def refresh(self) -> None:
        """Show what is set, and what is next."""
        desk = self.desk
        if self._view != desk.marks.view:
            self._fill()
        tool = self.picture.tool
        if desk.clip is None:
            self.words.setText("Open a clip or a photo.")
        elif tool is not Tool.MARK:
            self.words.setText(TOOL_WORDS[tool][0 if self.picture.first is None else 1] + ".")
        else:
            self.words.setText(desk.next_step.words)
        for name, button in self.buttons.items():
            own = desk.marks.marks.get(name, {})
            hand = desk.frame in own
            hidden = edits.is_hidden(desk.marks, name, desk.frame)
            state = (
                "hidden"
                if hidden
                else "by hand"
                if hand
                else "followed"
                if desk.place_of(name) is not None
                else "not here"
            )
            sign = {"by hand": "■ ", "followed": "○ ", "hidden": "– ", "not here": ""}[state]
            text = f"{sign}{name.replace('_', ' ')}"
            if button.text() != text:
                button.setText(text)
            button.setChecked(name == desk.name)
            button.setAccessibleName(f"{name.replace('_', ' ')}: {state}, {len(own)} set by hand")
        with QSignalBlocker(self.stickers):
            self.stickers.setChecked(desk.marks.stickers)
        still = desk.clip is not None and desk.clip.is_still
        self.follow.setVisible(not still)
        self.follow.setEnabled(desk.clip is not None and desk.marks.placed > 0)
        self.state.setText(self._state())

    def _state(self) -> str:
        desk = self.desk
        if desk.problem:
            return desk.problem
        if desk.hiding is not None:
            return f"{desk.hiding[0]} hidden from frame {desk.hiding[1] + 1} on: press H at its last hidden frame."
        if desk.stale:
            return "Marks have changed since they were followed: follow them again."
        return ""


class CameraPanel(QWidget):
    """What of known size is in the picture, and where the camera stood."""

    def __init__(self, desk: Desk, picture: Picture) -> None:
        super().__init__()
        self.desk, self.picture = desk, picture
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(
            note(
                "Set in the picture: the disc gives the scale, an upright the level, the sleeve how square the camera stands."
            )
        )
        self.tools: dict[Tool, QPushButton] = {}
        grid = QGridLayout()
        for number, (tool, tip) in enumerate(
            (
                (Tool.DISC, "The near disc: its middle, then its rim."),
                (Tool.LENGTH, "Something taped: one end, then the other."),
                (Tool.PLUMB, "Something upright: its foot, then its top."),
                (Tool.SLEEVE, "The bar: the hub on the near disc, then the sleeve's end."),
            )
        ):
            button = push_button(tool.value, tip, pixels=13)
            button.setCheckable(True)
            button.clicked.connect(partial(self._take, tool))
            self.tools[tool] = button
            grid.addWidget(button, number // 2, number % 2)
        column.addLayout(grid)
        self.fields: dict[str, tuple[QCheckBox | None, Quantity]] = {}
        form = QGridLayout()
        self._form, self._rows = form, 0
        self._labels: dict[str, QWidget] = {}
        self._field(
            "diameter", "Disc's diameter", "m", 0.05, 1.0, 0.005, self._set_disc, known=True
        )
        self._field(
            "face", "Disc's face from the middle", "m", 0.0, 1.5, 0.01, self._set_disc, known=True
        )
        self._field("length", "Taped length", "m", 0.05, 5.0, 0.01, self._set_length, known=True)
        self._field(
            "depth",
            "Length nearer than the middle",
            "m",
            -2.0,
            2.0,
            0.05,
            self._set_length,
            known=True,
        )
        self._field("distance_m", "Camera's distance", "m", 0.8, 30.0, 0.05, self._set_tape)
        self._field("height_m", "Camera's height", "m", 0.0, 5.0, 0.05, self._set_tape)
        self._field("yaw_deg", "Camera ahead of square", "deg", -60.0, 60.0, 0.5, self._set_tape)
        self._field("stance_m", "Stance width", "m", 0.08, 1.2, 0.01, self._set_setting)
        self._field("toe_out_deg", "Toe-out", "deg", 0.0, 45.0, 1.0, self._set_setting)
        column.addLayout(form)
        self.words = Wrapped(wordWrap=True)
        self.words.setFont(font(13))
        column.addWidget(self.words)
        column.addStretch(1)
        picture.lined.connect(self._lined)
        picture.tool_changed.connect(self.refresh)
        desk.changed.connect(self.refresh)
        self.refresh()

    def _field(
        self,
        key: str,
        name: str,
        unit: str,
        low: float,
        high: float,
        step: float,
        call: Callable[[str], None],
        *,
        known: bool = False,
    ) -> None:
        box = Quantity(unit, low, high, step)
        box.setAccessibleName(name)
        box.valueChanged.connect(lambda _v: call(key))
        tick = None
        if known:
            label: QWidget = QLabel(name)
            label.setFont(font(12))
            assert isinstance(label, QLabel)
            label.setBuddy(box)
        else:
            tick = QCheckBox(name)
            tick.setFont(font(12))
            tick.setToolTip(f"{name}: ticked where it is known.")
            tick.clicked.connect(lambda _on: call(key))
            label = tick
        self._form.addWidget(label, self._rows, 0)
        self._form.addWidget(box, self._rows, 1)
        self._rows += 1
        self._labels[key] = label
        self.fields[key] = (tick, box)

    def _value(self, key: str) -> float:
        box = self.fields[key][1]
        return box.value() / box.factor

    def _take(self, tool: Tool) -> None:
        self.picture.use(Tool.MARK if self.picture.tool is tool else tool)
        self.picture.setFocus()

    def _lined(self, tool: Tool, one: Place, other: Place) -> None:
        desk = self.desk
        marks, frame = desk.marks, desk.frame
        if tool is Tool.DISC:
            radius = max(float(((one[0] - other[0]) ** 2 + (one[1] - other[1]) ** 2) ** 0.5), 2.0)
            desk.attempt("Near disc", lambda: edits.with_disc(marks, frame, one, (radius, radius)))
        elif tool is Tool.LENGTH:
            old = marks.calibration.length
            size = old.length_m if old else USUAL_LENGTH_M
            depth = old.z_m if old else 0.0
            desk.attempt(
                "Taped length", lambda: edits.with_length(marks, frame, (one, other), size, depth)
            )
        elif tool is Tool.PLUMB:
            desk.attempt("Upright", lambda: marks.changed(plumb_px=(one, other)))
        elif tool is Tool.SLEEVE:
            from zesty_lever.measure.marks import Sleeve

            desk.attempt(
                "Sleeve",
                lambda: marks.changed(sleeve=Sleeve(frame=frame, hub_px=one, end_px=other)),
            )

    def _set_disc(self, key: str) -> None:
        disc = self.desk.marks.calibration.disc
        if disc is not None:
            changed = disc.changed(
                **{"diameter" + "_m" if key == "diameter" else "face_z_m": self._value(key)}
            )
            self.desk.attempt("Disc", lambda: self._calibrated(disc=changed))

    def _set_length(self, key: str) -> None:
        length = self.desk.marks.calibration.length
        if length is not None:
            changed = length.changed(**{"length_m" if key == "length" else "z_m": self._value(key)})
            self.desk.attempt("Taped length", lambda: self._calibrated(length=changed))

    def _calibrated(self, **parts: object) -> MarksFile:
        return self.desk.marks.changed(calibration=self.desk.marks.calibration.changed(**parts))

    def _set_tape(self, key: str) -> None:
        tick = self.fields[key][0]
        assert tick is not None
        value = self._value(key) if tick.isChecked() else None
        self.desk.attempt("Camera", lambda: edits.with_tape(self.desk.marks, **{key: value}))

    def _set_setting(self, key: str) -> None:
        tick = self.fields[key][0]
        assert tick is not None
        settings = {k: v for k, v in self.desk.marks.settings.items() if k != key}
        if tick.isChecked():
            settings[key] = self._value(key)
        self.desk.attempt("Set-up seen", lambda: self.desk.marks.changed(settings=settings))

    def show_units(self) -> None:
        """Take over the units in use."""
        for _, box in self.fields.values():
            box.show_units()
        self.refresh()

    def refresh(self) -> None:
        """Show what is known, and what of it is least sure."""
        marks = self.desk.marks
        set_already = {
            Tool.DISC: marks.calibration.disc is not None,
            Tool.LENGTH: marks.calibration.length is not None,
            Tool.PLUMB: marks.plumb_px is not None,
            Tool.SLEEVE: marks.sleeve is not None,
        }
        for tool, button in self.tools.items():
            button.setText(("■ " if set_already[tool] else "") + tool.value)
            button.setAccessibleName(f"{tool.value}: {'set' if set_already[tool] else 'not set'}")
            button.setChecked(self.picture.tool is tool)
            button.setEnabled(
                self.desk.clip is not None and (tool is not Tool.SLEEVE or marks.view == "side")
            )
        disc, length = marks.calibration.disc, marks.calibration.length
        values = {
            "diameter": None if disc is None else disc.diameter_m,
            "face": None if disc is None else disc.face_z_m,
            "length": None if length is None else length.length_m,
            "depth": None if length is None else length.z_m,
            "distance_m": marks.camera.distance_m,
            "height_m": marks.camera.height_m,
            "yaw_deg": marks.camera.yaw_deg,
            "stance_m": marks.settings.get("stance_m"),
            "toe_out_deg": marks.settings.get("toe_out_deg"),
        }
        usual = {
            "distance_m": 4.0,
            "height_m": 0.9,
            "yaw_deg": 0.0,
            "stance_m": 0.4,
            "toe_out_deg": 15.0,
        }
        for key, (tick, box) in self.fields.items():
            value = values[key]
            with QSignalBlocker(box):
                if value is not None or tick is None or not tick.isChecked():
                    box.setValue((usual.get(key, 0.45) if value is None else value) * box.factor)
            if tick is None:
                self._labels[key].setVisible(value is not None)
                box.setVisible(value is not None)
            else:
                with QSignalBlocker(tick):
                    tick.setChecked(value is not None)
                box.setEnabled(value is not None)
        motion = self.desk.motion
        lines = []
        if motion is not None:
            lines = [largest_error(motion), *(w.text for w in motion.warnings)]
        self.words.setText("\n".join(line for line in lines if line))
