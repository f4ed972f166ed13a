"""The shop: people, hours, money, habits, moulds and stock, and its processes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from omakase.evaluate.build.parts import Problem
from omakase.evaluate.build.sentences import new_process, process_sentence, shop_sentence, stock_sentence
from omakase.project.commands import replace
from omakase.project.library import materials_of
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.sheet import RecordSheet
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, set_property


class ShopPage(BuildPage):
    """Three sentences: the shop, its moulds and stock, and one of its processes."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__(model)
        self.shop, self.stock, self.process = (RecordSheet(self._edit) for _ in range(3))
        self.choice = QComboBox()
        self.choice.setAccessibleName("Process of the shop")
        self.new, self.drop = QPushButton("One like it"), QPushButton("Remove the process")
        self.source = Label()
        self.source.setWordWrap(True)
        set_property(self.source, "role", "quiet")
        self.chosen = ""
        inside = QWidget()
        column, line = QVBoxLayout(inside), QHBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE)
        for widget in (self.choice, self.new, self.drop):
            line.addWidget(widget)
        line.addStretch(1)
        column.addWidget(self.shop)
        column.addWidget(self.stock)
        column.addLayout(line)
        column.addWidget(self.process)
        column.addWidget(self.source)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(inside)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scroll)
        self.choice.activated.connect(lambda _index: self._choose())
        self.new.clicked.connect(lambda: self.add_process())
        self.drop.clicked.connect(lambda: self.remove_process())

    def fill(self) -> None:
        project, units = self.model.project, self.model.session.units
        shop, plan = project.shop, self.model.plan
        problems: list[Problem] = [
            (path[1:], text) for path, text in (plan.problems if plan is not None else ()) if path[0] == "shop"
        ]  # fmt: skip
        stock = [own for own in problems if own[0][0] in ("stock", "moulds")]
        processes = [own for own in problems if own[0][0] == "processes"]
        rest = [own for own in problems if own not in stock and own not in processes]
        self.shop.show_record(shop, shop_sentence(shop), units, rest)
        self.stock.show_record(shop, stock_sentence(shop, materials_of(project)), units, stock)
        entries = [(own.id, own.name) for own in shop.processes]
        if [(self.choice.itemData(i), self.choice.itemText(i)) for i in range(self.choice.count())] != entries:
            self.choice.clear()
            for key, text in entries:
                self.choice.addItem(text, key)
        ids = [key for key, _ in entries]
        if self.chosen not in ids:
            self.chosen = ids[0] if ids else ""
        self.choice.setCurrentIndex(max(self.choice.findData(self.chosen), 0))
        self.drop.setEnabled(len(ids) > 1)
        if self.chosen:
            at = ids.index(self.chosen)
            self.process.show_record(shop, process_sentence(shop, at), units, processes, self.chosen)
            source = shop.processes[at].source
            self.source.setText(f"These numbers: {source}. Set them to what your shop measures." if source else "")

    def _choose(self) -> None:
        self.chosen = str(self.choice.currentData())
        self.refresh()

    def _edit(self, change: Callable[[Any], Any], text: str, merge: str) -> None:
        self.model.edit_shop(change, text, merge)

    def add_process(self) -> None:
        """A process like the last one, to be changed."""
        self.model.edit_shop(new_process, "add a process")
        self.chosen = self.model.project.shop.processes[-1].id
        self.refresh()

    def remove_process(self) -> None:
        """Removes the chosen process, unless a job uses it."""
        if any(part.process == self.chosen for job in self.model.project.jobs for part in job.parts):
            self.model.told.emit("a job uses this process: choose another for its parts first", True)
            return
        gone = self.chosen
        self.model.edit_shop(
            lambda shop: replace(shop, processes=tuple(own for own in shop.processes if own.id != gone)),
            "remove a process",
        )  # fmt: skip
