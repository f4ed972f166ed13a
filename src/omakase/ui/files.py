"""Opening, saving, recovery and export; nothing here stops the work or loses it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from omakase.core.errors import OmakaseError
from omakase.evaluate.lineup import LineUp
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.material_json import read_library, write_library
from omakase.project.material_table import bring_in, read_materials, write_materials
from omakase.project.model import Project, new_project
from omakase.project.storage import (
    SUFFIX,
    Lock,
    ReadError,
    Recovered,
    Recovery,
    WriteError,
    left_behind,
    read_project,
    write_atomically,
    write_project,
)
from omakase.ui.notice import Notice

AUTOSAVE_MS = 4000
MAX_ERRORS_SHOWN = 6
TABLE_FILTER = "Comma-separated values (*.csv);;Library in JSON (*.json);;All files (*)"
FILTER = f"Omakase projects (*{SUFFIX} *.json);;All files (*)"


class Files(QObject):
    """Keeps one document on disk.

    ``ask_open`` and ``ask_save`` ask the user for a path ("" for none); they stand as attributes so that whoever
    drives the window can answer instead.
    """

    told = pyqtSignal(str)
    _exported = pyqtSignal(str, str)

    def __init__(self, document: Document, notice: Notice, parent: QWidget) -> None:
        super().__init__(parent)
        self.document, self.notice = document, notice
        self.recovery = Recovery()
        self._lock: Lock | None = None
        self._stamp: int | None = None
        self._worker = ThreadPoolExecutor(1, thread_name_prefix="export")
        self.ask_open: Callable[[str], str] = lambda kinds: QFileDialog.getOpenFileName(
            parent, "Open", self._folder(), kinds
        )[0]
        self.ask_save: Callable[[str, str], str] = lambda name, kinds: QFileDialog.getSaveFileName(
            parent, "Save as", str(Path(self._folder()) / name), kinds
        )[0]
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        document.changed.connect(lambda _change: self._timer.start())
        self._exported.connect(self._export_ended)

    def _folder(self) -> str:
        return str(self.document.path.parent) if self.document.path else ""

    # --- keeping unsaved work -------------------------------------------------------------------------------

    def autosave(self) -> None:
        """Puts unsaved work into the recovery file, or drops the file when there is none."""
        if not self.document.modified:
            self.recovery.drop()
            return
        try:
            self.recovery.keep(self.document.project, self.document.path)
        except WriteError as error:
            self.told.emit(f"unsaved work could not be kept for recovery: {error}")

    def offer_recovery(self) -> None:
        """Offers what a crashed window left behind."""
        found = left_behind()
        if found:
            newest = found[0]
            where = f"of '{newest.path.name}'" if newest.path else f"titled '{newest.project.title}'"
            self.notice.say(
                f"The program ended without saving work {where}. It was kept.",
                [
                    ("Bring it back", lambda: self._bring_back(newest)),
                    ("Throw it away", lambda: self._throw_away(newest)),
                    ("Later", lambda: None),
                ],
            )

    def _bring_back(self, found: Recovered) -> None:
        def put() -> None:
            self._put(found.project, found.path, modified=True)
            self.autosave()
            found.file.unlink(missing_ok=True)
            self.told.emit("recovered; not saved yet")

        self.with_work_safe(put)

    def _throw_away(self, found: Recovered) -> None:
        found.file.unlink(missing_ok=True)
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
        return self.document.path.name if self.document.path else (self.document.project.title or "Untitled")

    def new(self) -> None:
        self.with_work_safe(lambda: self._put(new_project(), None))

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
                f"'{path.name}' is open in another window ({holder}). Saving in both would lose the work of one.",
                [("Leave it", lambda: None), ("Open it all the same", lambda: self.open_path(path, True))],
            )
            return False
        self._put(project, path)
        return True

    def _put(self, project: Project, path: Path | None, modified: bool = False) -> None:
        self._hold(path)
        self.document.open(project, path, modified)
        self.recovery.drop()

    def _hold(self, path: Path | None) -> None:
        if self._lock is not None:
            self._lock.release()
        self._lock = Lock(path) if path else None
        if self._lock is not None:
            self._lock.take()
        self._stamp = path.stat().st_mtime_ns if path and path.exists() else None

    # --- saving ---------------------------------------------------------------------------------------------

    def save(self) -> bool:
        """Saves to the document's file; asks for one when it has none."""
        path = self.document.path
        if path is None:
            return self.save_as()
        if self._stamp is not None and path.exists() and path.stat().st_mtime_ns != self._stamp:
            self.notice.say(
                f"'{path.name}' was changed by another program since it was opened.",
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
        path = Path(name)
        return self._write(path if path.suffix else path.with_name(path.name + SUFFIX))

    def _write(self, path: Path) -> bool:
        try:
            write_project(path, self.document.project)
        except WriteError as error:
            self.notice.say(f"{error}. Your work is still here, unsaved.")
            return False
        self._hold(path)
        self.document.mark_saved(path)
        self.recovery.drop()
        self.told.emit(f"saved {path.name}")
        return True

    # --- reports --------------------------------------------------------------------------------------------

    def export_tests(self) -> None:
        """Asks for a name and writes all series of tests as .csv."""
        from omakase.project.storage import write_atomically
        from omakase.reports.series_table import series_csv

        name = self.ask_save("tests.csv", "Comma-separated values (*.csv)")
        if not name:
            return
        path = Path(name) if Path(name).suffix else Path(name).with_suffix(".csv")
        try:
            write_atomically(path, series_csv(self.document.project))
        except OmakaseError as error:
            self.told.emit(str(error))
        else:
            self.told.emit(f"{path.name} written")

    def export(self, line_up: LineUp | None, suffix: str) -> None:
        """Asks for a name and writes the line-up as .csv or .pdf on a worker thread."""
        if line_up is None:
            self.told.emit("there is no line-up to write")
            return
        kinds = "Comma-separated values (*.csv)" if suffix == ".csv" else "PDF (*.pdf)"
        name = self.ask_save(line_up.brief.name.lower().replace(" ", "-") + suffix, kinds)
        if not name:
            return
        path, project = Path(name), self.document.project
        path = path if path.suffix else path.with_suffix(suffix)

        def work() -> None:
            from omakase.reports.write import write_report  # slow to import and rarely needed

            try:
                write_report(path, project, line_up)
            except Exception as error:  # whatever went wrong is told; the window goes on
                self._exported.emit("", f"'{path.name}' could not be written: {error}")
            else:
                self._exported.emit(path.name, "")

        self.told.emit(f"writing {path.name} …")
        self._worker.submit(work)

    def _export_ended(self, name: str, error: str) -> None:
        if error:
            self.notice.say(error)
        else:
            self.told.emit(f"wrote {name}")

    def write_materials(self) -> None:
        """Asks for a name and writes the materials the project sees as a table, or as JSON by its name."""
        project = self.document.project
        name = self.ask_save("materials.csv", TABLE_FILTER)
        if name:
            path = Path(name)
            try:
                materials = materials_of(project).values()
                as_json = path.suffix.lower() == ".json"
                data = write_library(materials) if as_json else write_materials(materials, project.units)
                write_atomically(path, data)
            except WriteError as error:
                self.notice.say(f"{error}.")
            else:
                self.told.emit(f"wrote {path.name}")

    def read_materials(self) -> None:
        """Asks for a table or JSON and makes its materials the project's own; what makes no sense is named."""
        name = self.ask_open(TABLE_FILTER)
        if not name:
            return
        path, project = Path(name), self.document.project
        try:
            data = path.read_bytes()
        except OSError as error:
            self.notice.say(f"'{path.name}' cannot be read: {error.strerror or error}.")
            return
        if path.suffix.lower() == ".json":
            materials, errors = read_library(data)
        else:
            materials, errors = read_materials(data, project.units, materials_of(project))
        if materials:
            self.document.do(bring_in(project, materials))
            self.told.emit(f"{len(materials)} materials read from {path.name}")
        if errors:
            shown = "\n".join(str(error) for error in errors[:MAX_ERRORS_SHOWN])
            more = f"\n… and {len(errors) - MAX_ERRORS_SHOWN} more" if len(errors) > MAX_ERRORS_SHOWN else ""
            self.notice.say(f"{len(materials)} materials read from '{path.name}'; left out:\n{shown}{more}")

    def close(self) -> None:
        """The window goes: lets go of the file and of the recovery file."""
        self._timer.stop()
        self._worker.shutdown(wait=True)
        self.recovery.drop()
        self._hold(None)
