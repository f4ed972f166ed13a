"""Help in the line-up's place: keys, marks and symbols, the words of the quick line, and what the terms mean."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QTextBrowser

from omakase.evaluate.results.wording import SOURCE_MARKS, SOURCE_WORDS
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

MARKS = (
    ("✓", "the limit is met; under it the margin to the limit"),
    ("✗", "the limit is not met; under it how far it is missed"),
    ("≈", "a tie: closer to the best of the row than the scatter of the data"),
    ("!", "the check has a remark: choose it and read the note below the list"),
    ("…", "a first answer; the full one follows in a moment"),
    *((mark, SOURCE_WORDS[source]) for source, mark in SOURCE_MARKS.items()),
    ("RF", "reserve factor: what it can carry divided by what it must carry at ultimate load"),
    ("E +12%", "right of a value: difference from the baseline"),
)
QUICK_LINE = (
    ("twill200 0", "one ply of twill200 at 0°; angles run from x toward y"),
    ("2 twill200 ±45", "two plies, at +45° and −45°"),
    ("twill200 0/45/90", "three plies, from face A down"),
    ("core pvc80 12", "a core 12 mm thick; any unit may be typed: core pvc80 1/2 in"),
    ("core hc48 12.7 @90", "a honeycomb with its ribbon across"),
    ("al6082 3 mm", "a sheet"),
    ("twill200 [45/0/core pvc80 10]s", "a laminate code; s mirrors it about the core"),
    ("… ns", "counted with its mass only, not with stiffness and strength"),
    ("… turned", "a satin with its other side up"),
    ("(A)   (A)m", "a shared sub-stack, and its mirror image"),
    (";", "parts one part from the next"),
)
TERMS = (
    ("face A, face B", "the top face, listed first, and the bottom face of a panel"),
    ("ply, core, sheet", "cloth with resin; what holds the faces apart; metal or wood bought by thickness"),
    ("limit load, ultimate load", "the largest load expected; that times the factor of safety"),
    ("governs", "the check with the least reserve for what is required"),
    ("vehicle sheet", "named quantities of the project; a number typed as = and a formula follows them"),
    ("baseline", "the part to beat; differences are counted from it"),
    ("areal mass", "mass per area"),
    ("wrinkling, dimpling, crimping", "a face buckles in short waves; between honeycomb cell walls; the core shears"),
    ("allowable, basis", "strength to design with; mean, or what 90 % (B) or 99 % (A) of all specimens exceed"),
    ("specimen, series", "one piece that is tested; pieces of one recipe under one method"),
    ("job, unit", "what is built together; one set of its parts"),
    ("ply book, cut list", "the steps of laying up, in order; all pieces with the rolls and sheets they are cut from"),
    ("warp, bias", "the direction of the roll in a cloth; a piece cut at an angle to it"),
    ("pot life", "how long mixed resin can be used: shorter in a large cup and in a warm shop"),
    ("ledger", "parts predicted and weighed, and the factor that their ratio offers to the next prediction"),
    ("hands-on, elapsed", "hours that people work on a part; hours until it is done, with cures and nights"),
)


def keys_of(commands: Sequence[QAction]) -> list[tuple[str, str]]:
    """(keys, what they do) of every command that has any."""
    rows = []
    for action in commands:
        keys = [key.toString() for key in action.shortcuts()]
        if keys:
            rows.append((" or ".join(keys), action.text().replace("&", "").rstrip("…")))
    return rows


def _table(rows: Sequence[tuple[str, str]]) -> str:
    cells = "".join(
        f"<tr><td style='padding:1px 16px 1px 0'><b>{escape(first)}</b></td><td>{escape(second)}</td></tr>"
        for first, second in rows
    )
    return f"<table>{cells}</table>"


class HelpView(TopPage):
    """One page to read; Escape goes back."""

    def __init__(self, session: Session, commands: Callable[[], Sequence[QAction]]) -> None:
        super().__init__(session)
        self._commands = commands
        self.page = self.entry = QTextBrowser()
        self.page.setAccessibleName("Help")
        layout = page_column(self)
        layout.addWidget(Heading("Help", "Esc goes back; Ctrl+K finds any command by its words"))
        layout.addWidget(self.page, 1)

    def show_part(self, name: str) -> None:
        """Shows the page at one of its parts: marks, line, keys or terms."""
        self.page.setHtml(self.html())
        self.page.scrollToAnchor(name)

    def html(self) -> str:
        """All of it."""
        parts = (
            ("marks", "Marks and symbols", MARKS),
            ("line", "Words of the quick line", QUICK_LINE),
            ("terms", "Terms", TERMS),
            ("keys", "Keys", keys_of(self._commands())),
        )
        return "".join(f"<h3><a name='{name}'></a>{title}</h3>{_table(rows)}" for name, title, rows in parts)
