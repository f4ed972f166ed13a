"""Words on screens, in docs and beside the code: turns of phrase that a reader would have to read twice."""

from __future__ import annotations

import io
import json
import re
import tokenize
import unittest
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SOURCES = ROOT / "src" / "omakase"
# a turn of phrase, and what to write in its place; (?i) where it may begin a sentence
UNWANTED = {
    r"\bbears?\b(?! on\b)": "carries",
    r"\bborne\b": "carried",
    r"\bgives? way\b": "fails, yields, buckles, deflects",
    r"\blets? go of\b": "releases, fails",
    r"\b(is|are|be) told\b": "is shown, reported, stated",
    r"\bcannot be told\b": "is unknown, is within scatter of",
    r"\bhangs? (on|in the air)\b": "depends on; is outside the part",
    r"\bhang together\b": "are connected",
    r"\bdrinks?\b": "absorbs",
    r"\bslip of the pen\b": "check for a typing error",
    r"\bis asked of\b": "the brief sets no load or limit",
    r"\bnothing in its way\b": "nothing behind it",
    r"\bbookkeeping\b": "sum of the plies",
    r"% in hand\b": "margin",
    r"\bof its like\b|\band their kin\b": "similar",
    r"\bas laid up\b": "as built",
    r"\bwithout end\b": "of infinite length, until it breaks",
    r"\bcomes near\b": "is close to",
    r"\bheld against\b(?! bending)": "compared with",
    r"\blest\b|\bthereof\b|\bwhereby\b|\btherein\b|\bthence\b|\bhence\b": "a plain sentence",
    r"(?<!there )\bis no (ply|sleeve|layer|panel)\b": "is not a",
    r"\ba way down\b": "no single change makes it lighter",
    r"stands? (here|there)": "is shown, is given",
}


def _of_code(path: Path) -> Iterator[tuple[str, str]]:
    """(place, text) of every string and comment of a source file."""
    tokens = tokenize.generate_tokens(io.StringIO(path.read_text(encoding="utf-8")).readline)
    for token in tokens:
        if token.type in (tokenize.STRING, tokenize.COMMENT):
            yield f"{path.relative_to(ROOT)}:{token.start[0]}", token.string


def _texts() -> Iterator[tuple[str, str]]:
    for path in sorted(SOURCES.rglob("*.py")):
        yield from _of_code(path)
    for path in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            yield f"{path.relative_to(ROOT)}:{number}", line
    library = json.loads((SOURCES / "data" / "library" / "materials.json").read_text(encoding="utf-8"))
    for material in library["materials"]:
        yield f"material {material['id']}", f"{material['name']} {material.get('note', '')}"


class Words(unittest.TestCase):
    def test_turns_of_phrase_that_are_read_twice_are_gone(self) -> None:
        """The list is the one to add to when a sentence was not understood."""
        found = [
            f"{place}: “{match.group(0)}”, better: {better}"
            for place, text in _texts()
            for pattern, better in UNWANTED.items()
            for match in re.finditer(pattern, " ".join(text.split()), re.IGNORECASE)
        ]
        self.assertEqual(found, [], "\n" + "\n".join(found))

    def test_the_list_finds_what_it_names(self) -> None:
        """It would have caught the sentences that gave rise to it."""
        for text in (
            "the load its part should bear", "nothing is asked of it", "a slip of the pen", "97 % in hand",
            "As laid up; cured thickness by areal bookkeeping", "the fasteners hang in the air",
        ):  # fmt: skip
            with self.subTest(text):
                self.assertTrue(any(re.search(pattern, text, re.IGNORECASE) for pattern in UNWANTED))


if __name__ == "__main__":
    unittest.main()
