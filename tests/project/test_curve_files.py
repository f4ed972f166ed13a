"""Files from machines: what is in order is read fast, what is not is told by line or column, and nothing is lost."""

from __future__ import annotations

import io
import re
import time
import unittest
import zipfile
from collections.abc import Callable

import numpy as np
import openpyxl
from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import Curve
from omakase.project.curve_file import Choice, CurveFileError, make_curve, read_table, suggest
from omakase.project.curves import to_curve, to_record
from omakase.project.model import LoadItem
from omakase.project.step_log import LogError, Rig, mass_for, read_log


def read(text: str | bytes) -> tuple[Curve, tuple[str, ...]]:
    table = read_table(text if isinstance(text, bytes) else text.encode(), "test.csv")
    return make_curve(table, suggest(table))


def lines(separator: str = ";", comma: bool = False, rows: int = 20) -> str:
    made = [f"{i * 0.01:.3f}{separator}{i * 1.25:.3f}" for i in range(rows)]
    return "\n".join(made).replace(".", ",") if comma else "\n".join(made)


class Shapes(unittest.TestCase):
    def test_separators_decimals_units_and_junk(self) -> None:
        for text in (
            "Travel (mm);Load (kN)\n" + lines(),
            "Travel (mm);Load (kN)\n" + lines(comma=True),
            "Weg/mm\tForce_kN\n" + lines("\t", comma=True),
            "Position [mm],Force [kN]\n" + lines(","),
            "Heronwick Works\ntest of;2026-11-02\n\nTravel;Load\n(mm);(kN)\n" + lines(),
            "travel,mm|force,kN\n" + lines("|"),
            "stroke_mm   load_kN\n" + lines("  "),
            "\ufeffTravel (mm);Load (kN);\n" + lines().replace("\n", ";\n") + ";",
        ):
            with self.subTest(text[:40]):
                curve, _ = read(text)
                self.assertEqual(len(curve), 20)
                self.assertAlmostEqual(curve.force[-1], 19 * 1250.0)
                self.assertAlmostEqual(curve.columns["travel"][-1], 0.19e-3)

    def test_any_order_and_force_units(self) -> None:
        for unit, newton in (("N", 1.0), ("kgf", 9.80665), ("lbf", 4.4482216152605), ("kN", 1000.0)):
            curve, _ = read(f"Time (s),Load ({unit}),Strain (%),Crosshead (in)\n" + "\n".join(
                f"{i},{i * 2},{i * 0.1},{i * 0.01}" for i in range(9)))  # fmt: skip
            self.assertAlmostEqual(curve.force[-1], 16 * newton)
            self.assertAlmostEqual(curve.columns["strain"][-1], 0.008)
            self.assertAlmostEqual(curve.columns["travel"][-1], 0.08 * 0.0254)

    def test_a_mass_is_taken_as_its_weight_and_told(self) -> None:
        curve, notes = read("Travel (mm);Load (kg)\n" + lines())
        self.assertAlmostEqual(curve.force[-1], 19 * 1.25 * 9.80665)
        self.assertTrue(any("taken as its weight" in note for note in notes))

    def test_a_workbook(self) -> None:
        book = openpyxl.Workbook()
        book.active.title = "empty"
        sheet = book.create_sheet("run 1")
        sheet.append(["Made-up workshop"])
        sheet.append([None, "Travel (mm)", "Load (N)"])
        for i in range(12):
            sheet.append([None, i * 0.1, i * 30.5])
        data = io.BytesIO()
        book.save(data)
        curve, notes = read(data.getvalue())
        self.assertAlmostEqual(curve.force[-1], 335.5)
        self.assertIn("sheet 'run 1'", notes)


class Ordinary(unittest.TestCase):
    """What loggers and spreadsheets write every day."""

    def values(self, text: str | bytes) -> tuple[list[float], list[float]]:
        curve, _ = read(text)
        return curve.force.tolist(), curve.columns["travel"].tolist()

    def test_quoted_numbers(self) -> None:
        for text in (
            '"Travel (mm)","Load (N)"\n' + "\n".join(f'"{i}.5","{i * 10}"' for i in range(9)),
            '"Travel (mm)";"Load (N)"\n' + "\n".join(f'"{i},5";"{i * 10}"' for i in range(9)),
            '"Travel (mm)","Load (N)"\n' + "\n".join(f'"{i},5","{i * 10}"' for i in range(9)),
        ):
            with self.subTest(text[:50]):
                force, travel = self.values(text)
                self.assertEqual(force[-1], 80.0)
                self.assertAlmostEqual(travel[-1], 8.5e-3)

    def test_many_blank_rows(self) -> None:
        head = "\n" * 900 + "Travel (mm);Load (N)\n" + "\n" * 700
        force, _ = self.values(head + "\n\n\n".join(f"{i};{i * 2}" for i in range(30)))
        self.assertEqual((len(force), force[-1]), (30, 58.0))

    def test_a_column_of_words_and_clock_times(self) -> None:
        rows = "\n".join(f"row {i};12:00:{i:02d},5;{i * 0.1:.1f};{i * 3}".replace(".", ",") for i in range(20))
        curve, notes = read("Name;Clock;Travel (mm);Load (N)\n" + rows)
        self.assertAlmostEqual(curve.force[-1], 57.0)
        self.assertAlmostEqual(curve.columns["travel"][-1], 1.9e-3)
        self.assertTrue(any("words are left out: Name" in note for note in notes))
        table = read_table(("Name;Clock;Travel (mm);Load (N)\n" + rows).encode(), "x")
        self.assertEqual((table.units[0], table.rows[3, 0] - table.rows[0, 0]), ("s", 3.0))

    def test_digits_of_other_scripts(self) -> None:
        plain = "Travel (mm);Load (N)\n" + "\n".join(f"{i}.5;{i * 10}" for i in range(9))
        for zero, mark in ((0x660, "\u066b"), (0xFF10, "\uff0e"), (0x966, ".")):
            digits = {ord("0") + k: chr(zero + k) for k in range(10)} | {ord("."): mark}
            self.assertEqual(self.values(plain.translate(digits)), self.values(plain))

    def test_one_formatted_cell_far_below_and_a_huge_stated_range(self) -> None:
        book = openpyxl.Workbook()
        sheet = book.active
        sheet.append(["Travel (mm)", "Load (N)"])
        for i in range(12):
            sheet.append([i * 0.1, i * 30.5])
        sheet["XFD1048576"].fill = openpyxl.styles.PatternFill("solid", fgColor="FF0000")
        data = io.BytesIO()
        book.save(data)
        far = b'<row r="2000000000"><c r="A2000000000"><v>1</v></c></row></sheetData>'

        def huge(xml: bytes) -> bytes:
            stated = re.sub(rb'<dimension ref="[^"]*"', b'<dimension ref="A1:XFD1048576"', xml)
            return stated.replace(b"</sheetData>", far)

        packed = with_part(data.getvalue(), "xl/worksheets/sheet1.xml", huge)
        for content in (data.getvalue(), packed):
            start = time.perf_counter()
            curve, _ = read(content)
            self.assertLess(time.perf_counter() - start, 2.0)
            self.assertEqual(len(curve), 12)


def with_part(data: bytes, name: str, change: Callable[[bytes], bytes]) -> bytes:
    """A workbook with one of its parts changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.namelist():
            content = old.read(part)
            new.writestr(part, change(content) if part == name else content)
    return out.getvalue()


class Bombs(unittest.TestCase):
    """Refused with the reason within two seconds."""

    def refused(self, data: bytes, words: str) -> None:
        start = time.perf_counter()
        with self.assertRaisesRegex(OmakaseError, words):
            read(data)
        self.assertLess(time.perf_counter() - start, 2.0)

    def test_one_line_of_fifty_megabytes(self) -> None:
        self.refused(b"1.5," * 12_500_000, "a line of")

    def test_a_workbook_that_unpacks_to_very_much(self) -> None:
        book = openpyxl.Workbook()
        book.active.append([1, 2])
        data = io.BytesIO()
        book.save(data)
        string = b"<si><t>a</t></si>" * 1_000_000
        large = with_part(data.getvalue(), "xl/worksheets/sheet1.xml", lambda xml: xml + b" " * 100_000_000)
        self.refused(large, "unpacks")
        out = io.BytesIO(data.getvalue())
        with zipfile.ZipFile(out, "a", zipfile.ZIP_DEFLATED) as file:
            file.writestr("xl/sharedStrings.xml", b"<sst>" + string + b"</sst>")
        self.refused(out.getvalue(), "unpacks")

    def test_a_long_file_can_be_given_up(self) -> None:
        from omakase.project.curve_file import StoppedError

        data = "Travel (mm),Load (N)\n" + "1.5,2.5\n" * 200_000
        with self.assertRaises(StoppedError):
            read_table(data.encode(), "x", lambda: True)


class Hostile(unittest.TestCase):
    def refused(self, data: str | bytes, words: str) -> None:
        with self.assertRaisesRegex(OmakaseError, words):
            read(data)

    def test_what_is_no_table(self) -> None:
        self.refused(b"", "empty")
        self.refused(b"  \n \n", "empty")
        self.refused(b"\x7fELF\x02\x01\x01" + bytes(range(256)), "not a text file")
        self.refused(b"PK\x03\x04 not really a zip", "not a workbook")
        self.refused("a letter\nwithout numbers\n", "no table")
        self.refused("Travel (mm);Load (N)\n0;0\n0;0\n0;0", "zero throughout")

    def test_missing_units_are_asked_for(self) -> None:
        self.refused("Travel;Load (N)\n" + lines(), "'Travel' states no unit")
        table = read_table(("Travel;Load (N)\n" + lines()).encode(), "x")
        curve, _ = make_curve(table, (Choice("travel", "mm"), Choice("force", "N")))
        self.assertAlmostEqual(curve.columns["travel"][-1], 0.19e-3)
        with self.assertRaisesRegex(CurveFileError, "is no unit of force"):
            make_curve(table, (Choice("travel", "mm"), Choice("force", "mm")))
        with self.assertRaisesRegex(CurveFileError, "no column is the force"):
            make_curve(table, (Choice("travel", "mm"), Choice("", "")))
        with self.assertRaisesRegex(CurveFileError, "two columns"):
            make_curve(table, (Choice("force", "N"), Choice("force", "N")))

    def test_text_in_numbers_is_told_by_line_and_column(self) -> None:
        text = "Travel (mm);Load (N)\n" + lines() + "\n0.2;over\n0.21;26\n"
        table = read_table(text.encode(), "x")
        self.assertEqual([(p.line, p.column) for p in table.problems], [(22, "Load (N)".replace(" (N)", ""))])
        self.assertIn("'over' is not a number", table.problems[0].message)
        self.assertEqual(len(table.rows), 21)

    def test_mixed_decimals_are_told_by_line(self) -> None:
        text = "Travel (mm);Load (N)\n" + lines() + "\n0,2;26.1\n"
        table = read_table(text.encode(), "x")
        self.assertEqual(table.problems[0].line, 22)
        self.assertIn("decimal", table.problems[0].message)

    def test_a_second_header_ends_the_table(self) -> None:
        table = read_table(("Travel (mm);Load (N)\n" + lines() + "\nTravel (mm);Load (N)\n" + lines()).encode(), "x")
        self.assertEqual(len(table.rows), 20)
        self.assertTrue(any("line 22 is another header" in note for note in table.notes))

    def test_a_file_of_mostly_rubbish_is_refused(self) -> None:
        self.refused(
            "a;b\n" + "\n".join("1;2" if i % 2 else "1;x" for i in range(60)), "rows cannot be read, first line"
        )

    def test_unloading_is_told(self) -> None:
        up = [(i, 10 * i) for i in range(30)]
        way = up + [(i, 10 * i) for i in range(29, 10, -1)] + [(i, 10 * i) for i in range(10, 60)]
        _, notes = read("Travel (mm);Load (N)\n" + "\n".join(f"{x};{f}" for x, f in way))
        self.assertTrue(any("unloaded once" in note for note in notes))

    def test_a_million_rows(self) -> None:
        x = np.arange(1_000_000) * 1e-3
        data = "\n".join(f"{v:.3f},{v * 20:.3f}" for v in x.tolist())
        curve, _ = read("Travel (mm),Load (N)\n" + data)
        self.assertEqual(len(curve), 1_000_000)

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=400))
    def test_anything_is_a_table_or_an_explained_refusal(self, data: bytes) -> None:
        try:
            table = read_table(data, "x")
            make_curve(table, suggest(table))
        except OmakaseError as error:
            self.assertTrue(str(error))

    @settings(max_examples=100, deadline=None)
    @given(st.text(alphabet='0123456789.,;:- \t\nNm()e"\u0663\uff15\x00', max_size=300))
    def test_any_scribble_too(self, text: str) -> None:
        try:
            read(text)
        except OmakaseError as error:
            self.assertTrue(str(error))


class Kept(unittest.TestCase):
    def test_twenty_long_curves_stay_below_two_megabytes(self) -> None:
        random = np.random.default_rng(1)
        n = 100_000
        x = np.linspace(0.0, 4e-3, n)
        columns = {"time": np.linspace(0, 240, n), "travel": x, "force": 5e5 * x + random.normal(0, 2.0, n),
                   "strain": x * 2 + random.normal(0, 1e-6, n)}  # fmt: skip
        record = to_record(Curve(columns), "long.csv", b"whatever")  # type: ignore[arg-type]
        size = sum(len(column.values) for column in record.columns)
        self.assertLess(20 * size, 2_000_000)
        self.assertEqual(record.rows, n)
        again = to_curve(record)
        self.assertAlmostEqual(again.force.max() / columns["force"].max(), 1.0, delta=1e-4)
        slope = np.polyfit(again.columns["travel"], again.force, 1)[0]
        self.assertAlmostEqual(slope / 5e5, 1.0, delta=1e-4)

    def test_a_short_curve_keeps_every_row(self) -> None:
        curve, _ = read("Travel (mm);Load (N)\n" + lines())
        again = to_curve(to_record(curve))
        np.testing.assert_allclose(again.force, curve.force, atol=curve.force.max() / 20_000)


class Logs(unittest.TestCase):
    RIG = Rig(tare=2.0, lever=4.0, items=(LoadItem("block", 10.5), LoadItem("bar", 1.2)))

    def test_a_bucket_log(self) -> None:
        steps = read_log("# first run\n2 blocks ; 1.2 mm\n5 l water ; 2.4 mm\n1 bar; broke\n", self.RIG)
        g = 9.80665
        hung = 2.0 + 21.0
        self.assertAlmostEqual(steps[0].force, hung * g * 4)
        self.assertAlmostEqual(steps[1].force, (hung + 5 * 0.9982) * g * 4, places=6)
        self.assertEqual((steps[1].deflection, steps[2].held), (2.4e-3, False))
        self.assertAlmostEqual(mass_for(steps[0].force, self.RIG), 21.0)

    def test_forces_totals_and_unloading(self) -> None:
        steps = read_log("100 N ; 1 mm\n+50 N ; 1.5 mm\n= 40 kg ; 3 mm\nunloaded ; 0.1 mm", Rig())
        np.testing.assert_allclose([s.force for s in steps], [100.0, 150.0, 392.266, 0.0])
        self.assertEqual(steps[3].deflection, 1e-4)

    def test_what_is_wrong_is_told_by_line(self) -> None:
        for text, words in (
            ("2 blocks\n3 bricks", "line 2: 'bricks' is neither"), ("12", "line 1: '12': of what"),
            ("2 kg ; 4 kg", "line 1: 'kg' does not fit"), ("soup", "line 1"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(LogError, words):
                read_log(text, self.RIG)


if __name__ == "__main__":
    unittest.main()
