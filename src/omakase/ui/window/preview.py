"""What would come out of the printer, page by page, before it does."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QPainter
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPdfWidgets import QPdfView
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from omakase.core.progress import StoppedError, watched
from omakase.project.disk import write_atomically
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading, Message
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.ui.window.files import FILE_KINDS, Files

DOTS = 300  # per inch, on paper


class Preview(TopPage):
    """Makes a PDF off the thread and shows it; prints it, or writes it to a file."""

    whole = alone = True
    _stepped = pyqtSignal(str)

    def __init__(self, session: Session, files: Files) -> None:
        super().__init__(session)
        self.files = files
        self.title, self.data = "", b""
        self.search = Searching("preview", self)
        self.head, self.message = Heading(), Message()
        self.document = QPdfDocument(self)
        self.view = self.entry = QPdfView(self)
        self.view.setAccessibleName("Pages as they are printed")
        self.view.setDocument(self.document)
        self.view.setPageMode(QPdfView.PageMode.MultiPage)
        self.view.setZoomMode(QPdfView.ZoomMode.FitToWidth)
        self._store = QBuffer(self)
        self.print, self.save, self.zoom = QPushButton("Print…"), QPushButton("Save as PDF…"), QPushButton("Whole page")
        self.zoom.setCheckable(True)
        row = QHBoxLayout()
        for button in (self.print, self.save, self.zoom):
            row.addWidget(button)
        row.addStretch(1)
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addLayout(row)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.message)
        self.ask_printer: Callable[[QPrinter], bool] = lambda printer: bool(QPrintDialog(printer, self).exec())
        self.print.clicked.connect(lambda: self.print_pages())
        self.save.clicked.connect(lambda: self.save_pages())
        self.zoom.toggled.connect(self._set_zoom)
        self.search.found.connect(self._take)
        self.search.ended.connect(self._end)
        self._stepped.connect(self._show_step)

    def _show_step(self, what: str) -> None:
        if self.search.running:
            self.message.say(f"making the pages … {what}; Esc stops")

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Pages that nobody waits for are not made."""
        super().hideEvent(event)
        if event is None or not event.spontaneous():
            self.search.stop()

    def show_pages(self, title: str, make: Callable[[Path], object]) -> None:
        """``make`` writes the PDF to a path; called on a worker thread."""
        self.title, self.data = title, b""
        self.head.show_parts("Print preview", title)
        self.message.say("making the pages …")
        self._enable(False)

        def work(stopped: Callable[[], bool]) -> Iterator[object]:
            import tempfile

            def listen(what: str) -> None:
                if stopped():
                    raise StoppedError("stopped")
                self._stepped.emit(what)

            with tempfile.TemporaryDirectory(prefix="omakase-print-") as folder, watched(listen):
                path = Path(folder) / "pages.pdf"
                make(path)
                yield path.read_bytes()

        self.search.begin(work)
        self.search.begin_now()

    def _take(self, data: object) -> None:
        assert isinstance(data, bytes)
        self.data = data
        self.document.close()
        self._store.close()
        self._store.setData(QByteArray(data))
        self._store.open(QIODevice.OpenModeFlag.ReadOnly)
        self.document.load(self._store)

    def _end(self, message: str) -> None:
        if message:
            self.message.warn(message)
            return
        count = self.document.pageCount()
        self.message.say(f"{count} page{'' if count == 1 else 's'}; Esc goes back")
        self._enable(bool(count))

    def _enable(self, ready: bool) -> None:
        for button in (self.print, self.save, self.zoom):
            button.setEnabled(ready)

    def _set_zoom(self, whole: bool) -> None:
        self.view.setZoomMode(QPdfView.ZoomMode.FitInView if whole else QPdfView.ZoomMode.FitToWidth)

    def save_pages(self) -> None:
        """Asks for a name and writes the pages as they are shown."""
        data = self.data
        self.files.write_chosen(self.title, FILE_KINDS[".pdf"], ".pdf", lambda path: write_atomically(path, data))

    def print_pages(self) -> None:
        """Asks for a printer and prints every page at its own size."""
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setResolution(DOTS)
        printer.setDocName(self.title)
        printer.setFullPage(True)
        if not self.ask_printer(printer):
            return
        painter = QPainter()
        if not painter.begin(printer):
            self.message.warn("the printer could not be started")
            return
        for page in range(self.document.pageCount()):
            if page:
                printer.newPage()
            points = self.document.pagePointSize(page)
            size = QSize(round(points.width() / 72.0 * DOTS), round(points.height() / 72.0 * DOTS))
            image = self.document.render(page, size)
            fits = size.scaled(printer.pageLayout().fullRectPixels(DOTS).size(), Qt.AspectRatioMode.KeepAspectRatio)
            painter.drawImage(0, 0, image.scaled(fits))
        painter.end()
        self.message.say(f"{self.document.pageCount()} pages sent to the printer")
