"""The walls of a member that has several, as a row of buttons above the layers: which one is shown, and which fail."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QToolButton

from omakase.evaluate.results.wording import reserve_text
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.theme import set_property
from omakase.ui.session import Session

FAILS = "✗"


class WallBar(QFrame):
    """Chooses the wall whose layers are shown; hidden where the member has one wall only."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.buttons: dict[str, QToolButton] = {}
        self._row = FlowLayout(self)
        session.chosen_changed.connect(self.refresh)
        session.brief_changed.connect(self.refresh)
        session.results_changed.connect(self.refresh)
        session.wall_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows the walls of the chosen candidate, each with the least reserve of its own checks."""
        walls = self.session.walls
        self.setVisible(len(walls) > 1)
        if len(walls) == 1:
            return
        if tuple(self.buttons) != walls:
            for button in self.buttons.values():
                self._row.removeWidget(button)
                button.hide()
                leave(button)
            self.buttons = {wall: self._button(wall) for wall in walls}
        for wall, button in self.buttons.items():
            least, fails = self._state(wall)
            name = wall or "panel"
            text = f"{FAILS} {name} {least}" if fails else f"{name} {least}".rstrip()
            if text != button.text():
                button.setText(text)
                button.setAccessibleName(
                    f"Layers of the {name}" + (f", fails, reserve factor {least}" if fails else "")
                )
            set_property(button, "role", "wall_fails" if fails else "wall")
            button.setChecked(wall == self.session.wall)

    def _button(self, wall: str) -> QToolButton:
        button = QToolButton()
        button.setCheckable(True)
        button.setToolTip(f"Show and edit the layers of the {wall or 'panel'} (Ctrl+Alt+→ next, Ctrl+Alt+← before)")
        button.clicked.connect(lambda: self._choose(wall))
        self._row.addWidget(button)
        return button

    def step(self, by: int) -> None:
        """Shows the layers of the next wall, or of the one before."""
        walls = self.session.walls
        self._choose(walls[(walls.index(self.session.wall) + by) % len(walls)])

    def _choose(self, wall: str) -> None:
        self.session.look_at_wall(wall)
        self.refresh()

    def _state(self, wall: str) -> tuple[str, bool]:
        """Least reserve factor of a wall's own checks in words, and whether one of them fails."""
        result = self.session.result
        checks = [check for check in result.checks if check.wall == wall] if result is not None else []
        if not checks:
            return "", False
        worst = min(checks, key=lambda check: check.reserve_factor / check.required)
        return reserve_text(worst.reserve_factor), not worst.passes
