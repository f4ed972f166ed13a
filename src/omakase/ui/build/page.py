"""What the pages of the build view share: they follow the model."""

from __future__ import annotations

from omakase.ui.build.model import BuildModel
from omakase.ui.kit.seen_page import SeenPage
from omakase.ui.kit.theme import Theme


class BuildPage(SeenPage):
    """Filled again whenever the chosen job or its plan changes."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__()
        self.model = model
        model.changed.connect(self.refresh)
        model.planned.connect(self.refresh)

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""
