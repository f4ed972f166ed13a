"""A choice among a few things, asked for by a key: a list over the place it is about."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu, QWidget


def popup(over: QWidget, entries: Sequence[tuple[str, Callable[[], object]]]) -> QMenu:
    """Shows (text, act) at the corner of a widget, the first one chosen."""
    menu = QMenu(over.window())
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for text, act in entries:
        entry = menu.addAction(text)
        if entry is not None:
            entry.triggered.connect(lambda _on, act=act: act())
    menu.setActiveAction(menu.actions()[0])
    menu.popup(over.mapToGlobal(over.rect().topLeft()))
    return menu
