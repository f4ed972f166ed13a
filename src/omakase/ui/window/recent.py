"""The projects opened or saved last, newest first, in a menu."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtWidgets import QMenu

from omakase.project.disk import shown_name
from omakase.ui.window.files import Files

MOST = 8
KEY = "recent"


class Recent(QObject):
    """Fills a menu when it is opened; one that cannot be read any more is reported and removed."""

    def __init__(self, files: Files, menu: QMenu, settings: QSettings) -> None:
        super().__init__(menu)
        self.files, self.menu, self.settings = files, menu, settings
        files.held.connect(self._note)
        menu.aboutToShow.connect(self.fill)

    @property
    def paths(self) -> list[str]:
        """Newest first."""
        kept = self.settings.value(KEY, [])
        return [kept] if isinstance(kept, str) else [str(path) for path in kept or []]

    def _note(self, path: str) -> None:
        self.settings.setValue(KEY, [path, *(other for other in self.paths if other != path)][:MOST])

    def fill(self) -> None:
        """Lists them, with the folder where two have one name."""
        self.menu.clear()
        names = [shown_name(Path(path)) for path in self.paths]
        for number, (path, name) in enumerate(zip(self.paths, names, strict=True), 1):
            where = f"   {Path(path).parent}" if names.count(name) > 1 else ""
            action = self.menu.addAction(f"&{number}  {name}{where}".replace("&&", "&"))
            if action is not None:
                action.setToolTip(path)
                action.triggered.connect(lambda _checked, path=path: self.open(path))
        if not names:
            empty = self.menu.addAction("No project was saved yet")
            if empty is not None:
                empty.setEnabled(False)

    def open(self, path: str) -> None:
        """Opens one of them; work that is not saved is asked about first."""

        def put() -> None:
            if not self.files.open_path(Path(path)) and not Path(path).exists():
                self.settings.setValue(KEY, [other for other in self.paths if other != path])

        self.files.with_work_safe(put)
