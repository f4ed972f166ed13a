"""Draws the section of the chosen candidate by the points of a file; what cannot be read is reported, nothing is
lost."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from omakase.core.errors import OmakaseError
from omakase.evaluate.members.registry import kind_of
from omakase.project.disk import ReadError, read_bytes, shown_name
from omakase.project.outline_file import read_outline
from omakase.ui.session import Session

MOST_BYTES = 1_000_000
FILTER = "Coordinates (*.csv *.dat *.txt);;All files (*)"


class OutlineReader:
    """``ask`` for a path, "" for none; ``say`` what went wrong."""

    def __init__(self, session: Session, ask: Callable[[str], str], say: Callable[[str], object]) -> None:
        self.session, self._ask, self._say = session, ask, say

    def read(self, path: Path | None = None) -> None:
        """Puts the outline of a file in place as one step; asks for one where none is given."""
        brief, candidate = self.session.brief, self.session.candidate
        if brief is None or candidate is None:
            return
        kind = kind_of(brief)
        if not kind.can_be_drawn:
            self._say(f"The section of a {kind.title} cannot be drawn by points; that of a spar can.")
            return
        name = str(path) if path is not None else self._ask(FILTER)
        if not name:
            return
        try:
            points = read_outline(
                read_bytes(Path(name), MOST_BYTES, "a list of points").decode("utf-8", errors="replace")
            )
        except (ReadError, OmakaseError) as error:
            self._say(f"'{shown_name(Path(name))}', {error}. The section was not changed.")
            return
        self.session.edit_candidate(kind.drawn_by(candidate, points), "read an outline")
