"""Reading test curves that machines and loggers write: any separator, decimal commas, junk above, units in headers.

``read_table`` finds the columns of numbers; a person (or ``suggest``) says what they are; ``make_curve`` turns them
into a curve in SI.  Whatever cannot be read is reported by line and column; the file itself is only ever read.  Columns
of words are left out, clock times become seconds, digits of any script are digits.
"""

from __future__ import annotations

import csv
import io
import re
import unicodedata
from collections import Counter
from collections.abc import Callable, Sequence
from itertools import islice

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import DIMENSIONS, Curve, Quantity

MAX_BYTES = 300_000_000
MAX_ROWS = 5_000_000
MAX_LINE = 20_000  # characters: no table has longer lines
LOOKED_AT = 400  # filled lines by which separator and start are found
MOST_BAD = 0.2  # of the rows: more than this is another kind of file

# unit spelling, in small letters -> factor to SI; masses as forces since that is what people mean by "kg" on a frame
UNITS: dict[str, dict[str, float]] = {
    "force": {
        "n": 1.0, "kn": 1e3, "dan": 10.0, "mn": 1e6, "kgf": 9.80665, "kp": 9.80665, "kg": 9.80665, "gf": 9.80665e-3,
        "g": 9.80665e-3, "lbf": 4.4482216152605, "lb": 4.4482216152605, "lbs": 4.4482216152605,
        "klbf": 4448.2216152605, "kip": 4448.2216152605, "ozf": 0.27801385095378125, "tf": 9806.65,
    },
    "length": {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "µm": 1e-6, "um": 1e-6, "micron": 1e-6, "in": 0.0254, "inch": 0.0254,
               '"': 0.0254, "mil": 2.54e-5, "thou": 2.54e-5},
    "strain": {"%": 0.01, "mm/mm": 1.0, "m/m": 1.0, "in/in": 1.0, "-": 1.0, "1": 1.0, "strain": 1.0, "µε": 1e-6,
               "ue": 1e-6, "microstrain": 1e-6, "µm/m": 1e-6, "um/m": 1e-6, "‰": 1e-3},
    "seconds": {"s": 1.0, "sec": 1.0, "ms": 1e-3, "min": 60.0, "h": 3600.0},
}  # fmt: skip
AS_FORCE = ("kg", "g", "lb", "lbs")
NAMES: tuple[tuple[Quantity, str], ...] = (
    ("cross_strain", r"(cross|transv|lateral|across|quer).*strain|strain.*(cross|transv|lateral|across|2|y)\b"),
    ("strain", r"strain|elong|extensometer"),
    ("time", r"\btime|zeit|elapsed"),
    ("deflection", r"deflect|lvdt|dial|gauge|sag\b"),
    ("force", r"force|load|kraft|\bf\b|\bp\b"),
    ("travel", r"travel|stroke|crosshead|cross.?head|position|displac|extension|\bdisp|weg\b|machine"),
)
_NUMBER = re.compile(r"[+\-−]?(\d+([.,]\d*)?|[.,]\d+)([eE][+\-]?\d+)?\Z")
_CLOCK = re.compile(r"(?:\d{4}-\d\d-\d\d[T ])?(?P<h>\d{1,3}):(?P<m>[0-5]?\d)(?::(?P<s>[0-5]?\d(?:[.,]\d*)?))?\Z")
_UNIT_IN_NAME = re.compile(r"(?P<name>.*?)[\s_,/]*[\[(]\s*(?P<unit>[^\])]*)\s*[\])]\s*\Z")


Stop = Callable[[], bool]


def never() -> bool:
    return False


class StoppedError(OmakaseError):
    """The person gave the file up."""


class CurveFileError(OmakaseError):
    """Why a file holds no curve, in words for the person who chose it."""


class Problem(msgspec.Struct, frozen=True):
    """A row that is left out: its line in the file, the column's name, and what is wrong."""

    line: int
    column: str
    message: str


class Table(msgspec.Struct, frozen=True, eq=False):
    """Columns of numbers as the file has them.  ``rows`` : (n, m); ``notes`` : what was found on the way."""

    name: str
    names: tuple[str, ...]
    units: tuple[str, ...]
    rows: np.ndarray
    problems: tuple[Problem, ...] = ()
    notes: tuple[str, ...] = ()


class Choice(msgspec.Struct, frozen=True):
    """What a column is: a quantity and its unit; an empty quantity leaves the column out."""

    quantity: str
    unit: str


def read_table(data: bytes, name: str, stop: Stop = never) -> Table:
    """The table in a file.  Raises CurveFileError for what is none, StoppedError soon after ``stop`` says so."""
    if not data.strip():
        raise CurveFileError(f"'{name}' is empty")
    if len(data) > MAX_BYTES:
        raise CurveFileError(f"'{name}' has {len(data) / 1e6:.0f} MB; {MAX_BYTES / 1e6:.0f} MB are the most")
    if data.startswith(b"PK"):
        from omakase.project.workbook import read_sheets  # slow to import

        for title, text in read_sheets(data, name, stop):
            table = _read_text(text, f"{name}, sheet {title}", stop)
            return msgspec.structs.replace(table, name=name, notes=(f"sheet '{title}'", *table.notes))
        raise CurveFileError(f"'{name}' has no filled sheet")
    return _read_text(_decode(data, name), name, stop)


def _decode(data: bytes, name: str) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace")
    head = data[:4000]
    odd = [i for i, byte in enumerate(head) if byte < 9 or 13 < byte < 32]
    if odd:
        raise CurveFileError(f"'{name}' is not a text file: byte {odd[0] + 1} is no character. Export it as CSV.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


# --- text ---------------------------------------------------------------------------------------------------


class _Layout(msgspec.Struct, frozen=True):
    """Separator (None for spaces), first line of numbers (from 0), count of columns."""

    separator: str | None
    start: int
    columns: int


def _split(line: str, separator: str | None) -> list[str]:
    if '"' in line and separator is not None:
        fields = next(csv.reader([line.replace("\0", "")], delimiter=separator, skipinitialspace=True), [])
        return [field.strip() for field in fields]
    return [part.strip().strip('"') for part in (line.split() if separator is None else line.split(separator))]


def _is_value(field: str) -> bool:
    return bool(_NUMBER.match(field) or _CLOCK.match(field))


def _ascii_digits(text: str) -> str:
    """Digits of other scripts and full-width ones as 0 to 9, with their decimal marks."""
    if text.isascii():
        return text
    table = {ord(c): str(unicodedata.decimal(c)) for c in set(text) if not c.isascii() and c.isdecimal()}
    marks = {0x66B: ".", 0x66C: "", 0xFF0E: ".", 0xFF0C: ",", 0xFF1B: ";", 0xFF0D: "-", 0xFF1A: ":"}
    return text.translate(table | marks)


def _layout(lines: Sequence[str], name: str) -> _Layout:
    """Tried on the first lines: the separator under which most lines are equally many numbers."""
    best: tuple[int, _Layout] | None = None
    for separator in (";", "\t", ",", "|", None):
        counts = []
        for line in lines:
            fields = _split(line.rstrip(separator or ""), separator)
            values = sum(map(_is_value, fields))
            good = len(fields) > 1 and values >= 2 and values >= 0.6 * (len(fields) - 1)
            counts.append(len(fields) if good else 0)
        usual, times = Counter(count for count in counts if count).most_common(1)[0] if any(counts) else (0, 0)
        if not times:
            continue
        start = _start(counts, usual)
        layout = _Layout(separator, start, usual)
        if best is None or times > best[0]:
            best = times, layout
    if best is None:
        raise CurveFileError(f"'{name}' holds no table: no lines with two numbers side by side were found")
    return best[1]


def _start(counts: Sequence[int], usual: int) -> int:
    """First line of numbers that another follows, so that a date above the table is not taken for a row."""
    for i, count in enumerate(counts):
        if count == usual and i + 1 < len(counts) and counts[i + 1] == usual:
            return i
    return counts.index(usual)


def _read_text(text: str, name: str, stop: Stop) -> Table:
    lines = _ascii_digits(text).splitlines()
    filled = list(islice((i for i, line in enumerate(lines) if line.strip()), LOOKED_AT))
    longest = max((len(lines[i]) for i in filled), default=0)
    if longest > MAX_LINE:
        raise CurveFileError(f"'{name}' has a line of {longest:,} characters: a table has a line a row")
    layout = _layout([lines[i] for i in filled], name)
    layout = msgspec.structs.replace(layout, start=filled[layout.start])
    names, units, notes = _header([line for line in lines[: layout.start] if line.strip()], layout)
    body = lines[layout.start :]
    if len(body) > MAX_ROWS:
        raise CurveFileError(f"'{name}' has {len(body):,} rows; {MAX_ROWS:,} are the most")
    kinds = _kinds(body, layout)
    if any(kind != "number" for kind in kinds) or any('"' in line for line in body[:LOOKED_AT]):
        names, units, notes, body = _only_numbers(names, units, notes, body, layout, kinds, stop)
        layout = _Layout(";", layout.start, len(names))
    rows, problems, more = _rows(body, layout, names, stop)
    if not len(rows):
        raise CurveFileError(f"'{name}': no row could be read; line {problems[0].line}: {problems[0].message}")
    if len(problems) > MOST_BAD * (len(rows) + len(problems)):
        first = problems[0]
        raise CurveFileError(
            f"'{name}': {len(problems)} of {len(rows) + len(problems)} rows cannot be read, first line {first.line}, "
            f"column '{first.column}': {first.message}"
        )
    return Table(name, names, units, rows, tuple(problems), (*notes, *more))


def _kinds(body: Sequence[str], layout: _Layout) -> list[str]:
    """What most of the first rows have in each column: "number", "clock" or "words"."""
    seen: list[Counter[str]] = [Counter() for _ in range(layout.columns)]
    for line in body[:LOOKED_AT]:
        fields = _split(line.rstrip(layout.separator or ""), layout.separator)
        if len(fields) == layout.columns and sum(map(_is_value, fields)) > 1:
            for counts, field in zip(seen, fields, strict=True):
                counts["number" if _NUMBER.match(field) else "clock" if _CLOCK.match(field) else "words"] += 1
    return [counts.most_common(1)[0][0] if counts else "number" for counts in seen]


def _only_numbers(
    names: tuple[str, ...], units: tuple[str, ...], notes: list[str], body: Sequence[str], layout: _Layout,
    kinds: Sequence[str], stop: Stop,
) -> tuple[tuple[str, ...], tuple[str, ...], list[str], list[str]]:  # fmt: skip
    """(names, units, notes, rows as text with ";"): columns of words left out, clock times as seconds, no quotes."""
    used = [i for i, kind in enumerate(kinds) if kind != "words"]
    left = [names[i] for i, kind in enumerate(kinds) if kind == "words"]
    if left:
        notes = [*notes, f"columns of words are left out: {', '.join(left)}"]
    looked_at = [field for line in body[:LOOKED_AT] for field in _split(line, layout.separator)]
    commas = any("," in field for field in looked_at if _is_value(field))
    lines = []
    for offset, line in enumerate(body):
        if offset % 4096 == 0 and stop():
            raise StoppedError("given up")
        fields = _split(line.rstrip(layout.separator or ""), layout.separator)
        if len(fields) != layout.columns:
            lines.append(line if line.strip() else "")
            continue
        picked = [_seconds(fields[i], commas) if kinds[i] == "clock" else fields[i] for i in used]
        lines.append(";".join(field.replace(";", " ") for field in picked))
    return (
        tuple(names[i] for i in used),
        tuple("s" if kinds[i] == "clock" else units[i] for i in used),
        notes,
        lines,
    )


def _seconds(field: str, commas: bool) -> str:
    """A clock time as seconds, with the file's decimal mark; anything else as it is."""
    match = _CLOCK.match(field)
    if match is None:
        return field
    text = repr(int(match["h"]) * 3600 + int(match["m"]) * 60 + float((match["s"] or "0").replace(",", ".")))
    return text.replace(".", ",") if commas else text


def _header(lines: Sequence[str], layout: _Layout) -> tuple[tuple[str, ...], tuple[str, ...], list[str]]:
    """(names, units, notes) from the lines above the numbers: the names, perhaps a line of units under them."""
    above = []
    for line in lines[-LOOKED_AT:]:
        fields = _split(line.rstrip(layout.separator or ""), layout.separator)
        above.append(fields if len(fields) == layout.columns else None)
    last = above[-1] if above else None
    before = above[-2] if len(above) > 1 else None
    notes = []
    under: list[str] = [""] * layout.columns
    if last is not None and before is not None and all(_unit(field) or not field.strip("-[]() ") for field in last):
        under, names = [_unit(field) for field in last], before
    else:
        names = last or [f"column {i + 1}" for i in range(layout.columns)]
        if last is None:
            notes.append("the columns have no names: say what they are")
    used = (2 if any(under) else 1) if last is not None else 0
    if len(lines) > used:
        notes.append(f"{len(lines) - used} lines above the table were passed over")
    titles, units = [], []
    for field, unit_text in zip(names, under, strict=True):
        match = _UNIT_IN_NAME.match(field)
        title, unit = (match["name"], match["unit"]) if match else _after_name(field)
        titles.append(title.strip() or field)
        units.append(unit_text or _unit(unit))
    return tuple(titles), tuple(units), notes


def _after_name(field: str) -> tuple[str, str]:
    """ "Load, lbf" and "Weg/mm" and "Force_kN": a name, a mark, a unit."""
    match = re.match(r"(.+?)[\s_,/]+([^\s_,/]+)\Z", field)
    return (match[1], match[2]) if match and _unit(match[2]) else (field, "")


def _unit(text: str) -> str:
    """A unit this knows, as it is spelled here, or nothing."""
    plain = text.strip().strip("[]()").strip().lower().replace("μ", "µ")
    return plain if any(plain in table for table in UNITS.values()) and plain not in ("1", "-", "strain") else ""


def _rows(
    body: Sequence[str], layout: _Layout, names: Sequence[str], stop: Stop
) -> tuple[np.ndarray, list[Problem], list[str]]:
    """(rows, problems, notes).  Lines in order are read at once, the others one by one to say what is wrong."""
    mark = _decimal_mark(body, layout)
    number = rf"[+\-−]?(?:\d+(?:{re.escape(mark)}\d*)?|{re.escape(mark)}\d+)(?:[eE][+\-]?\d+)?"
    between = r"\s+" if layout.separator is None else rf"\s*{re.escape(layout.separator)}\s*"
    in_order = re.compile(rf"\s*{number}(?:{between}{number}){{{layout.columns - 1}}}(?:{between})?\s*\Z")
    good, problems, notes = [], [], []
    for offset, line in enumerate(body):
        if offset % 4096 == 0 and stop():
            raise StoppedError("given up")
        if len(line) > MAX_LINE:
            problems.append(Problem(layout.start + offset + 1, "", f"a line of {len(line):,} characters"))
        elif in_order.match(line):
            good.append(line.rstrip(layout.separator))
        elif line.strip():
            at = layout.start + offset + 1
            problem = _problem(line, at, layout, names, mark)
            if problem is None and good:
                notes.append(
                    f"line {at} is another header: only the rows above it are taken, the rest stays in the file"
                )
                break
            problems.append(problem or Problem(at, "", "this is not a number"))
    text = "\n".join(good).replace("−", "-")
    if mark == ",":
        text = text.replace(",", ".")
    if not good:
        return np.empty((0, layout.columns)), problems, notes
    rows = np.loadtxt(io.StringIO(text), delimiter=layout.separator, ndmin=2, comments=None)
    finite = np.all(np.isfinite(rows), axis=1)
    if not np.all(finite):
        notes.append(f"{np.count_nonzero(~finite)} rows with numbers beyond all bounds are left out")
    return rows[finite], problems, notes


def _decimal_mark(body: Sequence[str], layout: _Layout) -> str:
    """The decimal mark of the first row that has one."""
    if layout.separator == ",":
        return "."
    for line in body:
        for field in _split(line, layout.separator):
            if _NUMBER.match(field) and ("," in field or "." in field):
                return "," if "," in field else "."
    return "."


def _problem(line: str, at: int, layout: _Layout, names: Sequence[str], mark: str) -> Problem | None:
    """What is wrong with a line; None where it is a line of words, another header."""
    fields = _split(line.rstrip(layout.separator or ""), layout.separator)
    if len(fields) == len(names) and any(fields) and not any(_NUMBER.match(field) for field in fields):
        return None
    if len(fields) != layout.columns:
        return Problem(at, "", f"{len(fields)} fields where {layout.columns} are expected")
    for field, column in zip(fields, names, strict=True):
        if not field:
            return Problem(at, column, "this cell is empty")
        if not _NUMBER.match(field):
            return Problem(at, column, f"'{field[:24]}' is not a number")
        if ("," if mark == "." else ".") in field:
            return Problem(at, column, f"'{field}' has another decimal mark than the rows above, which have '{mark}'")
    return Problem(at, "", "this row cannot be read")


# --- what the columns are -----------------------------------------------------------------------------------


def suggest(table: Table) -> tuple[Choice, ...]:
    """What each column probably is, by its name and unit; a quantity is given to one column only."""
    taken: set[str] = set()
    choices = []
    for title, unit in zip(table.names, table.units, strict=True):
        quantity: str = next(
            (
                q for q, words in NAMES
                if q not in taken and re.search(words, title.lower()) and (not unit or unit in UNITS[DIMENSIONS[q]])
            ),
            "",
        )  # fmt: skip
        if not quantity and unit in UNITS["force"] and "force" not in taken:
            quantity = "force"
        if not quantity and unit in UNITS["length"] and "travel" not in taken and unit != "m":
            quantity = "travel"
        taken.add(quantity)
        choices.append(Choice(quantity, unit if quantity else ""))
    return tuple(choices)


def make_curve(table: Table, choices: Sequence[Choice]) -> tuple[Curve, tuple[str, ...]]:
    """(curve, notes) of a table whose columns are known.  Raises CurveFileError naming the column."""
    columns: dict[Quantity, np.ndarray] = {}
    notes = list(table.notes)
    for i, (choice, title) in enumerate(zip(choices, table.names, strict=True)):
        if not choice.quantity:
            continue
        quantity: Quantity = choice.quantity  # type: ignore[assignment]
        if quantity in columns:
            raise CurveFileError(f"two columns are said to be {quantity.replace('_', ' ')}: leave one out")
        known = UNITS[DIMENSIONS[quantity]]
        unit = choice.unit.strip().lower()
        if not unit:
            raise CurveFileError(f"column '{title}' states no unit: choose one")
        if unit not in known:
            raise CurveFileError(f"column '{title}': '{choice.unit}' is no unit of {quantity.replace('_', ' ')}")
        if quantity == "force" and unit in AS_FORCE:
            notes.append(f"column '{title}' is in {choice.unit}, a mass: taken as its weight")
        columns[quantity] = table.rows[:, i] * known[unit]
    if "force" not in columns:
        raise CurveFileError("no column is the force: say which")
    curve = Curve(columns)
    axis = next((columns[q] for q in ("travel", "deflection", "strain") if q in columns), None)
    if axis is None:
        notes.append("force alone: strength can be read, stiffness cannot")
    else:
        loops = curve.loops(axis * (1.0 if axis[curve.peak] >= 0.0 else -1.0))
        if loops:
            times = "once" if loops == 1 else f"{loops} times"
            notes.append(f"it was unloaded {times} before the peak: the modulus is read from the first loading")
    return curve, tuple(notes)
