"""Layouts: one that sets widgets like words in a paragraph, and the column of a page."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QVBoxLayout, QWidget

from omakase.ui.kit.theme import SPACE


def page_column(page: QWidget) -> QVBoxLayout:
    """The layout of a page: one thing below the other, with room between them and around."""
    layout = QVBoxLayout(page)
    layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
    layout.setSpacing(SPACE)
    return layout


class FlowLayout(QLayout):
    """Left to right, wrapping, each line as high as its highest widget."""

    def __init__(self, parent: QWidget | None = None, gap: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self._heights: dict[int, int] = {}
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
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
        super().invalidate()

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, place=True)

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(200))

    def minimumSize(self) -> QSize:
        widths = [item.minimumSize().width() for item in self._items]
        return QSize(min(max(widths, default=0), 400), 0)

    def _space_before(self, item: QLayoutItem) -> int:
        widget = item.widget()
        return 0 if widget is not None and widget.property("glue") == "tight" else self._gap

    def _groups(self, room: int) -> list[list[tuple[QLayoutItem, QSize]]]:
        """Items that a line must not break between: one with the property ``glue`` stays with the one before it, while
        there is room for both on a line.

        Glued ``tight``, as punctuation is, it has no space before it either.
        """
        groups: list[list[tuple[QLayoutItem, QSize]]] = []
        for item in self._items:
            size = item.sizeHint()
            size.setWidth(min(size.width(), room))
            widget = item.widget()
            glued = bool(groups) and widget is not None and bool(widget.property("glue"))
            if glued and self._wide([*groups[-1], (item, size)]) <= room:
                groups[-1].append((item, size))
            else:
                groups.append([(item, size)])
        return groups

    def _wide(self, group: list[tuple[QLayoutItem, QSize]]) -> int:
        return sum(size.width() + self._space_before(item) for item, size in group[1:]) + group[0][1].width()

    def _arrange(self, rect: QRect, place: bool) -> int:
        lines: list[list[tuple[QLayoutItem, QSize]]] = [[]]
        x = 0
        for group in self._groups(rect.width()):
            width = self._wide(group)
            if x and x + width > rect.width():
                lines.append([])
                x = 0
            lines[-1] += group
            x += width + self._gap
        y = rect.y()
        for line in lines:
            height = max((size.height() for _, size in line), default=0)
            x = rect.x()
            for number, (item, size) in enumerate(line):
                x += self._space_before(item) if number else 0
                if place:
                    item.setGeometry(QRect(QPoint(x, y + (height - size.height()) // 2), size))
                x += size.width()
            y += height + 2
        return y - rect.y()
