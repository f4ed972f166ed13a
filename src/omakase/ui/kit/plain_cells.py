"""Cells of text painted by hand: through the style sheet a table takes three times as long at every edit."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QModelIndex, QRectF, Qt
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from omakase.ui.kit.theme import fitting, font, pen

LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
SELECTED, FOCUSED = QStyle.StateFlag.State_Selected.value, QStyle.StateFlag.State_HasFocus.value
MARGIN = 3
Cell = tuple[str, str, bool]


class CellModel(Protocol):
    """What says how a cell looks."""

    def cell(self, row: int, column: int) -> Cell:
        """(text, colour or empty for the usual, bold) of a cell."""
        ...

    def picture(self, row: int, column: int) -> QPixmap | None:
        """What stands before the text."""
        ...


class PlainCells(QStyledItemDelegate):
    """Paints what ``cells`` says; the columns in ``right`` end at their right side."""

    def __init__(self, cells: CellModel, parent: QWidget, right: tuple[int, ...] = ()) -> None:
        super().__init__(parent)
        self._cells, self._right = cells, right

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        row, column = index.row(), index.column()
        palette, state = option.palette, option.state.value  # a number: each flag asked for costs as much as a cell
        chosen = bool(state & SELECTED)
        if chosen:
            painter.fillRect(option.rect, palette.highlight())
        elif row % 2:
            painter.fillRect(option.rect, palette.alternateBase())
        room = option.rect.adjusted(MARGIN, 0, -MARGIN, 0)
        picture = self._cells.picture(row, column)
        if picture is not None:
            size = picture.deviceIndependentSize()
            top = room.top() + (room.height() - size.height()) / 2.0
            painter.drawPixmap(QRectF(room.left(), top, size.width(), size.height()).toRect(), picture)
            room.setLeft(room.left() + int(size.width()) + MARGIN)
        text, colour, bold = self._cells.cell(row, column)
        ink = (palette.highlightedText() if chosen else palette.text()).color()
        painter.setPen(pen(colour) if colour and not chosen else ink)
        painter.setFont(font("normal", bold))
        painter.drawText(room, RIGHT if column in self._right else LEFT, fitting(text, room.width(), "normal", bold))
        if state & FOCUSED:
            painter.setPen(ink)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(option.rect.adjusted(1, 1, -2, -2))
