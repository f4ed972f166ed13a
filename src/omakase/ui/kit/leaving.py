"""Widgets on their way out."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

_leaving: set[QWidget] = set()


def leave(widget: QWidget) -> None:
    """Has a widget deleted as soon as Qt comes to it, and keeps it until then.

    Before that a layout may still ask it for its size.  Were it garbage by then, Python might clear it away within that
    very question, and the program would end.
    """
    _leaving.add(widget)
    widget.destroyed.connect(lambda: _leaving.discard(widget))
    widget.deleteLater()
