"""Layouts: one that sets widgets like words in a paragraph, and the column of a page."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QVBoxLayout, QWidget

from omakase.ui.kit.theme import SPACE


def page_column(page: QWidget) -> QVBoxLayout:
    """The layout of a page: one thing below the other, with room between them and around."""
    layout = QVBoxLayout(page)
    layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
    layout.setSpacing(SPACE)
    return layout


class Measured(NamedTuple):
    """An item and the room that it wants, px."""

    item: QLayoutItem
    width: int
    height: int
    glued: bool
    before: int  # room before it where it does not begin a line


class FlowLayout(QLayout):
    """Left to right, wrapping, each line as high as its highest widget."""

    def __init__(self, parent: QWidget | None = None, gap: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self._heights: dict[int, int] = {}
        self._sizes: list[Measured] = []
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)
            self._sizes.clear()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        self._sizes.clear()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:  # Qt asks for the same width many times between changes
            self._heights[width] = self._arrange(QRect(0, 0, width, 0), place=False)
        return self._heights[width]

    def invalidate(self) -> None:
        self._heights.clear()
        self._sizes.clear()
        super().invalidate()

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, place=True)

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(200))

    def minimumSize(self) -> QSize:
        widths = [item.minimumSize().width() for item in self._items]
        return QSize(min(max(widths, default=0), 400), 0)

    def _measured(self) -> list[Measured]:
        """The items with their sizes, asked once between changes: Qt arranges them many times."""
        if not self._sizes:
            for item in self._items:
                size, widget = item.sizeHint(), item.widget()
                glue = widget.property("glue") if widget is not None else None
                before = 0 if glue == "tight" else self._gap
                self._sizes.append(Measured(item, size.width(), size.height(), bool(glue), before))
        return self._sizes

    def _groups(self, room: int) -> list[list[Measured]]:
        """Items that a line must not break between: one with the property ``glue`` stays with the one before it, while
        there is room for both on a line.

        Glued ``tight``, as punctuation is, it has no space before it either.
        """
        groups: list[list[Measured]] = []
        for own in self._measured():
            if own.glued and groups and _wide([*groups[-1], own], room) <= room:
                groups[-1].append(own)
            else:
                groups.append([own])
        return groups

    def _arrange(self, rect: QRect, place: bool) -> int:
        lines: list[list[Measured]] = [[]]
        x, room = 0, rect.width()
        for group in self._groups(room):
            width = _wide(group, room)
            if x and x + width > room:
                lines.append([])
                x = 0
            lines[-1] += group
            x += width + self._gap
        y = rect.y()
        for line in lines:
            height = max((own.height for own in line), default=0)
            x = rect.x()
            for number, own in enumerate(line):
                x += own.before if number else 0
                width = min(own.width, room)
                if place:
                    own.item.setGeometry(QRect(x, y + (height - own.height) // 2, width, own.height))
                x += width
            y += height + 2
        return y - rect.y()


def _wide(group: list[Measured], room: int) -> int:
    return sum(min(own.width, room) + own.before for own in group) - group[0].before
