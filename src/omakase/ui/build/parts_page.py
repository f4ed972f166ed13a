"""The job as a sentence, its parts and works as a list, and the chosen one of these as a sentence."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout

from omakase.evaluate.build.plan import JobPlan, mass_words
from omakase.evaluate.build.sentences import job_sentence, part_sentence, work_sentence
from omakase.project import jobs as edits
from omakase.project.build import HOUR, Job
from omakase.project.library import materials_of
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.sheet import RecordSheet
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.theme import SPACE

TITLES = ("Part or work", "Candidate", "Process", "Count", "Mass of one", "Hands-on")


def scrolled(sheet: RecordSheet) -> QScrollArea:
    """A sheet that scrolls where it does not fit."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(sheet)
    return area


class PartsPage(BuildPage):
    """Parts first, then works; the line below says what the job comes to."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__(model)
        self.sheet, self.chosen_sheet = RecordSheet(self._edit), RecordSheet(self._edit)
        self.list = fitting_list("Parts and works of the job", TITLES, 2)
        self.add, self.work = QPushButton("The chosen candidate as a part"), QPushButton("A work")
        self.drop = QPushButton("Remove (Del)")
        self.chosen = ""
        buttons = QHBoxLayout()
        for button in (self.add, self.work, self.drop):
            buttons.addWidget(button)
        buttons.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.sheet)
        layout.addWidget(self.list, 3)
        layout.addLayout(buttons)
        layout.addWidget(scrolled(self.chosen_sheet), 3)
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))
        self.add.clicked.connect(lambda: self.add_part())
        self.work.clicked.connect(lambda: self.add_work())
        self.drop.clicked.connect(lambda: self.remove_chosen())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete and self.list.hasFocus():
            self.remove_chosen()
        else:
            super().keyPressEvent(event)

    # --- what is shown --------------------------------------------------------------------------------------

    def fill(self) -> None:
        job, plan, units = self.model.job, self.model.plan, self.model.session.units
        for widget in (self.sheet, self.list, self.add, self.work, self.drop, self.chosen_sheet):
            widget.setEnabled(job is not None)
        if job is None:
            return
        problems = plan.problems if plan is not None else ()
        of_job = [own for own in problems if own[0][0] not in ("parts", "works", "shop")]
        self.sheet.show_record(job, job_sentence(job), units, of_job, job.id)
        rows = self._rows(job, plan)
        ids = [key for key, _ in rows]
        if self.chosen not in ids:
            self.chosen = ids[0] if ids else ""
        fill_list(self.list, rows, self.chosen, (3, 4, 5))
        self.drop.setEnabled(bool(self.chosen))
        self._show_chosen(job)

    def _rows(self, job: Job, plan: JobPlan | None) -> list[tuple[str, tuple[str, ...]]]:
        units = self.model.session.units
        wrong = {path[1] for path, _ in plan.problems if path[0] == "parts" and len(path) > 1} if plan else set()
        rows: list[tuple[str, tuple[str, ...]]] = []
        processes = {own.id: own.name for own in self.model.project.shop.processes}
        for i, part in enumerate(job.parts):
            made = plan.part(part.id) if plan is not None else None
            candidate = made.made.candidate.name if made is not None else "?"
            mass = mass_words(made, "painted", units) if made is not None else ""
            hours = f"{made.hours.total / HOUR:.1f} h" if made is not None else ""
            mark = "! " if i in wrong else ""
            rows.append((part.id, (f"{mark}{part.name}", candidate, processes.get(part.process, "?"), str(part.count),
                                   mass, hours)))  # fmt: skip
        for work in job.works:
            hours = f"{work.hours * work.people / HOUR:.1f} h"
            rows.append((work.id, (work.name, "", "work", str(work.people), "", hours)))
        return rows

    def _show_chosen(self, job: Job) -> None:
        project, units = self.model.project, self.model.session.units
        materials = materials_of(project)
        problems = self.model.plan.problems if self.model.plan is not None else ()
        for kind, entries, make in (("parts", job.parts, part_sentence), ("works", job.works, work_sentence)):
            for i, own in enumerate(entries):  # type: ignore[arg-type]
                if own.id == self.chosen:
                    told = [known for known in problems if known[0][:2] == (kind, i) or known[0] == (kind,)]
                    self.chosen_sheet.show_record(job, make(project, job, i, materials), units, told, (job.id, own.id))
                    return
        self.chosen_sheet.show_record(job, (), units)

    def _choose(self, identity: str) -> None:
        if identity and identity != self.chosen:
            self.chosen = identity
            self.refresh()

    # --- edits ----------------------------------------------------------------------------------------------

    def _edit(self, change: Callable[[Any], Any], text: str, merge: str) -> None:
        self.model.edit_job(change, text, merge)

    def add_part(self) -> None:
        """Takes the chosen candidate of the line-up in as a part."""
        brief, candidate = self.model.session.brief, self.model.session.candidate
        if brief is None or candidate is None or not candidate.layers:
            self.model.told.emit("choose a candidate with a layup in the line-up first", True)
            return
        self.model.edit_job(lambda job: edits.with_part(job, brief, candidate), "add a part")
        job = self.model.job
        if job is not None and job.parts:
            self._choose(job.parts[-1].id)

    def add_work(self) -> None:
        """Adds a work behind all parts."""
        self.model.edit_job(edits.with_work, "add a work")
        job = self.model.job
        if job is not None and job.works:
            self._choose(job.works[-1].id)

    def remove_chosen(self) -> None:
        """Removes the chosen part or work."""
        job = self.model.job
        if job is None:
            return
        for i, part in enumerate(job.parts):
            if part.id == self.chosen:
                self.model.edit_job(partial(edits.without_part, index=i), "remove a part")
                return
        for i, work in enumerate(job.works):
            if work.id == self.chosen:
                self.model.edit_job(partial(edits.without_work, index=i), "remove a work")
                return
