"""What the menus do to the briefs of a project and to the candidates of the chosen one."""

from __future__ import annotations

from collections.abc import Callable

from omakase.evaluate.members.registry import all_kinds, kind_of
from omakase.project import edits
from omakase.project.commands import ArrangeBriefs, Command, replace
from omakase.project.model import new_brief, new_id
from omakase.ui.session import Session


class Acts:
    """Acts on what is chosen in a session, each one step of undo.

    ``tell`` : shows a sentence in passing.  ``type_layup``, ``type_name`` : put the cursor where the layup or the name
    of the chosen candidate is typed.
    """

    def __init__(
        self, session: Session, tell: Callable[[str], None], type_layup: Callable[[], None],
        type_name: Callable[[], None],
    ) -> None:  # fmt: skip
        self.session = session
        self._tell, self._type_layup, self._type_name = tell, type_layup, type_name

    def add_brief(self, kind_name: str = "panel") -> None:
        """Adds a brief about a kind of member and shows it."""
        briefs, kind = self.session.document.project.briefs, all_kinds()[kind_name]
        brief = new_brief(new_id("b", {b.id for b in briefs}), f"New {kind.name}", kind.new_member())
        self.session.do(ArrangeBriefs(briefs, (*briefs, brief), "add a brief"))
        self.session.choose_brief(brief.id)

    def duplicate_brief(self) -> None:
        brief, briefs = self.session.brief, self.session.document.project.briefs
        if brief is not None:
            copy = replace(brief, id=new_id("b", {b.id for b in briefs}), name=f"{brief.name} (copy)")
            at = briefs.index(brief) + 1
            self.session.do(ArrangeBriefs(briefs, (*briefs[:at], copy, *briefs[at:]), f"duplicate {brief.name}"))
            self.session.choose_brief(copy.id)

    def remove_brief(self) -> None:
        brief, briefs = self.session.brief, self.session.document.project.briefs
        if brief is not None:
            rest = tuple(b for b in briefs if b.id != brief.id)
            self.session.do(ArrangeBriefs(briefs, rest, f"remove {brief.name}"))

    def step_brief(self, by: int) -> None:
        ids = [brief.id for brief in self.session.document.project.briefs]
        if self.session.brief_id in ids:
            self.session.choose_brief(ids[(ids.index(self.session.brief_id) + by) % len(ids)])

    def add_candidate(self) -> None:
        brief = self.session.brief
        if brief is not None:
            self._do_and_choose(*edits.add_candidate(brief, self.session.candidate_id, kind_of(brief).new_form(brief)))
            self._type_layup()

    def add_measured(self) -> None:
        """Adds a part that is known by its measurements: an older one, or one that was cut open."""
        brief = self.session.brief
        if brief is not None:
            self._do_and_choose(*edits.add_measured(brief, self.session.candidate_id, kind_of(brief).new_form(brief)))
            self._type_name()

    def duplicate_candidate(self) -> None:
        brief, candidate = self.session.brief, self.session.candidate
        if brief is not None and candidate is not None:
            self._do_and_choose(*edits.duplicate_candidate(brief, candidate.id))

    def _do_and_choose(self, command: Command, identity: str) -> None:
        self.session.do(command)
        self.session.choose(identity)

    def remove_candidate(self) -> None:
        brief, candidate = self.session.brief, self.session.candidate
        if brief is not None and candidate is not None:
            self.session.do(edits.remove_candidate(brief, candidate.id))
            self._tell(f"removed {candidate.name}; Ctrl+Z brings it back")

    def shift_candidate(self, by: int) -> None:
        brief, candidate = self.session.brief, self.session.candidate
        command = edits.shift_candidate(brief, candidate.id, by) if brief and candidate else None
        if command is not None:
            self.session.do(command)

    def make_baseline(self) -> None:
        brief, candidate = self.session.brief, self.session.candidate
        if brief is not None and candidate is not None:
            other = "" if brief.baseline == candidate.id else candidate.id
            text = f"baseline: {candidate.name}" if other else "no baseline"
            self.session.do(edits.arrange(brief, brief.candidates, text, other))
