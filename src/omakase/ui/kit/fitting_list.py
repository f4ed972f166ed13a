"""A list of rows whose first columns take the room that the others leave."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import (
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)

RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


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


class OnlyTyped(QStyledItemDelegate):
    """Lets only some columns be edited, those that a person types."""

    def __init__(self, columns: Collection[int], parent: QWidget) -> None:
        super().__init__(parent)
        self._columns = columns

    def createEditor(
        self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> QWidget | None:  # fmt: skip
        return super().createEditor(parent, option, index) if index.column() in self._columns else None


def typed_list(name: str, titles: Sequence[str], stretched: int, columns: Collection[int]) -> QTreeWidget:
    """A ``fitting_list`` whose cells in some ``columns`` are typed into where they stand; rows want ``editable``."""
    made = fitting_list(name, titles, stretched)
    triggers = QTreeWidget.EditTrigger
    made.setEditTriggers(triggers.DoubleClicked | triggers.EditKeyPressed | triggers.AnyKeyPressed)
    made.setItemDelegate(OnlyTyped(columns, made))
    return made


def editable(tree: QTreeWidget) -> None:
    """Lets all rows of a list be typed into."""
    for i in range(tree.topLevelItemCount()):
        item = tree.topLevelItem(i)
        if item is not None:
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)


def fill_list(
    tree: QTreeWidget, rows: Sequence[tuple[str, Sequence[str]]], chosen: str, numbers: Sequence[int]
) -> None:
    """Rows of (key, texts) in a flat list, that of the chosen key current; columns ``numbers`` stand to the right.

    Rows that are there already only change their texts: a list that is filled anew is laid out anew.  The list says
    nothing of it: who fills it again while a row is taken out of it would work with rows that are gone.
    """
    blocked = tree.blockSignals(True)
    try:
        _fill(tree, rows, chosen, numbers)
    finally:
        tree.blockSignals(blocked)


def _fill(tree: QTreeWidget, rows: Sequence[tuple[str, Sequence[str]]], chosen: str, numbers: Sequence[int]) -> None:
    while tree.topLevelItemCount() > len(rows):
        tree.takeTopLevelItem(tree.topLevelItemCount() - 1)
    for place, (key, texts) in enumerate(rows):
        item = tree.topLevelItem(place)
        if item is None:
            item = QTreeWidgetItem(list(texts))
            for column in numbers:
                item.setTextAlignment(column, RIGHT)
            tree.addTopLevelItem(item)
        for column, text in enumerate(texts):
            if item.text(column) != text:
                item.setText(column, text)
        item.setData(0, Qt.ItemDataRole.UserRole, key)
        if key == chosen and tree.currentItem() is not item:
            tree.setCurrentItem(item)


def chosen_key(tree: QTreeWidget) -> str:
    """Key of the current row of a list that ``fill_list`` has filled; empty without one."""
    item = tree.currentItem()
    return "" if item is None else str(item.data(0, Qt.ItemDataRole.UserRole))
