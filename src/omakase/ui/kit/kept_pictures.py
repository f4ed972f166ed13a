"""Pictures that are painted again only when what they show is other than before."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from PyQt6.QtCore import QRect, QSize
from PyQt6.QtGui import QColor, QPainter, QPixmap

MOST = 100


class Part(NamedTuple):
    """What a part of a picture shows, where (it must stay inside), on which opaque colour, and how it is painted."""

    shown: object
    box: QRect
    colour: QColor
    paint: Callable[[QPainter], None]


class KeptPictures:
    """One picture for each key, with all that it shows."""

    def __init__(self) -> None:
        self._kept: dict[object, tuple[tuple[Any, ...], QPixmap]] = {}
        self._parts: dict[object, tuple[tuple[Any, ...], list[object]]] = {}

    def picture(
        self, key: object, shown: object, size: QSize, ratio: float, colour: QColor, paint: Callable[[QPainter], None]
    ) -> QPixmap:
        """The picture of ``key``: the one kept if it shows the same, else painted on ``colour`` and kept.

        ``size`` in pixels of the screen's unit, ``ratio`` device pixels to each.
        """
        kept = self._kept.get(key)
        if kept is not None and kept[0] == (shown, size, ratio):
            return kept[1]
        pixmap = _empty(size, ratio, colour)
        painter = QPainter(pixmap)
        paint(painter)
        painter.end()
        self._keep(key, (shown, size, ratio), pixmap)
        return pixmap

    def last(self, key: object, size: QSize, ratio: float) -> QPixmap | None:
        """The newest picture of ``key``, whatever it shows; None without one of that size."""
        kept = self._kept.get(key)
        return kept[1] if kept is not None and kept[0][1:] == (size, ratio) else None

    def in_parts(
        self, key: object, shown: object, common: object, size: QSize, ratio: float, colour: QColor,
        parts: Callable[[], Sequence[Part]],
    ) -> QPixmap:  # fmt: skip
        """The picture of ``key``: the one kept if it shows the same, else with those parts painted that changed.

        All of them where ``common``, what they have in common, is other than before.  ``colour`` : between them.
        """
        kept = self._kept.get(key)
        if kept is not None and kept[0] == (shown, size, ratio):
            return kept[1]
        made = parts()
        before, pixmap = self._parts.get(key), None
        if kept is not None and before is not None and before[0] == (common, size, ratio, len(made)):
            pixmap = kept[1]
            changed = [part for part, old in zip(made, before[1], strict=True) if old != part.shown]
        else:
            changed = list(made)
        if pixmap is None:
            pixmap = _empty(size, ratio, colour)
        painter = QPainter(pixmap)
        for part in changed:
            painter.fillRect(part.box, part.colour)
            part.paint(painter)
        painter.end()
        self._keep(key, (shown, size, ratio), pixmap)
        self._parts[key] = (common, size, ratio, len(made)), [part.shown for part in made]
        return pixmap

    def _keep(self, key: object, shown: tuple[Any, ...], pixmap: QPixmap) -> None:
        if len(self._kept) > MOST:
            self._kept.clear()
            self._parts.clear()
        self._kept[key] = shown, pixmap


def _empty(size: QSize, ratio: float, colour: QColor) -> QPixmap:
    pixmap = QPixmap(size * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(colour)
    return pixmap
