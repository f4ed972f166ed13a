"""Tables and drawings out and in beside the project file, and what a dropped file is taken for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QObject, QRect, QSize
from PyQt6.QtGui import QPainter, QPixmap

from omakase.core.errors import OmakaseError
from omakase.evaluate.members.outline import outline
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.diagrams import has_span
from omakase.evaluate.results.wording import counted
from omakase.project.candidate_table import bring_candidates, read_candidates
from omakase.project.disk import ReadError, read_bytes, shown_name, write_atomically
from omakase.project.library import materials_of
from omakase.project.outline_file import OutlineFileError, read_outline
from omakase.project.specimen_table import NEEDED, RESULTS, read_specimens
from omakase.project.storage import MAX_BYTES
from omakase.project.table_rows import TableError, headings
from omakase.ui.kit.day import today

if TYPE_CHECKING:
    from omakase.ui.window.main_window import MainWindow

TABLES = "Comma-separated values (*.csv);;Workbook (*.xlsx);;All files (*)"
DRAWINGS = "Drawing exchange (*.dxf);;Vector picture (*.svg)"
PICTURES = "Comma-separated values (*.csv);;Picture (*.png);;Vector picture (*.svg)"
MOST_TOLD = 6
FINE = 3.0  # pixels of a PNG per pixel of the screen
PROJECT_MARK = b'"briefs"'


class Exchange(QObject):
    """Reads and writes for the window; every road tells what went wrong and loses nothing."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window = window
        self.files, self.session = window.files, window.session

    # --- in ---------------------------------------------------------------------------------------------------

    def read_candidates(self, path: Path | None = None) -> None:
        """Candidates of a table, put behind those of the brief."""

        def take(data: bytes, name: str) -> tuple[int, Sequence[object]]:
            brief, project = self.session.brief, self.session.document.project
            if brief is None:
                raise TableError("there is no brief that they could belong to")
            layups, errors = read_candidates(data, name, materials_of(project), project.units)
            if layups:
                self.session.do(bring_candidates(brief, layups, kind_of(brief).new_form(brief)))
            return len(layups), errors

        self._read(path, TABLES, "candidate", take)

    def read_specimens(self, path: Path | None = None) -> None:
        """What was measured of specimens, by the names of their series."""

        def take(data: bytes, name: str) -> tuple[int, Sequence[object]]:
            command, count, errors = read_specimens(data, name, self.session.document.project, today())
            if command is not None:
                self.session.do(command)
            return count, errors

        self._read(path, TABLES, "specimen", take)

    def _read(
        self, path: Path | None, kinds: str, what: str, take: Callable[[bytes, str], tuple[int, Sequence[object]]]
    ) -> None:
        chosen = str(path) if path is not None else self.files.ask_open(kinds)
        if not chosen:
            return
        path = Path(chosen)
        try:
            count, errors = take(read_bytes(path, MAX_BYTES, "a table"), path.name)
        except (OmakaseError, ReadError) as error:
            self.window.notice.say(f"{error}. Nothing was changed.")
            return
        told = f"{counted(count, what)} read from {shown_name(path)}"
        self.files.told.emit(told)
        if errors:
            more = f"\n… and {len(errors) - MOST_TOLD} more" if len(errors) > MOST_TOLD else ""
            shown = "\n".join(str(error) for error in errors[:MOST_TOLD])
            self.window.notice.say(f"{told}; left out:\n{shown}{more}")

    # --- out --------------------------------------------------------------------------------------------------

    def write_candidates(self) -> None:
        """The layers of every candidate of the brief, as ``read_candidates`` takes them in again."""
        line_up = self.session.line_up()
        if line_up is None:
            self.files.told.emit("there is no candidate to write")
            return
        units = self.session.units

        def write(path: Path) -> None:
            from omakase.reports.line_up_tables import layers_table
            from omakase.reports.sheets import table_csv, workbook

            table = layers_table(line_up, units)
            write_atomically(path, workbook([table]) if path.suffix.lower() == ".xlsx" else table_csv(table))

        self.files.write_chosen(f"{line_up.brief.name} layers", TABLES, ".csv", write)

    def write_section(self) -> None:
        """The section at the cursor's station at full size."""
        result, candidate = self.session.result, self.session.candidate
        if result is None or candidate is None or result.response is None or result.stack is None:
            self.files.told.emit("choose a candidate with layers first")
            return
        drawn = outline(result.response, result.stack, self.session.station)

        def write(path: Path) -> None:
            from omakase.reports.section_lines import section
            from omakase.reports.vector import drawing_bytes

            write_atomically(path, drawing_bytes(section(drawn), path.suffix.lower()))

        self.files.write_chosen(f"{candidate.name} section", DRAWINGS, ".dxf", write)

    def write_diagrams(self) -> None:
        """The diagrams as a table of every load case, or as the picture of the load case shown."""
        brief, result = self.session.judged_brief, self.session.result
        if brief is None or result is None or not has_span(result):
            self.files.told.emit("diagrams are for members with a span")
            return
        units, picture = self.session.units, self.window.diagram_page.picture

        def write(path: Path) -> None:
            if path.suffix.lower() in (".png", ".svg"):
                write_atomically(path, picture_bytes(picture, path.suffix.lower()))
                return
            from omakase.reports.diagram_table import diagram_table
            from omakase.reports.sheets import table_csv

            write_atomically(path, table_csv(diagram_table(brief, result, units)))

        self.files.write_chosen(f"{result.candidate.name} diagrams", PICTURES, ".csv", write, behind=False)

    # --- dropped ----------------------------------------------------------------------------------------------

    @staticmethod
    def dropped(data: QMimeData | None) -> Path | None:
        """The first file of what is dragged, if there is one."""
        urls = data.urls() if data is not None and data.hasUrls() else []
        return Path(urls[0].toLocalFile()) if urls and urls[0].toLocalFile() else None

    def take(self, path: Path) -> None:
        """Does with a dropped file what it is for; a curve goes to the test bench."""
        try:
            data = read_bytes(path, MAX_BYTES, "a file")
        except ReadError as error:
            self.window.notice.say(f"{error}.")
            return
        ending = path.suffix.lower()
        if ending == ".json":
            if PROJECT_MARK in data:
                self.files.with_work_safe(lambda: self.files.open_path(path))
            else:
                self.files.read_materials(path)
            return
        heads = headings(data, path.name)

        def has(*needed: str) -> bool:
            return any(set(needed) <= head for head in heads)

        if has("material", "property", "value"):
            self.files.read_materials(path)
        elif any(set(NEEDED) <= head and not set(RESULTS) & head for head in heads):
            self.read_specimens(path)
        elif has("candidate", "layup") or has("candidate", "material"):
            self.read_candidates(path)
        elif not self.window.is_at_the_tests and self._is_outline(data, ending):
            self.window.outlines.read(path)
        else:
            self.window.at_the_tests(lambda tests: tests.read_file(str(path)))

    def _is_outline(self, data: bytes, ending: str) -> bool:
        """Coordinates, where the brief is of a member that is drawn by points."""
        brief = self.session.brief
        if brief is None or not kind_of(brief).can_be_drawn or ending not in (".dat", ".txt", ".csv"):
            return False
        try:
            return bool(read_outline(data.decode("utf-8", errors="replace")))
        except (OutlineFileError, OmakaseError):
            return ending == ".dat"


def picture_bytes(picture: object, ending: str) -> bytes:
    """A widget that paints itself, as .png in three times the pixels, or as .svg."""
    from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
    from PyQt6.QtSvg import QSvgGenerator
    from PyQt6.QtWidgets import QWidget

    assert isinstance(picture, QWidget)
    size = picture.size() if picture.isVisible() else QSize(900, 600)
    before = picture.size()
    picture.resize(size)
    store = QByteArray()
    buffer = QBuffer(store)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if ending == ".svg":
        generator = QSvgGenerator()
        generator.setOutputDevice(buffer)
        generator.setSize(size)
        generator.setViewBox(QRect(0, 0, size.width(), size.height()))
        generator.setTitle(picture.accessibleName())
        painter = QPainter(generator)
        picture.render(painter)
        painter.end()
    else:
        pixmap = QPixmap(size * FINE)
        pixmap.setDevicePixelRatio(FINE)
        picture.render(pixmap)
        pixmap.save(buffer, "PNG")
    picture.resize(before)
    buffer.close()
    return bytes(store.data())
