"""What cannot be planned."""

from __future__ import annotations

from omakase.core.errors import OmakaseError


class BuildError(OmakaseError):
    """A plan that cannot be; ``field`` names the number that stands in the way, empty where there is none."""

    def __init__(self, text: str, field: str = "") -> None:
        super().__init__(text)
        self.field = field
