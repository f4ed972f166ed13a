"""Texts as cells of a table: none is taken for a formula by a spreadsheet, and each comes back as it was."""

from __future__ import annotations

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def safe(text: str) -> str:
    """A text that no spreadsheet takes for a formula: an apostrophe before what begins like one."""
    return "'" + text if text[:1] in FORMULA or text[:2] == "'=" else text


def plain_again(text: str) -> str:
    """What ``safe`` was given."""
    return text[1:] if text[:1] == "'" and (text[1:2] in FORMULA or text[1:3] == "'=") else text
