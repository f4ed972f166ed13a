"""Opening, saving, recovery and export; nothing here stops the work or loses it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.wording import counted
from omakase.project.demo import demo_project
from omakase.project.disk import ReadError, WriteError, read_bytes, shown_name, write_atomically
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Project, new_project
from omakase.project.storage import (
    MAX_BYTES,
    SUFFIX,
    Lock,
    Recovered,
    Recovery,
    fingerprint,
    left_behind,
    read_project,
    write_project,
)
from omakase.ui.window.notice import Notice
from omakase.ui.window.pages import of_job, of_line_up, of_record, of_series
from omakase.ui.window.writing import Writing
from omakase.units import UnitSystem

if TYPE_CHECKING:
    from omakase.evaluate.build.plan import JobPlan
    from omakase.evaluate.second.comparing import Line

AUTOSAVE_MS = 1200  # from the first edit that is not kept yet: with the writing at most two seconds of work are lost
MAX_ERRORS_SHOWN = 6
LARGE = 500_000  # bytes from which a table is read behind the window
TABLE_FILTER = "Comma-separated values (*.csv);;Workbook (*.xlsx);;Library in JSON (*.json);;All files (*)"
FILE_KINDS = {
    ".pdf": "PDF (*.pdf)", ".xlsx": "Workbook (*.xlsx)", ".csv": "Comma-separated values (*.csv)",
    ".dxf": "Drawing exchange (*.dxf)", ".inp": "Finite-element deck (*.inp)",
    ".svg": "Vector picture (*.svg)",
}  # fmt: skip
FILTER = f"Omakase projects (*{SUFFIX} *.json);;All files (*)"


class Files(QObject):
    """Keeps one document on disk.

    ``ask_open`` and ``ask_save`` ask the user for a path ("" for none); they stand as attributes so that whoever
    drives the window can answer instead.
    """

    told = pyqtSignal(str)
    held = pyqtSignal(str)  # a project was opened from, or saved to, this path
    _kept = pyqtSignal()
    _not_kept = pyqtSignal(str)
    _materials_read = pyqtSignal(int, object, object, object, str)

    def __init__(self, document: Document, notice: Notice, parent: QWidget) -> None:
        super().__init__(parent)
        self.document, self.notice = document, notice
        self.recovery = Recovery()
        self._lock: Lock | None = None
        self._stamp: int | None = None
        self._content = ""
        self._reading_told = False  # the notice says that a table is being read
        self._reading = 0  # counts the tables read, so that one that was given up is not taken in
        self.writing = Writing(notice, self)
        self.writing.told.connect(self.told)
        self._keeper = ThreadPoolExecutor(1, thread_name_prefix="autosave")
        self._keeping: Future[None] | None = None
        self._keep_again = False  # the time to keep came while the state before was still being written
        self.ask_open: Callable[[str], str] = lambda kinds: QFileDialog.getOpenFileName(
            parent, "Open", self._folder(), kinds
        )[0]
        self.ask_save: Callable[[str, str], str] = lambda name, kinds: QFileDialog.getSaveFileName(
            parent, "Save as", str(Path(self._folder()) / name), kinds
        )[0]
        self.units_last_used: Callable[[], UnitSystem] = lambda: document.project.units
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        document.changed.connect(lambda _change: self._keep_soon())
        document.refused.connect(lambda text: self.notice.say(f"Not taken: {text}."))
        self._materials_read.connect(self._take_materials)
        self._kept.connect(self._keep_what_came)
        self._not_kept.connect(lambda text: self.told.emit(f"unsaved work could not be kept for recovery: {text}"))

    def _folder(self) -> str:
        return str(self.document.path.parent) if self.document.path else ""

    # --- keeping unsaved work -------------------------------------------------------------------------------

    def _keep_soon(self) -> None:
        """A running timer goes on: one that began again with every edit would never end while someone works."""
        if not self._timer.isActive():
            self._timer.start()

    def autosave(self, wait: bool = False) -> None:
        """Puts unsaved work into the recovery file, or drops the file when there is none; on a thread of its own."""
        if self._keeping is not None and not self._keeping.done() and not wait:
            self._keep_again = True  # a slow disk, or a busy machine
            return
        self._keep_again = False
        project, path, content = self.document.project, self.document.path, self._content
        modified = self.document.modified

        def work() -> None:
            try:
                if modified:
                    self.recovery.keep(project, path, content)
                else:
                    self.recovery.drop()
            except Exception as error:  # whatever it is, the user must know that work is not kept
                self._not_kept.emit(str(error))

        self._keeping = self._keeper.submit(work)
        self._keeping.add_done_callback(lambda _kept: self._kept.emit())
        if wait:
            self._keeping.result()

    def _keep_what_came(self) -> None:
        if self._keep_again:
            self.autosave()

    def _drop_recovery(self) -> None:
        """The work is saved or given up; what is being kept just now is waited for."""
        self._keeper.submit(self.recovery.drop).result()

    def offer_recovery(self) -> None:
        """Offers what a crashed window left behind."""
        leftovers = left_behind()
        if leftovers:
            newest = leftovers[0]
            where = f"of '{shown_name(newest.path)}'" if newest.path else f"titled '{newest.project.title}'"
            self.notice.say(
                f"The program ended without saving work {where}. It was kept.",
                [
                    ("Bring it back", lambda: self._bring_back(newest)),
                    ("Throw it away", lambda: self._throw_away(newest)),
                    ("Later", lambda: None),
                ],
            )

    def _bring_back(self, recovered: Recovered) -> None:
        def put() -> None:
            newer = recovered.saved_since
            self._put(recovered.project, None if newer else recovered.path, modified=True)
            self.autosave(wait=True)
            recovered.file.unlink(missing_ok=True)
            self.told.emit("recovered; not saved yet")
            if newer and recovered.path is not None:
                self.notice.say(
                    f"'{shown_name(recovered.path)}' was saved after this work was kept. It was left as it is: what "
                    "you see is the kept work, without a file of its own. Save it under another name and compare."
                )

        self.with_work_safe(put)

    def _throw_away(self, recovered: Recovered) -> None:
        recovered.file.unlink(missing_ok=True)
        self.offer_recovery()

    # --- opening --------------------------------------------------------------------------------------------

    def with_work_safe(self, act: Callable[[], object]) -> None:
        """Does ``act`` at once when all is saved, else after asking."""
        if not self.document.modified:
            act()
            return

        def save_first() -> None:
            if self.save():
                act()

        self.notice.say(
            f"'{self.title}' has changes that are not saved.",
            [("Save, then go on", save_first), ("Go on without saving", act), ("Stay here", lambda: None)],
        )

    @property
    def title(self) -> str:
        """What the document is called in the window."""
        return shown_name(self.document.path) if self.document.path else (self.document.project.title or "Untitled")

    def new(self) -> None:
        self.with_work_safe(lambda: self._put(new_project(self.units_last_used()), None))

    def open_demo(self, then: Callable[[], object]) -> None:
        """Opens the demo in place of the project, unless it is there already; then goes on."""
        demo = demo_project()
        if self.document.path is None and self.document.project == demo:
            then()
            return

        def put() -> None:
            self._put(demo, None)
            then()

        self.with_work_safe(put)

    def open(self) -> None:
        """Asks for a file and opens it."""
        name = self.ask_open(FILTER)
        if name:
            self.with_work_safe(lambda: self.open_path(Path(name)))

    def open_path(self, path: Path, ignore_lock: bool = False) -> bool:
        """Opens a file; what cannot be read is explained and the present project stays."""
        try:
            project = read_project(path)
        except ReadError as error:
            self.notice.say(f"{error}. The file was not changed.")
            return False
        holder = Lock(path).holder()
        if holder and not ignore_lock:
            self.notice.say(
                f"'{shown_name(path)}' is open in another window ({holder}). Saving in both would lose the work of "
                "one.",
                [("Leave it", lambda: None), ("Open it anyway", lambda: self.open_path(path, True))],
            )
            return False
        self._put(project, path)
        return True

    def _put(self, project: Project, path: Path | None, modified: bool = False) -> None:
        self._hold(path)
        self.document.open(project, path, modified)
        self._drop_recovery()

    def _hold(self, path: Path | None) -> None:
        if self._lock is not None:
            self._lock.release()
        if path is not None:
            self.held.emit(str(path.absolute()))
        self._lock = Lock(path) if path else None
        if self._lock is not None:
            self._lock.take()
        self._stamp = path.stat().st_mtime_ns if path and path.exists() else None
        self._content = fingerprint(path)

    # --- saving ---------------------------------------------------------------------------------------------

    def save(self) -> bool:
        """Saves to the document's file; asks for one when it has none."""
        path = self.document.path
        if path is None:
            return self.save_as()
        if self._stamp is not None and path.exists() and path.stat().st_mtime_ns != self._stamp:
            self.notice.say(
                f"'{shown_name(path)}' was changed by another program since it was opened.",
                [
                    ("Save under another name", self.save_as),
                    ("Overwrite it", lambda: self._write(path)),
                    ("Do not save", lambda: None),
                ],
            )
            return False
        return self._write(path)

    def save_as(self) -> bool:
        """Asks for a name and saves there."""
        stem = self.title.removesuffix(SUFFIX).removesuffix(".json")
        name = self.ask_save(stem.lower().replace(" ", "-") + SUFFIX, FILTER)
        if not name:
            return False
        return self._with_ending(name, SUFFIX, self._write, self.save_as)

    def _with_ending(self, name: str, ending: str, act: Callable[[Path], object], again: Callable[[], object]) -> bool:
        """Writes to the name chosen, with the ending it lacks; asks where a file of that name was not asked about."""
        chosen = Path(name)
        path = chosen if chosen.suffix else chosen.with_name(chosen.name + ending)
        if path == chosen or not path.exists():
            return bool(act(path))
        self.notice.say(
            f"'{shown_name(path)}' exists already.",
            [("Choose another name", again), ("Overwrite it", lambda: act(path)), ("Do not write", lambda: None)],
        )
        return False

    def _write(self, path: Path) -> bool:
        try:
            write_project(path, self.document.project)
        except WriteError as error:
            self.notice.say(f"{error}. Your work is still here, unsaved.")
            return False
        self._hold(path)
        self.document.mark_saved(path)
        self._drop_recovery()
        self.told.emit(f"saved {shown_name(path)}")
        return True

    # --- reports --------------------------------------------------------------------------------------------

    def export_tests(self, suffix: str = ".csv") -> None:
        """Asks for a name and writes all series of tests as .csv or .xlsx."""
        project = self.document.project

        def write(path: Path) -> None:
            from omakase.reports.series_table import write_series  # rarely needed

            write_series(path, project)

        self.write_chosen("tests", FILE_KINDS[suffix], suffix, write)

    def export(self, line_up: LineUp | None, suffix: str) -> None:
        """Asks for a name and writes the line-up as .csv, .xlsx or .pdf on a worker thread."""
        if line_up is None:
            self.told.emit("there is no line-up to write")
            return
        write = of_line_up(self.document.project, line_up)
        self.write_chosen(line_up.brief.name, FILE_KINDS[suffix], suffix, write)

    def export_deck(self, result: Callable[[], CandidateResult] | None, name: str, title: str) -> None:
        """Asks for a name and writes a candidate as a finite-element deck on a worker thread."""
        if result is None:
            self.told.emit("there is no candidate to write")
            return

        def work(path: Path) -> None:
            from omakase.reports.second import deck_of  # slow to import and rarely needed

            write_atomically(path, deck_of(result(), title).encode())

        self.write_chosen(name, FILE_KINDS[".inp"], ".inp", work)

    def export_record(self, line_up: LineUp | None, candidate: str, second: tuple[Line, ...] = ()) -> None:
        """Asks for a name and writes the design record of a candidate as PDF on a worker thread.  ``second`` : what a
        finite-element solver said of it."""
        if line_up is None or not candidate:
            self.told.emit("there is no candidate to write a record of")
            return
        write = of_record(self.document.project, line_up, candidate, second)
        self.write_chosen(f"{line_up.brief.name} record", FILE_KINDS[".pdf"], ".pdf", write)

    def export_series(self, series: str, name: str) -> None:
        """Asks for a name and writes the report of a series of tests as PDF on a worker thread."""
        if not series:
            self.told.emit("there is no series of tests to report")
            return
        self.write_chosen(name, FILE_KINDS[".pdf"], ".pdf", of_series(self.document.project, series))

    def export_job(self, plan: JobPlan | None, suffix: str) -> None:
        """Asks for a name and writes a planned job on a worker thread: all sheets, all tables, cut list or patterns."""
        if plan is None:
            self.told.emit("there is no planned job to write")
            return
        self.write_chosen(plan.job.name, FILE_KINDS[suffix], suffix, of_job(self.document.project, plan))

    def export_job_tables(self, plan: JobPlan | None) -> None:
        """Asks for a name and writes each table of a planned job as a file of its own beside it."""
        if plan is None:
            self.told.emit("there is no planned job to write")
            return
        name = self.ask_save(plan.job.name.lower().replace(" ", "-") + ".csv", FILE_KINDS[".csv"])
        if name:
            from omakase.reports.job_write import write_tables  # slow to import and rarely needed

            self.writing.begin(Path(name), lambda path: write_tables(path, plan))

    def write_chosen(
        self, title: str, kinds: str, ending: str, write: Callable[[Path], object], behind: bool = True
    ) -> None:  # fmt: skip
        """Asks for a name of one of some ``kinds``, and writes; ``ending`` where the name has none.

        ``behind`` : on a worker thread; not what paints.
        """
        name = self.ask_save(title.lower().replace(" ", "-") + ending, kinds)
        if name:
            act = self.writing.begin if behind else self._write_here
            self._with_ending(name, ending, lambda path: act(path, write),
                              lambda: self.write_chosen(title, kinds, ending, write, behind))  # fmt: skip

    def _write_here(self, path: Path, write: Callable[[Path], object]) -> None:
        try:
            write(path)
        except OmakaseError as error:
            self.notice.say(f"{error}.")
        else:
            self.told.emit(f"wrote {shown_name(path)}")

    def write_materials(self) -> None:
        """Asks for a name and writes the materials the project sees as a table, or as JSON by its name."""
        project = self.document.project

        def write(path: Path) -> None:
            from omakase.project.material_json import write_library
            from omakase.project.material_table import write_materials

            materials = materials_of(project).values()
            ending = path.suffix.lower()
            if ending == ".xlsx":
                from omakase.reports.material_sheet import material_workbook  # slow to import and rarely needed

                write_atomically(path, material_workbook(materials, project.units))
                return
            as_json = ending == ".json"
            write_atomically(path, write_library(materials) if as_json else write_materials(materials, project.units))

        self.write_chosen("materials", TABLE_FILTER, ".csv", write, behind=False)

    def read_materials(self, given: Path | None = None) -> None:
        """Makes the materials of a table or JSON the project's own; what makes no sense is named.  Asks for a file
        where none is ``given``."""
        name = str(given) if given is not None else self.ask_open(TABLE_FILTER)
        if not name:
            return
        path, project = Path(name), self.document.project
        self._reading += 1
        turn = self._reading

        def work() -> None:
            self._materials_read.emit(turn, path, *_read_materials_file(path, project))

        if not _is_large(path):
            self._take_materials(turn, path, *_read_materials_file(path, project))
            return
        self._reading_told = True
        self.notice.say(f"Reading '{shown_name(path)}' …", [("Stop", self._stop_reading)])
        self.writing.worker.submit(work)

    def _stop_reading(self) -> None:
        self._reading += 1  # what arrives now is not taken
        self._reading_told = False

    def _take_materials(
        self, turn: int, path: Path, materials: list[Material], errors: Sequence[object], problem: str
    ) -> None:
        """Takes in what was read, unless it was given up meanwhile."""
        if turn != self._reading:
            return
        if self._reading_told:
            self.notice.clear()
            self._reading_told = False
        if problem:
            self.notice.say(f"{problem}.")
        if materials:
            from omakase.project.material_table import bring_in

            self.document.do(bring_in(self.document.project, materials))
            self.told.emit(f"{counted(len(materials), 'material')} read from {shown_name(path)}")
        if errors:
            shown = "\n".join(str(error) for error in errors[:MAX_ERRORS_SHOWN])
            more = f"\n… and {len(errors) - MAX_ERRORS_SHOWN} more" if len(errors) > MAX_ERRORS_SHOWN else ""
            read = counted(len(materials), "material")
            self.notice.say(f"{read} read from '{shown_name(path)}'; left out:\n{shown}{more}")

    def close(self) -> None:
        """The window closes: releases the file and the recovery file."""
        self._timer.stop()
        self.writing.close()
        self._drop_recovery()
        self._keeper.shutdown(wait=True)
        self._hold(None)


def _is_large(path: Path) -> bool:
    """Whether reading would hold the window: a large file, or something that is none."""
    try:
        return path.exists() and (not path.is_file() or path.stat().st_size > LARGE)
    except (OSError, ValueError):
        return False


def _read_materials_file(path: Path, project: Project) -> tuple[list[Material], Sequence[object], str]:
    """(materials, what is wrong by line, why the file cannot be read at all)."""
    from omakase.project.material_json import read_library
    from omakase.project.material_table import read_materials
    from omakase.project.workbook import sheet_as_csv

    try:
        data = read_bytes(path, MAX_BYTES, "a table of materials")
        if path.suffix.lower() == ".json":
            materials, errors = read_library(data)
        elif path.suffix.lower() == ".xlsx":
            materials, errors = read_materials(sheet_as_csv(data, path.name), project.units, materials_of(project))
        else:
            materials, errors = read_materials(data, project.units, materials_of(project))
    except Exception as error:  # whatever went wrong is reported: nobody may wait for ever
        return [], (), str(error)
    return materials, errors, ""
