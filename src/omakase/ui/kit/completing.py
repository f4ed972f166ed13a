"""Names of materials offered while the quick line is typed: by their letters, or by words such as carbon."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from PyQt6.QtCore import QStringListModel, Qt
from PyQt6.QtWidgets import QCompleter, QLineEdit

from omakase.core.materials.material import LAYER_KINDS, Material
from omakase.evaluate.materials.searching import search_text

LEAST, MOST = 2, 12  # letters from which names are offered, and how many
_WORD = re.compile(r"[A-Za-z][\w-]*\Z")


def offers(word: str, materials: Mapping[str, Material]) -> list[Material]:
    """Materials for a layer whose short name begins so, then those with the word in their name or kind."""
    word = word.lower()
    layers = [material for material in materials.values() if material.kind in LAYER_KINDS]
    first = [material for material in layers if material.id.startswith(word)]
    return [*first, *(name for name in layers if name not in first and word in search_text(name))][:MOST]


class Completing:
    """Offers below a line; choosing one puts its short name in place of the word."""

    def __init__(self, line: QLineEdit, materials: Callable[[], Mapping[str, Material]]) -> None:
        self.line, self._materials = line, materials
        self.names: list[str] = []
        self._model = QStringListModel()
        self.completer = QCompleter(self._model)
        self.completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self.completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.completer.setWidget(line)
        self.completer.activated[str].connect(self.put)
        line.textEdited.connect(lambda _text: self.offer())

    @property
    def word(self) -> str:
        """The word that is being typed before the cursor."""
        match = _WORD.search(self.line.text()[: self.line.cursorPosition()])
        return match[0] if match else ""

    def offer(self) -> None:
        """Shows what the word may mean, or nothing where it is a name already."""
        word, materials = self.word, self._materials()
        popup = self.completer.popup()
        if len(word) < LEAST or word in materials or word in ("core", "mm", "in", "ns", "turned"):
            if popup is not None:
                popup.hide()
            return
        offered = offers(word, materials)
        self.names = [f"{material.id}   {material.name}" for material in offered]
        self._model.setStringList(self.names)
        if not offered:
            if popup is not None:
                popup.hide()
            return
        if popup is not None:
            metrics = self.line.fontMetrics()
            popup.setMinimumWidth(min(420, max(metrics.horizontalAdvance(name) for name in self.names) + 40))
        self.completer.complete()

    def put(self, chosen: str) -> None:
        """Puts the chosen name in place of the word."""
        name = chosen.split(" ", 1)[0]
        at, text, word = self.line.cursorPosition(), self.line.text(), self.word
        self.line.setText(text[: at - len(word)] + name + text[at:])
        self.line.setCursorPosition(at - len(word) + len(name))
        self.line.setModified(True)
        self.line.textEdited.emit(self.line.text())
