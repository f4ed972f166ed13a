"""Pictures that are painted again only when what they show is other than before."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QColor, QPainter, QPixmap

MOST = 100


class KeptPictures:
    """One picture for each key, with all that it shows."""

    def __init__(self) -> None:
        self._kept: dict[object, tuple[object, QPixmap]] = {}

    def picture(
        self, key: object, shown: object, size: QSize, ratio: float, colour: QColor, paint: Callable[[QPainter], None]
    ) -> QPixmap:
        """The picture of ``key``: the one kept if it shows the same, else painted on ``colour`` and kept.

        ``size`` in pixels of the screen's unit, ``ratio`` device pixels to each.
        """
        kept = self._kept.get(key)
        if kept is not None and kept[0] == (shown, size, ratio):
            return kept[1]
        pixmap = QPixmap(size * ratio)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(colour)
        painter = QPainter(pixmap)
        paint(painter)
        painter.end()
        if len(self._kept) > MOST:
            self._kept.clear()
        self._kept[key] = (shown, size, ratio), pixmap
        return pixmap
