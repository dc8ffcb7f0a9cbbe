"""What goes in and out of a plan: templates, files, the calendar, the handout."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QMenu

from zesty_lever.plan.document import Plan, Week, plan_json, read_plan_file
from zesty_lever.problems import CaseError
from zesty_lever.ui.plan.desk import PlanDesk
from zesty_lever.wording.sentences import file_name

if TYPE_CHECKING:
    from zesty_lever.ui.plan.screen import PlanScreen

JSON, ICS, PDF = "Plans (*.json)", "iCalendar (*.ics)", "PDF (*.pdf)"


class PlanPapers(QObject):
    """Everything is said in the window, whatever comes of it."""

    def __init__(self, desk: PlanDesk, screen: PlanScreen) -> None:
        super().__init__(screen)
        self.desk, self.screen = desk, screen

    def _say(self, words: str) -> None:
        self.desk.session.announced.emit(words[0].upper() + words[1:])

    def fill(self, menu: QMenu) -> None:
        """The menu as it is now."""
        menu.clear()
        menu.addAction("New plan", self.new)
        own = menu.addMenu("Begin from a template")
        view = self.desk.view
        for row in () if view is None else view.templates:
            own.addAction(row.plan.name, partial(self.desk.start_template, row.id))
        own.setEnabled(not own.isEmpty())
        kept = menu.addAction("Keep as a template", self._keep_template)
        changed = menu.addAction("What its template has otherwise", self.tell_differences)
        menu.addSeparator()
        menu.addAction("Open a plan file …", self._ask_open)
        saved = menu.addAction("Save as a file …", self._ask_save)
        dated = menu.addAction("Calendar (iCalendar) …", self._ask_calendar)
        menu.addSeparator()
        gone = menu.addAction("Take this plan away", self.desk.remove)
        for action in (kept, changed, saved, dated, gone):
            action.setEnabled(self.desk.row is not None)

    def new(self) -> None:
        """A plan of one empty week."""
        self.desk.add(Plan(name="New plan", weeks=(Week(),)))

    def _keep_template(self) -> None:
        self.desk.keep_template(self.desk.plan.name.strip() or "Template")

    def tell_differences(self) -> None:
        """What the template of this plan has otherwise; nothing is forced."""
        from zesty_lever.plan.edits import differences

        view, row = self.desk.view, self.desk.row
        found = [
            t for t in (() if view is None else view.templates) if row and t.id == row.template
        ]
        if not found:
            self._say("this plan has no template")
            return
        told = differences(self.desk.plan, found[0].plan)
        self._say("; ".join(told) if told else "the template is as this plan is")

    def _ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self.screen, "Open a plan", "", JSON)
        if path:
            self.import_plan(Path(path))

    def import_plan(self, path: Path) -> None:
        """A plan file as a new plan; what is wrong with it is said and nothing changes."""
        try:
            plan = read_plan_file(path)
        except (CaseError, OSError, UnicodeDecodeError) as error:
            self._say(f"{path.name} was not opened: {error}")
            return
        self.desk.add(plan if plan.name else plan.changed(name=path.stem[:80]))

    def _ask_save(self) -> None:
        path = self.screen.ask_file("Save the plan", file_name(self.desk.plan.name, "json"), JSON)
        if path is not None:
            self.save(path)

    def save(self, path: Path) -> None:
        """The plan as a file."""
        from zesty_lever.io.json_files import replacing, write_json

        try:
            with replacing(path) as file:
                write_json(plan_json(self.desk.plan), file, indent=1)
            self._say(f"saved as {path.name}.")
        except OSError as error:
            self._say(f"could not save {path.name}: {error.strerror}")

    def _ask_calendar(self) -> None:
        path = self.screen.ask_file("Save the calendar", file_name(self.desk.plan.name, "ics"), ICS)
        if path is not None:
            self.save_calendar(path)

    def save_calendar(self, path: Path) -> None:
        """The athlete's sessions as iCalendar: no loads, no health data."""
        register = self.desk.register
        person = register.person_id

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.io.json_files import replacing
            from zesty_lever.plan.calendar import calendar_text
            from zesty_lever.records.people import person as named
            from zesty_lever.records.summary import appointments

            found = appointments(store, person)
            text = calendar_text(found, f"Training {named(store, person).name}")
            try:
                with replacing(path) as file:
                    file.write(text)
            except OSError as error:
                raise CaseError(
                    "records-read-only", f"could not save {path.name}: {error.strerror}"
                ) from error
            return len(found)

        register.write(work, lambda count: self._say(f"{count} sessions in {path.name}."))

    def ask_handout(self) -> None:
        """The chosen session as PDF, where the coach says."""
        chosen = self.desk.chosen
        if chosen is None:
            return
        name = file_name(f"{self.desk.plan.name} {chosen.name}", "pdf")
        path = self.screen.ask_file("Save the handout", name, PDF)
        if path is not None:
            self.save_handout(path)

    def save_handout(self, path: Path) -> None:
        """The chosen session as PDF for the athlete."""
        from zesty_lever.records.advising import with_advice
        from zesty_lever.ui.handout import Handout, write_handout

        chosen, view, row = self.desk.chosen, self.desk.view, self.desk.row
        if chosen is None or view is None or row is None:
            return
        ready = with_advice(chosen, self.screen.advised)
        sheet = Handout(
            view.person.body,
            ready,
            row.day_of(self.desk.week, chosen),
            self.desk.session.rules,
            view.person.stage,
        )
        try:
            write_handout(sheet, path)
            self._say(f"saved as {path.name}.")
        except OSError as error:
            self._say(f"could not save {path.name}: {error.strerror or error}")
