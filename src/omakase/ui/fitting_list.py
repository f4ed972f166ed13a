"""A list of rows whose first columns take the room that the others leave."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QHeaderView, QTreeWidget


def fitting_list(name: str, titles: Sequence[str], stretched: int = 1) -> QTreeWidget:
    """A list with the accessible ``name`` and column ``titles``, of which the first ``stretched`` take what is left."""
    made = QTreeWidget()
    made.setAccessibleName(name)
    made.setHeaderLabels(list(titles))
    made.setRootIsDecorated(False)
    header = made.header()
    assert header is not None
    header.setStretchLastSection(False)
    for column in range(len(titles)):
        fits = column >= stretched
        mode = QHeaderView.ResizeMode.ResizeToContents if fits else QHeaderView.ResizeMode.Stretch
        header.setSectionResizeMode(column, mode)
    return made
