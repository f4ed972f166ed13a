"""Which job the pages of the build view show, its plan as it was last worked out, and the one road to edit it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QObject, pyqtSignal

from omakase.core.errors import OmakaseError
from omakase.evaluate.build.plan import JobPlan, PartPlan, Planner
from omakase.project import jobs as edits
from omakase.project.build import Job, Shop
from omakase.project.commands import Command
from omakase.project.model import Project, by_id
from omakase.ui.kit.searching import Searching
from omakase.ui.session import Session
from omakase.units import QuantityError

REST_MS = 60  # after an edit, until the job is planned again


class BuildModel(QObject):
    """``changed``: another job is chosen, or records changed.  ``planned``: a plan has arrived.  ``told``: words."""

    changed = pyqtSignal()
    planned = pyqtSignal()
    told = pyqtSignal(str, bool)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.planner = Planner()
        self.search = Searching("build", self, REST_MS)
        self.job_id = self.part_id = ""
        self.watched = False
        self._plan: JobPlan | None = None
        self._planned: tuple[object, ...] = ()
        self.search.found.connect(self._take)
        self.search.ended.connect(self._ended)
        session.document.changed.connect(lambda _change: self._follow())
        session.document.reset.connect(self._reset)

    # --- what is shown --------------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        return self.session.document.project

    @property
    def job(self) -> Job | None:
        """The chosen job, the first one if none was chosen."""
        jobs = self.project.jobs
        return by_id(jobs, self.job_id) or (jobs[0] if jobs else None)

    @property
    def plan(self) -> JobPlan | None:
        """The last plan of the chosen job; that of its records before the last edit until the new one is there."""
        job = self.job
        return self._plan if self._plan is not None and job is not None and self._plan.job.id == job.id else None

    @property
    def part(self) -> PartPlan | None:
        """The chosen part in the plan, the first one if none was chosen."""
        plan = self.plan
        if plan is None or not plan.parts:
            return None
        return plan.part(self.part_id) or plan.parts[0]

    @property
    def busy(self) -> bool:
        return self.search.running

    def choose_job(self, identity: str) -> None:
        if identity != self.job_id:
            self.job_id, self.part_id = identity, ""
            self.changed.emit()
            self._replan()

    def choose_part(self, identity: str) -> None:
        if identity != self.part_id:
            self.part_id = identity
            self.changed.emit()

    # --- planning -------------------------------------------------------------------------------------------

    def watch(self, watched: bool) -> None:
        """Plans while someone looks, and rests else."""
        self.watched = watched
        if watched:
            self._replan()
        else:
            self.search.stop()

    def _follow(self) -> None:
        self.changed.emit()
        self._replan()

    def _reset(self) -> None:
        self.search.stop()
        self._plan, self._planned, self.job_id, self.part_id = None, (), "", ""
        self._follow()

    def _inputs(self) -> tuple[object, ...]:
        """What a plan is worked out from, by identity: an edit makes new records of what it touches."""
        project, job = self.project, self.job
        if job is None:
            return ()
        wanted = {own.brief for own in job.parts}
        briefs = tuple(id(brief) for brief in project.briefs if brief.id in wanted)
        parts = (job.id, job.name, job.start, job.units, job.planned, id(job.parts), id(job.works))
        return (
            *parts, id(project.shop), briefs, id(project.materials), id(project.acceptances), id(project.decisions),
            project.units,
        )  # fmt: skip

    def _replan(self) -> None:
        job = self.job
        if not self.watched or job is None:
            return
        inputs = self._inputs()
        if inputs == self._planned and self._plan is not None:
            self.search.stop()  # an edit that was taken back needs no plan
            return
        project, planner = self.project, self.planner

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            plan = planner.plan(project, job, stopped)
            if not stopped():
                yield plan, inputs, project

        self.search.begin(make)

    def plan_now(self) -> None:
        """Begins planning at once, without the rest after an edit."""
        self.search.begin_now()

    def _take(self, found: object) -> None:
        # the project is held with its plan: records are distinguished by identity, which must not be used again
        self._plan, self._planned, self._held = found  # type: ignore[misc]
        self.planned.emit()

    def _ended(self, message: str) -> None:
        if message:
            self.told.emit(message, True)

    # --- edits ----------------------------------------------------------------------------------------------

    def do(self, command: Command) -> None:
        self.session.do(command)

    def edit_job(self, change: Callable[[Job], Job], text: str, merge: str = "") -> bool:
        """Changes the chosen job as one step; False and a message where the change cannot be."""
        job = self.job
        if job is None:
            return False
        try:
            command = edits.change_job(self.project, job.id, change, text, merge)
        except (QuantityError, OmakaseError) as error:
            self.told.emit(str(error), True)
            return False
        if command.new != command.old:
            self.do(command)
        return True

    def edit_shop(self, change: Callable[[Shop], Shop], text: str, merge: str = "") -> None:
        """Changes the shop as one step."""
        command = edits.change_shop(self.project, change, text, merge)
        if command.new != command.old:
            self.do(command)
