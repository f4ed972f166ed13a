"""Panes whose border can be dragged."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSplitter, QWidget


def splitter(orientation: Qt.Orientation, parent: QWidget) -> QSplitter:
    """A splitter in ``parent``, which takes it in itself if it is a splitter too."""
    made = QSplitter(orientation, parent)
    made.setHandleWidth(3)
    made.setChildrenCollapsible(False)
    return made
