"""Every action of the program in one list that is searched by typing."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QFrame, QLineEdit, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from omakase.ui.kit.theme import SPACE


def plain(text: str) -> str:
    """An action's text without the marks of menus."""
    return text.replace("&", "").removesuffix("…")


def matches(text: str, query: str) -> bool:
    """Whether every word of the query begins a word of the text."""
    have = text.casefold().split()
    return all(any(word.startswith(part) for word in have) for part in query.casefold().split())


class CommandList(QFrame):
    """A panel over the window: type, ↑ ↓, Enter; Escape closes."""

    def __init__(self, parent: QWidget, actions: Callable[[], list[QAction]]) -> None:
        super().__init__(parent)
        self.setProperty("role", "raised")
        self.setAccessibleName("Commands")
        self._actions = actions
        self._back: QWidget | None = None
        self.query = QLineEdit()
        self.query.setPlaceholderText("What do you want to do?")
        self.query.setAccessibleName("Search the commands")
        self.list = QTreeWidget()
        self.list.setColumnCount(2)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName("Commands found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.addWidget(self.query)
        layout.addWidget(self.list)
        self.query.textChanged.connect(lambda _text: self._fill())
        self.query.returnPressed.connect(self.run_chosen)
        self.query.installEventFilter(self)
        self.list.itemClicked.connect(lambda _item: self.run_chosen())
        self.hide()

    def open(self) -> None:
        """Shows the list over the upper middle of the window."""
        parent = self.parentWidget()
        assert parent is not None
        self._back = parent.focusWidget()
        width = min(560, parent.width() - 40)
        self.list.setColumnWidth(0, width - 150)
        self.setGeometry((parent.width() - width) // 2, 40, width, min(420, parent.height() - 80))
        self.query.clear()
        self._fill()
        self.show()
        self.raise_()
        self.query.setFocus()

    def _fill(self) -> None:
        self.list.clear()
        for action in self._actions():
            if not matches(plain(action.text()), self.query.text()):
                continue
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            item = QTreeWidgetItem([plain(action.text()), keys])
            item.setData(0, Qt.ItemDataRole.UserRole, action)
            item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
            item.setDisabled(not action.isEnabled())
            self.list.addTopLevelItem(item)
        self._choose(0)

    def _choose(self, row: int) -> None:
        row = max(0, min(row, self.list.topLevelItemCount() - 1))
        self.list.setCurrentItem(self.list.topLevelItem(row))

    def run_chosen(self) -> None:
        """Closes the list and does the chosen command."""
        item = self.list.currentItem()
        action = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        self.dismiss()
        if isinstance(action, QAction) and action.isEnabled():
            action.trigger()

    def dismiss(self) -> None:
        """Closes the list; the keyboard goes back to where it was."""
        self.hide()
        if self._back is not None:
            self._back.setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            row, key = self.list.currentIndex().row(), event.key()
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self._choose(row + (1 if key == Qt.Key.Key_Down else -1))
                return True
            if key == Qt.Key.Key_Escape:
                self.dismiss()
                return True
        elif event is not None and event.type() == QEvent.Type.FocusOut and self.isVisible():
            self.hide()
        return super().eventFilter(watched, event)
