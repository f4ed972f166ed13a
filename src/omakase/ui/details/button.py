"""The button beside the layup that leads to its candidate's details, and says how many there are and how they stand."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QFontMetrics

from omakase.evaluate.results.wording import counted, reserve_text
from omakase.ui.kit.paragraph import InlineButton
from omakase.ui.kit.theme import font, set_property
from omakase.ui.session import Session

TIP = "Where loads enter the candidate: bolts, inserts, seams, edges, doublers (Ctrl+Shift+B)"
PADDING = 24  # px beside the text where it is framed


class DetailsButton(InlineButton):
    """Offers the first one; else their number and the least reserve among them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setToolTip(TIP)
        self.setProperty("role", "inline")
        for signal in (session.chosen_changed, session.brief_changed, session.results_changed):
            signal.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        """Bold and framed where a detail fails."""
        hint, bold = super().sizeHint(), QFontMetrics(font("normal", bold=True))
        if self.property("role") != "wall_fails":
            return hint
        return QSize(bold.horizontalAdvance(self.text()) + PADDING, hint.height())

    def refresh(self) -> None:
        """Shows the present state."""
        candidate, result = self.session.candidate, self.session.result
        self.setVisible(candidate is not None and candidate.measured is None)
        count = len(candidate.details) if candidate is not None else 0
        text, fails = "+ detail", False
        if count:
            own = [check for check in result.checks if check.detail] if result is not None else []
            fails = any(not check.passes for check in own)
            least = f" {reserve_text(own[0].reserve_factor)}" if own else ""
            text = f"{'✗ ' if fails else ''}{counted(count, 'detail')}{least}"
        set_property(self, "role", "wall_fails" if fails else "inline")
        if text != self.text():
            self.setText(text)
            self.setAccessibleName(f"Details of the candidate: {text}")
            self.updateGeometry()
