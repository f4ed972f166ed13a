"""All checks of the chosen candidate, worst first, and the chosen one explained."""

from __future__ import annotations

import math
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QPixmap, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QPlainTextEdit,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from omakase.core.checks.registry import all_checks
from omakase.core.checks.result import CheckResult
from omakase.evaluate.results.wording import SOURCE_MARKS, SOURCE_WORDS, place_short, place_text, quantity, reserve_text
from omakase.ui.kit.labels import plain
from omakase.ui.kit.plain_cells import Cell, PlainCells
from omakase.ui.kit.theme import SPACE, Theme, fill_own_ground
from omakase.ui.session import Session

TITLES = ("RF", "Check", "Load case", "Where", "")
RESERVE, CHECK, CASE, WHERE, SOURCE = range(5)


def explained(check: CheckResult, session: Session) -> str:
    """What a check says, in sentences: value against allowable, method, range, what it rests on."""
    units = session.units
    level = "at ultimate load" if check.kind == "strength" else "at limit load" if check.kind == "stiffness" else ""
    text = f"{check.full_title} {quantity(check.value, check.dimension, units)}"
    if math.isfinite(check.allowable) and check.allowable:
        text += f" {level} against {quantity(check.allowable, check.dimension, units)}".replace("  ", " ")
        text += f": reserve factor {reserve_text(check.reserve_factor)}, required {check.required:g}."
    else:
        text += f" {level}; the brief sets no limit.".replace("  ", " ")
    result = session.result
    place = place_text(check, result, units) if result is not None and result.stack is not None else ""
    if place:
        text += f" At {place}."
    text += f" Method: {check.method}. Rests on values {SOURCE_WORDS[check.source]}."
    registration = all_checks().get(check.check)
    if registration is not None:
        text += f" Valid: {registration.validity}"
    return text


LONGEST_TITLE = 0.5  # of the width of the list
LONGEST_CASE = 0.26  # of the width of the list
WITH_CASES, WITH_PLACES = 44.0, 62.0  # digits of width from which load cases and places have columns
LEAST_PLACE = "231.1, 220.0"  # with less room than this places are left out of the list
LINES_BELOW = 7  # of text about the chosen check


class ChecksModel(QAbstractTableModel):
    """The rows of the session's newest result."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.checks: list[CheckResult] = []
        self._cells: dict[tuple[int, int], Cell] = {}
        self.without_cases = False  # the column of load cases has no room: they stand behind the check's name

    def leave_out_cases(self, wanted: bool) -> None:
        """Puts the load case behind the check's name, or back into its column."""
        if wanted != self.without_cases:
            self.without_cases = wanted
            self._cells.clear()
            self.layoutChanged.emit()

    def refresh(self, visible: range) -> bool:
        """Takes over the present result and tells whether the list of checks is another.

        Checks without a limit are left out, but for the deflections.  ``visible`` : rows that may be seen.
        """
        result = self.session.result
        checks = [
            check
            for check in (result.checks if result else ())
            if math.isfinite(check.reserve_factor) or check.kind == "strength" or check.check == "deflection"
        ]
        changed = sorted(c.short_title for c in checks) != sorted(c.short_title for c in self.checks)
        before, self._cells = self._cells, {}
        if len(checks) != len(self.checks):
            self.beginResetModel()
            self.checks = checks
            self.endResetModel()
        else:
            self.checks = checks
            # most edits change the numbers and leave the words; told together, a view paints all of itself
            for row in visible:
                for column in range(len(TITLES)):
                    if before.get((row, column)) != self.cell(row, column):
                        self.dataChanged.emit(self.index(row, column), self.index(row, column))
        return changed

    def cell(self, row: int, column: int) -> Cell:
        """(text, colour or empty for the usual, bold) of a cell."""
        if (row, column) not in self._cells:
            self._cells[row, column] = self._cell(self.checks[row], column)
        return self._cells[row, column]

    def picture(self, _row: int, _column: int) -> QPixmap | None:
        return None

    def _cell(self, check: CheckResult, column: int) -> Cell:
        failed = not check.passes
        alarm = self.theme.alarm if failed and column in (RESERVE, CHECK) else ""
        return self._text(check, column), alarm, failed and column == RESERVE

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.checks)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(TITLES)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return TITLES[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        check = self.checks[index.row()]
        column = index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self.cell(index.row(), column)[0]
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain("\n".join([explained(check, self.session), *(f"Note: {text}" for text in check.remarks)]))
        return None

    def _text(self, check: CheckResult, column: int) -> str:
        result = self.session.result
        if column == RESERVE:
            return ("✗ " if not check.passes else "") + reserve_text(check.reserve_factor)
        if column == CHECK:
            remark = check.short_title + (" !" if check.remarks else "")
            return f"{remark}, {check.load_case}" if self.without_cases and check.load_case else remark
        if column == CASE:
            return check.load_case
        if column == WHERE and result is not None and result.stack is not None:
            return place_short(check, result, self.session.units)
        return SOURCE_MARKS[check.source] if column == SOURCE else ""


class Explanation(QPlainTextEdit):
    """Text to read and select.  A label in a scroll area would have the layout worked out anew at every edit."""

    def __init__(self) -> None:
        super().__init__()
        self.setReadOnly(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setProperty("role", "plain")
        self.setAccessibleName("The chosen check explained")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        document = self.document()
        if document is not None:
            document.setDocumentMargin(0.0)


class ChecksView(QWidget):
    """Choosing a row shows its place and load case in the pictures."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.checks_model = ChecksModel(session, theme)
        self.table = QTableView()
        self.table.setModel(self.checks_model)
        self.table.setAccessibleName("Checks of the chosen candidate, least reserve first")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setItemDelegate(PlainCells(self.checks_model, self.table, (RESERVE,)))
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        self.table.setWordWrap(False)
        self.table.setTabKeyNavigation(False)
        vertical, horizontal = self.table.verticalHeader(), self.table.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        horizontal.setHighlightSections(False)
        horizontal.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        horizontal.setStretchLastSection(False)
        for column in (RESERVE, CHECK, SOURCE):  # fitted when rows come and go: to the contents takes 5 ms per edit
            horizontal.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
        horizontal.setSectionResizeMode(CASE, QHeaderView.ResizeMode.Fixed)
        horizontal.setSectionResizeMode(WHERE, QHeaderView.ResizeMode.Stretch)
        horizontal.setMinimumSectionSize(18)
        self.text = Explanation()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(SPACE // 2)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout.addWidget(self.table, 1)
        layout.addWidget(self.text)
        self._following, self._places = False, True
        selection = self.table.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(self._row_changed)
        session.results_changed.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        session.looked_at.connect(self._follow)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        digits = self.width() / self.fontMetrics().horizontalAdvance("0")
        self._places = digits >= WITH_PLACES
        self.table.setColumnHidden(CASE, digits < WITH_CASES)
        self.checks_model.leave_out_cases(digits < WITH_CASES)
        self._fit_columns()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit_columns()  # before it is shown a widget measures in the font of the system
        self._fill_grounds()

    def _fill_grounds(self) -> None:
        for view in (self.table, self.text):
            fill_own_ground(view)

    def set_theme(self, theme: Theme) -> None:
        self.checks_model.theme = theme
        self._fill_grounds()
        self._fit_columns()
        self.refresh()

    def help_topic(self) -> str:
        """What F1 explains: the chosen check."""
        return f"check:{self.session.check.check}" if self.session.check is not None else ""

    def refresh(self) -> None:
        """Shows the newest result."""
        vertical = self.table.verticalHeader()
        height = int(self.fontMetrics().height() * 1.4)
        self.text.setFixedHeight(LINES_BELOW * self.text.fontMetrics().lineSpacing())
        if vertical is not None and vertical.defaultSectionSize() != height:  # even the same one repaints all rows
            vertical.setDefaultSectionSize(height)
        self._following = True
        if self.checks_model.refresh(self._visible()):
            self._fit_columns()
        self._following = False
        self._follow()

    def _visible(self) -> range:
        """Rows that can be seen."""
        viewport, count = self.table.viewport(), len(self.checks_model.checks)
        if viewport is None or not count:
            return range(0)
        last = self.table.rowAt(viewport.height() - 1)
        return range(max(0, self.table.rowAt(0)), last + 1 if last >= 0 else count)

    def _fit_columns(self) -> None:
        metrics = self.table.fontMetrics()
        titles = [check.short_title for check in self.checks_model.checks]
        self.table.setColumnWidth(RESERVE, metrics.horizontalAdvance("✗ 10.00") + 8)
        self.table.setColumnWidth(SOURCE, metrics.horizontalAdvance("E") + 14)
        widest = max((metrics.horizontalAdvance(title) for title in titles), default=60)
        wanted, viewport = widest + metrics.horizontalAdvance(" !") + 12, self.table.viewport()
        if self.checks_model.without_cases and viewport is not None:  # all that is left: nothing is pushed out of sight
            wanted = viewport.width() - self.table.columnWidth(RESERVE) - self.table.columnWidth(SOURCE)
            self.table.setColumnHidden(WHERE, True)
        elif viewport is not None:  # a long title leaves room for load case and place
            wanted = min(wanted, int(LONGEST_TITLE * viewport.width()))
            cases = {check.load_case for check in self.checks_model.checks}
            longest = max((metrics.horizontalAdvance(case) for case in cases), default=0)
            longest = max(longest, metrics.horizontalAdvance("Load case")) + 12
            taken = self.table.columnWidth(RESERVE) + self.table.columnWidth(SOURCE) + wanted
            case = min(longest, int(LONGEST_CASE * viewport.width()))
            self.table.setColumnHidden(
                WHERE, not self._places or viewport.width() - taken - case < metrics.horizontalAdvance(LEAST_PLACE)
            )
            self.table.setColumnWidth(CASE, viewport.width() - taken if self.table.isColumnHidden(WHERE) else case)
        self.table.setColumnWidth(CHECK, max(wanted, 60))

    def _follow(self) -> None:
        check = self.session.check
        self._following = True
        if check is not None and check in self.checks_model.checks:
            row = self.checks_model.checks.index(check)
            if self.table.currentIndex().row() != row:
                self.table.setCurrentIndex(self.checks_model.index(row, CHECK))
        else:
            self.table.clearSelection()
        self._following = False
        self.session.after_numbers(self._explain)

    def _explain(self) -> None:
        check, result = self.session.check, self.session.result
        if check is not None:
            notes = "".join(f"\nNote: {text}" for text in check.remarks)
            self.text.setPlainText(explained(check, self.session) + notes)
        elif result is not None and result.error:
            self.text.setPlainText(result.error)
        else:
            self.text.setPlainText("Choose a candidate to see its checks.")

    def _row_changed(self, current: QModelIndex) -> None:
        if not self._following and current.isValid():
            self.session.look_at_check(self.checks_model.checks[current.row()])
