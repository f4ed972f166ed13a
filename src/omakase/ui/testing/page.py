"""What the pages of the test bench share: they follow the model."""

from __future__ import annotations

from omakase.ui.kit.seen_page import SeenPage
from omakase.ui.testing.model import SeriesModel


class BenchPage(SeenPage):
    """Filled again whenever what is chosen changes."""

    model: SeriesModel

    def follow(self, model: SeriesModel) -> None:
        """Follows a model from now on."""
        self.model = model
        model.changed.connect(self.refresh)
