"""The plan: weeks on a board, the chosen session's items and doses, what they would give, rules beside them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.asked import Advice
from zesty_lever.log.predicted import Prediction
from zesty_lever.plan import edits
from zesty_lever.plan.checks import check_session, check_week
from zesty_lever.plan.document import Item, Session, Week
from zesty_lever.plan.wish import WeekWish
from zesty_lever.records.views import PlanView
from zesty_lever.ui.kit.controls import Wrapped, heading, menu_button, picker, push_button
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.plan.board import Board
from zesty_lever.ui.plan.build_form import BuildForm
from zesty_lever.ui.plan.conflict import ConflictBar
from zesty_lever.ui.plan.desk import PlanDesk
from zesty_lever.ui.plan.item_form import ItemForm
from zesty_lever.ui.plan.items import ItemList
from zesty_lever.ui.plan.papers import PlanPapers
from zesty_lever.ui.plan.pick import ExercisePick
from zesty_lever.ui.plan.side_panel import SidePanel
from zesty_lever.ui.session import Session as Bench
from zesty_lever.wording.messages import said, told


class PlanScreen(Screen):
    """Follows the athlete on the bench and the plan on the desk."""

    def __init__(self, session: Bench, theme: Theme) -> None:
        super().__init__(session, theme)
        self.register = session.register
        self.waiting = Waiting(session.jobs, "records-plan")
        self.building = Waiting(session.jobs, "plan-build")
        self.counting = Waiting(session.jobs, "plan-sums")
        self.desk = PlanDesk(session, self.waiting)
        # The session that is to be run once its plan is written; empty: none.
        self._starting = ""
        self.papers = PlanPapers(self.desk, self)
        self.prediction: Prediction | None = None
        self.advised: dict[str, Advice] = {}
        self.item_key = ""
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 12, 10)
        row.setSpacing(12)
        left = QVBoxLayout()
        left.addLayout(self._top())
        self.conflict = ConflictBar(self.desk)
        left.addWidget(self.conflict)
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setFont(font(12))
        self.said.setObjectName("faint")
        self.said.hide()
        left.addWidget(self.said)
        left.addWidget(self._weeks(theme))
        left.addLayout(self._session_row())
        self.items = ItemList()
        left.addWidget(self.items, 1)
        left.addLayout(self._adding())
        self.form = ItemForm()
        left.addWidget(self.form)
        row.addLayout(left, 1)
        self.side = SidePanel(theme)
        row.addWidget(self.side)
        self.build_form = BuildForm(self, session)
        self._connect()

    # --- laid out ----------------------------------------------------------------------------

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.who = heading("")
        self.who.setTextFormat(Qt.TextFormat.PlainText)
        row.addWidget(self.who)
        self.plans = picker("Plan", [])
        self.plans.setMinimumWidth(170)
        row.addWidget(self.plans)
        self.name = QLineEdit()
        self.name.setFont(font(12))
        self.name.setMaxLength(80)
        self.name.setMaximumWidth(150)
        self.name.setAccessibleName("Name of this plan")
        self.name.setToolTip("Name of this plan.")
        self.name.editingFinished.connect(self._rename)
        row.addWidget(self.name)
        self.build = push_button("Build a week …", "From the shortlist: rules kept, reasons told.")
        row.addWidget(self.build)
        self.more = menu_button("Plans ▾", "New, templates, files, calendar, take away.")
        self.menu = QMenu(self.more)
        self.menu.aboutToShow.connect(self._fill_menu)
        self.more.setMenu(self.menu)
        row.addWidget(self.more)
        for waiting in (self.waiting, self.building):
            row.addWidget(waiting, 1)
        return row

    def _weeks(self, theme: Theme) -> QWidget:
        self.board = Board(self.desk, theme)
        area = QScrollArea(widgetResizable=True)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFixedHeight(214)
        area.setWidget(self.board)
        self.board_area = area
        return area

    def _session_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.title = QLabel()
        self.title.setFont(font(13, bold=True))
        self.title.setTextFormat(Qt.TextFormat.PlainText)
        row.addWidget(self.title, 1)
        self.start = push_button("Start (Ctrl+G)", "Run this session step by step, by keys.")
        row.addWidget(self.start)
        self.lighter_week = push_button("Lighter week", "Make this week lighter.")
        self.lighter_week.hide()
        row.addWidget(self.lighter_week)
        self.weekly = menu_button(
            "Week ▾", "Add, copy, lighten, skip or remove weeks and sessions."
        )
        menu = QMenu(self.weekly)
        for words, call in (
            ("Add a session on …", None),
            ("Copy this session to the next day", self._copy_session),
            ("Remove this session", self._remove_session),
            ("Add a week: a copy of this one", lambda: self._week("Copy week", edits.add_week)),
            ("Add an empty week", self._empty_week),
            ("Make this week lighter (sets × 0.6, load × 0.9)", self._lighter),
            (
                "Missed: go on here a week later",
                lambda: self._week("Skip a week", edits.skip_weeks),
            ),
            ("Remove this week", lambda: self._week("Remove week", edits.remove_week)),
        ):
            if call is None:
                days = menu.addMenu(words)
                for at, name in enumerate(
                    ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
                ):
                    days.addAction(name, partial(self._add_session, at))
            else:
                menu.addAction(words, call)
        self.weekly.setMenu(menu)
        row.addWidget(self.weekly)
        self.handout = push_button("Handout …", "This session as PDF for the athlete.")
        row.addWidget(self.handout)
        return row

    def _adding(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.pick = ExercisePick()
        row.addWidget(self.pick, 1)
        bench = push_button("From the bench", "Add the set-up that is edited on the bench.")
        bench.clicked.connect(self._from_bench)
        row.addWidget(bench)
        self.lock = push_button("Lock", "Keep this item on its day when a week is built anew.")
        self.lock.setCheckable(True)
        self.lock.clicked.connect(self._lock)
        row.addWidget(self.lock)
        self.remove = push_button("Remove", "Take this item away (Delete); undo brings it back.")
        self.remove.clicked.connect(lambda: self._drop(self.items.key))
        row.addWidget(self.remove)
        return row

    def _connect(self) -> None:
        desk = self.desk
        desk.changed.connect(self._refresh)
        desk.changed.connect(self._start_when_written)
        self.waiting.failed.connect(self._say)
        self.building.answered.connect(self._built)
        self.building.failed.connect(self._say)
        self.counting.answered.connect(self._counted)
        self.register.changed.connect(self.ask)
        self.register.failed.connect(self._say)
        self.register.waiting.connect(self._say)
        self.session.changed.connect(self._follow)
        self.plans.activated.connect(self._open_plan)
        self.build.clicked.connect(self._ask_build)
        self.build_form.wished.connect(self.ask_build)
        self.build_form.refused.connect(self._say)
        self.board.moved.connect(
            lambda key, week, day: desk.do(
                "Move session", lambda p: edits.move_session(p, key, week, day)
            )
        )
        self.board.entered.connect(self.items.setFocus)
        self.items.picked.connect(self._show_item)
        self.items.moved.connect(
            lambda key, by: desk.do_session("Move item", lambda s: edits.move_item(s, key, by))
        )
        self.items.removed.connect(self._drop)
        self.form.changed.connect(self._change)
        self.form.styled.connect(
            lambda style: desk.do_session(
                "Style", lambda s: edits.set_style(s, self.items.key, style)
            )
        )
        self.form.refused.connect(self._say)
        self.pick.picked.connect(self._add)
        self.start.clicked.connect(self._start)
        self.lighter_week.clicked.connect(self._lighter)
        self.handout.clicked.connect(self.papers.ask_handout)
        go = QShortcut(QKeySequence("Ctrl+G"), self)
        go.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        go.activated.connect(self._start)

    # --- showing -----------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.board.setFocus()
        self.ask()

    def ask(self) -> None:
        """Read the plans anew, where this screen is looked at."""
        if self.isVisible():
            if self.register.store is None:
                self._say("Opening the records …")
            self.desk.ask()

    def _follow(self) -> None:
        view = self.desk.view
        who = None if view is None else view.person.name
        if self.isVisible() and who != (self.session.bench.athlete.name or "Athlete"):
            self.ask()

    def _say(self, words: str) -> None:
        self.said.setText(words[:1].upper() + words[1:])
        self.said.setVisible(bool(words))

    def _refresh(self) -> None:
        desk, view = self.desk, self.desk.view
        if view is None:
            return
        store = self.register.store
        self._say("" if store is None else store.read_only)
        self.who.setText(view.person.name)
        with QSignalBlocker(self.plans):
            self.plans.clear()
            for row in view.plans:
                self.plans.addItem(row.plan.name or "Plan", row.id)
            if desk.row is not None:
                self.plans.setCurrentIndex(max(self.plans.findData(desk.row.id), 0))
        self.plans.setVisible(len(view.plans) > 1)
        self.name.setVisible(desk.row is not None)
        if not self.name.isModified() or not self.name.hasFocus():
            self.name.setText(desk.plan.name)
        chosen = desk.chosen
        self.title.setText(
            "Nothing is planned yet: build a week, or begin a new plan"
            if chosen is None
            else f"{self.board.spoken()}" + (" · begun, read only" if desk.locked else "")
        )
        for button in (self.start, self.handout):
            button.setEnabled(chosen is not None)
        self.advised = self._advice(view, chosen)
        self._offer_lighter_week()
        self.items.fill(chosen, self.advised, self.item_key)
        self._show_week_of_board()
        self._count(view, chosen)

    def _advice(self, view: PlanView, chosen: Session | None) -> dict[str, Advice]:
        if chosen is None or self.desk.locked:
            return {}
        from zesty_lever.records.advising import advices

        return advices(chosen, view.log.history, self.register.today())

    def _offer_lighter_week(self) -> None:
        """What speaks for a lighter week, and one press that plans it."""
        weeks = [a.lighter_week for a in self.advised.values() if a.lighter_week is not None]
        plan = self.desk.plan
        lighter = bool(plan.weeks) and plan.weeks[self.desk.week].deload
        shown = bool(weeks) and not lighter and not self.desk.locked
        self.lighter_week.setVisible(shown)
        if shown:
            self.lighter_week.setText("Lighter week")
            self.lighter_week.setToolTip(f"{said(weeks[0].why)} Sets × 0.6, load × 0.9.")

    def _show_week_of_board(self) -> None:
        slip = next((place for key, place, *_ in self.board.slips() if key == self.desk.key), None)
        if slip is not None:
            self.board_area.ensureVisible(0, int(slip.center().y()), 0, 60)

    def _show_item(self, key: str) -> None:
        chosen = self.desk.chosen
        found = None if chosen is None or not key else chosen.item(key)
        block, item = found if found is not None else (None, None)
        self.item_key = key
        self.form.show_item(block, item, locked=self.desk.locked)
        self.lock.setChecked(item is not None and item.locked)
        for button in (self.lock, self.remove):
            button.setEnabled(item is not None and not self.desk.locked)
        advice = self.advised.get(key)
        reasons = [] if item is None else list(item.why)
        reasons += [] if advice is None else told(advice)
        self.side.show_why(reasons, self.desk.plan.unmet)

    def _count(self, view: PlanView, chosen: Session | None) -> None:
        """Rules at once; what joints would get beside the window."""
        week = self.desk.plan.weeks[self.desk.week] if self.desk.plan.weeks else Week()
        stage = view.person.stage
        sore = [one.place for one in view.person.body.sore]
        rules = self.session.rules
        checked = [] if chosen is None else check_session(chosen, stage, sore, rules)
        self.side.show_rules([*checked, *check_week(week)])
        if chosen is None:
            self.side.show_sums({}, {}, {})
            return
        known = self.prediction
        if known is None or known.athlete != view.person.body or known.rules != rules:
            known = self.prediction = Prediction(view.person.body, rules)
        reference = view.log.reference
        weeks, at = self.desk.plan.weeks, self.desk.week
        before = next((w for w in reversed(weeks[:at]) if not w.deload), None)

        def question(tell: Callable[[float], None]) -> Any:
            own = known.of_session(chosen, reference)
            tell(0.4)
            total = known.of_week(week, reference)
            tell(0.7)
            steps = {} if before is None else known.steps([before, week], reference)[1]
            return own, total, steps

        self.counting.ask(question)

    def _counted(self, answer: Any) -> None:
        view = self.desk.view
        if view is None:
            return
        session, week, steps = answer
        means = {g.key: view.log.against(g.key) for g in COACH_JOINTS}
        enough = {key: one.mean for key, one in means.items() if one.why != "too few weeks"}
        self.side.show_sums(session, week, enough)
        self.side.show_steps(steps)

    # --- editing -----------------------------------------------------------------------------

    def _open_plan(self, at: int) -> None:
        view = self.desk.view
        if view is not None and 0 <= at < len(view.plans):
            self.desk.open(view.plans[at])

    def _rename(self) -> None:
        name = self.name.text().strip()
        if name and name != self.desk.plan.name:
            self.desk.do("Rename plan", lambda plan: plan.changed(name=name))

    def _change(self, item: Item, merges: bool) -> None:  # noqa: FBT001 (a signal's argument)
        key = self.items.key
        self.desk.do_session("Dose", lambda s: edits.change_item(s, key, item), merges=merges)

    def _drop(self, key: str) -> None:
        self.desk.do_session("Remove item", lambda s: edits.remove_item(s, key))

    def _lock(self, on: bool) -> None:  # noqa: FBT001 (Qt's own signal)
        key = self.items.key
        found = self.desk.chosen.item(key) if self.desk.chosen is not None else None
        if found is not None:
            item = found[1].changed(locked=on)
            self.desk.do_session("Lock", lambda s: edits.change_item(s, key, item))

    def _add(self, name: str) -> None:
        from zesty_lever.cases.model import Setup
        from zesty_lever.plan.drills import drills

        stage = "usual" if self.desk.view is None else self.desk.view.person.stage
        if name in drills():
            self.desk.do_session("Add drill", lambda s: edits.add_drill(s, name))
        else:
            setup = Setup(variation=name)
            self.desk.do_session("Add lift", lambda s: edits.add_lift(s, setup, stage))

    def _from_bench(self) -> None:
        setup = self.session.setup
        stage = "usual" if self.desk.view is None else self.desk.view.person.stage
        self.desk.do_session("Add from the bench", lambda s: edits.add_lift(s, setup, stage))

    def _week(self, label: str, change: Callable[..., Any]) -> None:
        week = self.desk.week
        self.desk.do(label, lambda plan: change(plan, week))

    def _lighter(self) -> None:
        rules = self.register.settings().rules
        week = self.desk.week
        sets, load = (rules.deload_sets, rules.deload_load) if rules is not None else (0.6, 0.9)
        gym = self.session.bench.gym
        self.desk.do("Lighter week", lambda plan: edits.deload_week(plan, week, sets, load, gym))

    def _empty_week(self) -> None:
        self.desk.do("Add week", edits.add_week)

    def _add_session(self, weekday: int) -> None:
        week = self.desk.week

        def change(plan: Any) -> Any:
            whole = plan if plan.weeks else edits.add_week(plan)
            return edits.add_session(whole, week, weekday)

        self.desk.do("Add session", change)

    def _copy_session(self) -> None:
        chosen, week = self.desk.chosen, self.desk.week
        if chosen is not None:
            day = (chosen.weekday + 1) % 7
            self.desk.do("Copy session", lambda plan: edits.add_session(plan, week, day, chosen))

    def _remove_session(self) -> None:
        key = self.desk.key
        self.desk.do("Remove session", lambda plan: edits.remove_session(plan, key))

    def _start(self) -> None:
        """Run the chosen session, never another one: a plan that is still being written is waited for."""
        self.desk.save()
        self._starting = self.desk.key
        if self.desk.chosen is None:
            self.register.wanted_session = None
            self.session.screen_asked.emit("Run")
            return
        self._start_when_written()

    def _start_when_written(self) -> None:
        key, row = self._starting, self.desk.state_of(self._starting)
        if key != self.desk.key or self.desk.beaten is not None:
            self._starting = ""
            return
        if not key or self.desk.writing or row is None:
            return
        self._starting = ""
        self.register.wanted_session = row.id
        self.session.screen_asked.emit("Run")

    # --- building and plans --------------------------------------------------------------------

    def _ask_build(self) -> None:
        view = self.desk.view
        week = self.desk.plan.weeks[self.desk.week] if self.desk.plan.weeks else Week()
        stage = "usual" if view is None else view.person.stage
        self.build_form.open(stage, list(week.sessions), self.register.today())

    def ask_build(self, wish: WeekWish) -> None:
        """Have a week built beside the window."""
        from zesty_lever.plan.builder import build_week

        rules = self.session.rules
        self._say("Building: the shortlist first, then the week …")
        self.building.ask(lambda tell: build_week(wish, rules, tell))

    def _built(self, built: Any) -> None:
        self._say("")
        days = sum(1 for _ in built.plan.sessions())
        self.desk.add(built.plan, self.build_form.first_day)
        unmet = f" Not met: {'; '.join(built.unmet)}." if built.unmet else ""
        whom = "".join(f" {said(one)}" for one in built.says)
        self.session.announced.emit(f"Built: {days} sessions.{unmet}{whom}")

    def _fill_menu(self) -> None:
        self.papers.fill(self.menu)

    def import_plan(self, path: Path) -> None:
        """A plan file as a new plan of this athlete."""
        self.papers.import_plan(path)

    def ask_file(self, words: str, name: str, kinds: str) -> Path | None:
        """A file to write, chosen by the coach."""
        path, _ = QFileDialog.getSaveFileName(self, words, name, kinds)
        return Path(path) if path else None

    def themed(self) -> Iterable[Themed]:
        return (self.board, self.side.predicted)
