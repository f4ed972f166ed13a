"""Labels and tips that show texts as they are: names and notes of a project are never taken for markup."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QEvent, QRect, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPalette, QResizeEvent
from PyQt6.QtWidgets import QLabel, QSizePolicy

from omakase.ui.kit.theme import set_property


class Label(QLabel):
    """Plain text, whatever is in it."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class SteadyLabel(QLabel):
    """Plain text that follows every edit: painted in its place, and laid out anew only where it needs more room.

    A usual label has all that stands around it measured again for each text.
    """

    FLAGS = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def __init__(self, name: str, wrapped: bool = False) -> None:
        """``name`` : what it tells, for those who don't see it."""
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self._words, self._needed = "", QSize()
        self._sizes: dict[int, QSize] = {}  # of the present text, by width: a layout asks for the same again and again
        self._flags = self.FLAGS | int(Qt.TextFlag.TextWordWrap if wrapped else Qt.TextFlag.TextSingleLine)
        self.setAccessibleName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # so that nothing is painted below it
        self.setWordWrap(wrapped)
        policy = self.sizePolicy()
        policy.setHeightForWidth(wrapped)  # a label without a text of its own does not tell the layout
        self.setSizePolicy(policy)

    def text(self) -> str:
        return self._words

    def setText(self, text: str | None) -> None:
        if text == self._words:
            return
        self._words = text or ""
        self._sizes.clear()
        self.setAccessibleDescription(self._words)
        before, self._needed = self._needed, self._size(self.width())
        given = self.wordWrap() or self.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Ignored
        if self._needed.height() != before.height() or (not given and self._needed.width() > self.width()):
            self.updateGeometry()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._needed = self._size(self.width())

    def _size(self, width: int) -> QSize:
        """What the text takes in a width, with the margins around it."""
        if width not in self._sizes:
            metrics, margins = self.fontMetrics(), self.contentsMargins()
            room = width - margins.left() - margins.right()
            size = QSize(metrics.horizontalAdvance(self._words), metrics.height())
            if self.wordWrap() and (size.width() > room or "\n" in self._words):
                size = metrics.boundingRect(QRect(0, 0, room, 100_000), self._flags, self._words).size()
            self._sizes[width] = size.grownBy(margins)
        return self._sizes[width]

    def changeEvent(self, event: QEvent | None) -> None:
        # another font; set anew rather than emptied, since one that is being taken apart has lost what it had
        self._sizes = {}
        super().changeEvent(event)

    def sizeHint(self) -> QSize:
        return self._size(max(self.width(), 100))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._size(self.width() if self.wordWrap() else 0).height())

    def heightForWidth(self, width: int) -> int:
        return self._size(width).height() if self.wordWrap() else -1

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter, palette = QPainter(self), self.palette()
        painter.fillRect(self.rect(), palette.color(QPalette.ColorRole.Window))
        painter.setPen(palette.color(QPalette.ColorRole.WindowText))
        painter.drawText(self.contentsRect(), self._flags, self._words)


class Message(Label):
    """What a page has to say: quiet, or in the colour of what is wrong."""

    def __init__(self) -> None:
        super().__init__()
        self.setWordWrap(True)

    def say(self, text: str, alarm: bool = False) -> None:
        """Shows a text in the place of the last one."""
        set_property(self, "role", "alarm" if alarm else "quiet")
        self.setText(text)

    def warn(self, text: str) -> None:
        """Shows what is wrong."""
        self.say(text, True)


class Heading(QLabel):
    """A title in bold and a text behind it, both plain."""

    def __init__(self, title: str = "", text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.RichText)
        self.show_parts(title, text)

    def show_parts(self, title: str, text: str = "") -> None:
        """``title`` may be empty."""
        bold = f"<b>{escape(title)}</b>" if title else ""
        self.setText(f"{bold} {escape(text)}".strip().replace("\n", "<br>"))

    def setText(self, text: str | None) -> None:
        super().setText(text)


def plain(text: str) -> str:
    """A tip's text that is shown as it is: Qt takes what looks like markup for markup."""
    return f"<p>{escape(text)}</p>".replace("\n", "<br>") if "<" in text or "&" in text else text
