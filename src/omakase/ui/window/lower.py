"""The lower row of the window: the chosen candidate's layup, checks and pictures.

It is made when the window has been painted for the first time, so that the window is there sooner.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSplitter, QStackedWidget, QWidget

from omakase.ui.kit.late_stack import LateStack
from omakase.ui.kit.panes import splitter
from omakase.ui.kit.theme import Theme
from omakase.ui.layup.layup_editor import LayupEditor
from omakase.ui.layup.layup_picture import LayupPicture
from omakase.ui.session import Session
from omakase.ui.why.checks_view import ChecksView
from omakase.ui.why.diagram_picture import DiagramPicture
from omakase.ui.why.field_picture import FieldPicture
from omakase.ui.why.profile_picture import ProfilePicture


class Lower:
    """Fills an empty row, ``bottom``.  ``late`` : makers of the pages beside the checks that come after the pictures
    and the layup's picture."""

    def __init__(
        self, session: Session, theme: Theme, bottom: QSplitter, late: Sequence[Callable[[], QWidget]]
    ) -> None:  # fmt: skip
        self.layup_editor = LayupEditor(session, theme)
        self.checks_view = ChecksView(session, theme)
        self.field_picture = FieldPicture(session, theme)
        self.diagram_picture = DiagramPicture(session, theme)
        self.profile_picture = ProfilePicture(session, theme)
        self.layup_picture = LayupPicture(session, theme)
        bottom.addWidget(self.layup_editor)
        bottom.addWidget(self.checks_view)
        self.pages = LateStack(bottom)
        self.pictures = splitter(Qt.Orientation.Vertical, self.pages)
        self.pages.addWidget(self.pictures)
        self.pages.addWidget(self.layup_picture)
        for maker in late:
            self.pages.add_late(maker)
        self.fields = QStackedWidget(self.pictures)
        self.pictures.addWidget(self.fields)
        self.fields.addWidget(self.field_picture)
        self.fields.addWidget(self.diagram_picture)
        self.pictures.addWidget(self.profile_picture)

    def set_theme(self, theme: Theme) -> None:
        """Colours of all that is made."""
        for view in (self.diagram_picture, self.layup_editor, self.checks_view, self.field_picture,
                     self.profile_picture, self.layup_picture):  # fmt: skip
            view.set_theme(theme)
        for page in self.pages.made():
            change = getattr(page, "set_theme", None)
            if change is not None:
                change(theme)
