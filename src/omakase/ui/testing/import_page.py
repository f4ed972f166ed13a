"""A file of a curve, looked at before it is taken in: what its columns are, and what is wrong with which line."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import DIMENSIONS, MEANINGS, Curve
from omakase.evaluate.results.wording import counted
from omakase.project import series as edits
from omakase.project.curve_file import MAX_BYTES, Choice, Stop, Table, make_curve, read_table, suggest
from omakase.project.curves import to_record
from omakase.project.disk import read_bytes, shown_name
from omakase.ui.kit.labels import Label, Message
from omakase.ui.kit.theme import SPACE
from omakase.ui.testing.model import SeriesModel

PREVIEW = 7
UNIT_HINTS = {
    "force": ": N, kN, kgf, lbf …", "length": ": mm, m, in …", "strain": ": %, µε, mm/mm …", "seconds": ": s, min …",
}  # fmt: skip
LARGE = 3_000_000  # bytes from which a file is read behind the page


class ImportPage(QWidget):
    """``done``: the curve is in its specimen, or the person went back."""

    done = pyqtSignal()
    _read = pyqtSignal(int, object, str, bytes)

    def __init__(self, model: SeriesModel, settings: QSettings) -> None:
        super().__init__()
        self.model, self.settings = model, settings
        self.table: Table | None = None
        self.data = b""
        self._turn = 0  # counts the files, so that one that was given up is not shown when it arrives
        self._pool = ThreadPoolExecutor(1)
        self.head, self.message = Label(), Message()
        self.head.setWordWrap(True)
        self.head.setTextFormat(Qt.TextFormat.PlainText)
        self.columns = self.entry = QTableWidget()
        self.columns.setAccessibleName("Columns of the file")
        self.problems = QListWidget()
        self.problems.setAccessibleName("Lines that cannot be read")
        self.take, self.back = QPushButton("Take it in"), QPushButton("Not this file")
        row = QHBoxLayout()
        row.addWidget(self.take)
        row.addWidget(self.back)
        row.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.head)
        layout.addWidget(self.columns, 3)
        layout.addWidget(self.message)
        layout.addWidget(self.problems, 2)
        layout.addLayout(row)
        self.take.clicked.connect(lambda: self.take_in())
        self.back.clicked.connect(lambda: self.give_up())
        self._read.connect(self._arrived)

    # --- reading --------------------------------------------------------------------------------------------

    def choose(self) -> bool:
        """Asks for a file; tells whether one is being shown."""
        kinds = "Curves (*.csv *.txt *.tsv *.dat *.asc *.xlsx *.xlsm);;All files (*)"
        path, _ = QFileDialog.getOpenFileName(self, "A curve from a machine", "", kinds)
        return bool(path) and self.open(Path(path))

    def open(self, path: Path) -> bool:
        """Shows a file; one that is large is read behind the page."""
        self.table = None
        self._show_table()
        self.take.setEnabled(False)
        self.head.setText(f"Reading {shown_name(path)} …")
        self._turn += 1
        turn = self._turn
        work = partial(_read_file, turn, path, lambda: self._turn != turn)
        if _is_small(path):
            self._arrived(*work())
        else:
            self._pool.submit(work).add_done_callback(lambda f: self._read.emit(*f.result()))
        return True

    def give_up(self) -> None:
        """Goes back; a file that is still being read is stopped."""
        self._turn += 1
        self.done.emit()

    def _arrived(self, turn: int, table: Table | None, error: str, data: bytes) -> None:
        if turn != self._turn:
            return
        self.table, self.data = table, data
        self._show_table()
        if table is None:
            self.head.setText("This file cannot be read; it was not changed.")
            self.message.warn(error)
            return
        specimen = self.model.next_specimen()
        target = f" for specimen {specimen.name}" if specimen is not None else ""
        self.head.setText(f"{table.name}, {counted(len(table.rows), 'row')}{target}. Say what the columns are.")
        self._check()

    # --- what is shown --------------------------------------------------------------------------------------

    def _show_table(self) -> None:
        table, columns = self.table, self.columns
        columns.clear()
        self.problems.clear()
        columns.setRowCount(0)
        columns.setColumnCount(0)
        self.message.say("")
        if table is None:
            self.problems.hide()
            return
        columns.setColumnCount(len(table.names))
        columns.setHorizontalHeaderLabels(list(table.names))
        columns.setRowCount(2 + min(PREVIEW, len(table.rows)))
        columns.setVerticalHeaderLabels(["is", "in", *(str(i + 1) for i in range(PREVIEW))])
        for i, choice in enumerate(self._remembered(table) or suggest(table)):
            what, unit = QComboBox(), QLineEdit(choice.unit)
            what.setAccessibleName(f"What column {table.names[i]} is")
            unit.setAccessibleName(f"Unit of column {table.names[i]}")
            unit.setPlaceholderText("unit")
            what.addItem("left out", "")
            for quantity, words in MEANINGS.items():
                what.addItem(words, quantity)
            what.setCurrentIndex(max(what.findData(choice.quantity), 0))
            what.currentIndexChanged.connect(lambda _index: self._check())
            unit.textChanged.connect(lambda _text: self._check())
            columns.setCellWidget(0, i, what)
            columns.setCellWidget(1, i, unit)
            columns.setColumnWidth(i, 150)
            for row in range(columns.rowCount() - 2):
                item = QTableWidgetItem(f"{table.rows[row, i]:.6g}")
                item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                item.setTextAlignment(int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter))
                columns.setItem(2 + row, i, item)
        for problem in table.problems[:200]:
            where = f", column '{problem.column}'" if problem.column else ""
            self.problems.addItem(f"line {problem.line}{where}: {problem.message}")
        self.problems.setVisible(bool(table.problems))
        count = len(table.problems)
        without = {0: "", 1: " without this line"}.get(count, f" without these {count} lines")
        self.take.setText(f"Take it in{without}")

    @property
    def choices(self) -> tuple[Choice, ...]:
        """What the person says the columns are."""
        choices = []
        for i in range(self.columns.columnCount()):
            what, unit = self.columns.cellWidget(0, i), self.columns.cellWidget(1, i)
            assert isinstance(what, QComboBox)
            assert isinstance(unit, QLineEdit)
            choices.append(Choice(what.currentData(), unit.text().strip()))
        return tuple(choices)

    def _check(self) -> None:
        """Tells at once what is still missing."""
        if self.table is None:
            return
        try:
            _, notes = make_curve(self.table, self.choices)
        except OmakaseError as error:
            missing = next((c.quantity for c in self.choices if c.quantity and not c.unit), "")
            hint = UNIT_HINTS.get(DIMENSIONS[missing], "") if missing in DIMENSIONS else ""  # type: ignore[index]
            self.message.warn(f"{error}{hint}")
            self.take.setEnabled(False)
            return
        self.take.setEnabled(True)
        self.message.say("; ".join(notes))

    # --- taking in ------------------------------------------------------------------------------------------

    def take_in(self) -> None:
        """Puts the curve into the chosen specimen if that has no data yet, else into the next without."""
        if self.table is None:
            return
        try:
            curve, _ = make_curve(self.table, self.choices)
        except OmakaseError as error:
            self.message.warn(str(error))
            return
        self._remember(self.table, self.choices)
        put_curve(self.model, curve, self.table.name, self.data)
        self.done.emit()

    def _key(self, table: Table) -> str:
        return "curve-columns/" + "|".join(table.names).replace("/", "÷")

    def _remember(self, table: Table, choices: tuple[Choice, ...]) -> None:
        self.settings.setValue(self._key(table), json.dumps([[c.quantity, c.unit] for c in choices]))

    def _remembered(self, table: Table) -> tuple[Choice, ...] | None:
        """What columns of these names were said to be the last time."""
        text = self.settings.value(self._key(table))
        try:
            choices = tuple(Choice(str(quantity), str(unit)) for quantity, unit in json.loads(text))
        except (TypeError, ValueError):
            return None
        return choices if len(choices) == len(table.names) else None


def _is_small(path: Path) -> bool:
    """Whether a path is read at once: an ordinary small file, or none at all."""
    try:
        return not path.exists() or (path.is_file() and path.stat().st_size < LARGE)
    except (OSError, ValueError):
        return True


def _read_file(turn: int, path: Path, stop: Stop) -> tuple[int, Table | None, str, bytes]:
    """The table in a file or why there is none, with the turn it was read in and the file's content."""
    name = shown_name(path)
    try:
        data = read_bytes(path, MAX_BYTES, "a curve")
        return turn, read_table(data, name, stop), "", data
    except OmakaseError as error:
        return turn, None, str(error), b""
    except Exception as error:  # nothing may be lost on the way back: the page would say "Reading …" for good
        return turn, None, f"'{name}' cannot be read: {type(error).__name__}: {str(error)[:200]}", b""


def put_curve(model: SeriesModel, curve: Curve, source: str, data: bytes = b"") -> None:
    """Puts a curve into the next specimen without data."""
    record = to_record(curve, source, data)
    model.take_in(lambda specimen: edits.with_curve(specimen, record), f"take in {source}")
