"""A photograph beside the record that names it: shown small, chosen from a file, its path relative to the project."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QImageReader, QPixmap
from PyQt6.QtWidgets import QFileDialog, QLabel, QWidget

from omakase.project.disk import ReadError, read_bytes
from omakase.ui.kit.labels import plain
from omakase.ui.session import Session

FORMATS = ("png", "jpeg", "webp", "bmp")
MOST_BYTES = 80_000_000
KINDS = "Pictures (*.png *.jpg *.jpeg *.webp *.bmp)"


class Photo(QLabel):
    """Hidden where there is none."""

    def __init__(self, session: Session, name: str, size: QSize) -> None:
        super().__init__()
        self.session, self._largest = session, size
        self.setAccessibleName(name)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.hide()

    def show_file(self, path: str) -> str:
        """Shows the picture at a path, which may be relative to the project; returns what is wrong with it."""
        self.hide()
        if not path:
            return ""
        home = self.session.document.path
        place = Path(path) if home is None else home.parent / path
        try:
            read_bytes(place, MOST_BYTES, "a photograph")  # a pipe or device would hold the window
        except ReadError as error:
            return f"the photograph cannot be shown: {error}"
        reader = QImageReader(str(place))
        reader.setDecideFormatFromContent(True)
        if bytes(reader.format().data()).decode() not in FORMATS:
            return f"the photograph '{path}' cannot be shown: it is none of {', '.join(FORMATS)}"
        size = reader.size()
        if size.isValid():  # read no larger than it is shown: a camera's picture has twenty million points
            reader.setScaledSize(size.scaled(self._largest, Qt.AspectRatioMode.KeepAspectRatio))
        image = reader.read()
        if image.isNull():
            return f"the photograph '{path}' cannot be shown: {reader.errorString().lower()}"
        self.setPixmap(QPixmap.fromImage(image))
        self.setToolTip(plain(str(place)))
        self.show()
        if home is not None and not place.resolve().is_relative_to(home.parent.resolve()):
            return f"the photograph '{path}' lies outside the project's folder: it is not copied with the project"
        return ""

    def choose(self, parent: QWidget, path: str = "") -> str:
        """The path of a picture file that the person chooses, as it is kept: relative where it lies by the project."""
        path = path or QFileDialog.getOpenFileName(parent, self.accessibleName(), "", KINDS)[0]
        home = self.session.document.path
        if path and home is not None and Path(path).is_relative_to(home.parent):
            path = str(Path(path).relative_to(home.parent))
        return path
