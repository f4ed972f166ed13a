"""The design record and the report of tests, read back and worked out again by hand from what is printed."""

from __future__ import annotations

import io
import math
import re
import unittest
from functools import cache

import pypdf

from omakase.core.checks.registry import all_checks
from omakase.core.checks.result import CheckResult
from omakase.core.checks.working import Step, evaluate_formula, is_worked
from omakase.evaluate.record.decided import subject
from omakase.evaluate.record.workings import worked_out
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.records import evaluate_brief
from omakase.project.commands import replace
from omakase.project.library import materials_of
from omakase.project.model import Project, find_brief
from omakase.reports.record_pdf import record_pdf
from omakase.reports.series_pdf import series_pdf
from tests.support import demo_project

DAY = "2026-11-28"
HOSTILE = '=HYPERLINK("x") <b>&amp; <para>'
UNITS = {"mm": 1e-3, "MPa": 1e6, "GPa": 1e9, "kPa": 1e3, "N": 1.0, "N/mm": 1e3, "N m": 1.0, "µε": 1e-6, "°": 1.0,
         "g/m²": 1e-3, "m²": 1.0, "kg": 1.0, "Hz": 1.0, "1/m": 1.0, "kg/m": 1.0, "m/s": 1.0, "": 1.0}  # fmt: skip
NUMBER = r"(−?[\d.]+(?:e[−+]?\d+)?)"
UNIT = rf"({'|'.join(re.escape(unit) for unit in sorted(UNITS, key=len, reverse=True))})"
STEP = re.compile(rf"(\w+) = (?:([\w.*+/()^,− -]*[A-Za-zα-ω_][\w.*+/()^,− -]*?) = )?{NUMBER} ?{UNIT} ?\(")
PROSE = re.compile(r"\w \w")  # words beside each other: not a formula
FUNCTIONS = {"sqrt": math.sqrt, "max": max, "min": min, "abs": abs,
             "sin": lambda degrees: math.sin(math.radians(degrees)),
             "cos": lambda degrees: math.cos(math.radians(degrees))}  # fmt: skip


def words_of(data: bytes) -> str:
    return " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages).replace("\n", " ")


def by_hand(words: str) -> list[tuple[str, str, float, float]]:
    """(symbol, formula, what Python makes of the printed figures, what is printed) of every formula printed."""
    values: dict[str, float] = {}
    worked = []
    for symbol, formula, number, unit in STEP.findall(words):
        printed = float(number.replace("−", "-")) * UNITS[unit]
        if PROSE.search(formula):
            continue
        if formula:
            got = eval(formula.replace("^", "**").replace("−", "-"), {"__builtins__": {}}, values | FUNCTIONS)
            worked.append((symbol, formula, float(got), printed))
        values[symbol] = printed
    return worked


EVALUATOR = Evaluator()


class Records(unittest.TestCase):
    project: Project

    @classmethod
    def setUpClass(cls) -> None:
        cls.project = demo_project()

    def record(self, name: str, project: Project | None = None, candidate: str = "") -> tuple[str, bytes]:
        project = project or self.project
        brief = next(own for own in project.briefs if name in (own.name, own.id))
        line_up = evaluate_brief(project, brief, EVALUATOR)
        own = subject(project, line_up, materials_of(project), candidate)
        assert own is not None
        data = record_pdf(project, line_up, own, DAY)
        return words_of(data), data

    def test_formulas_are_followed_by_hand_from_the_printed_figures(self) -> None:
        """Figures are printed to six digits; differences of like numbers lose some of them."""
        names: set[str] = set()
        for brief in (
            "Tricycle footwell floor", "Drone payload bay floor", "Wing spar of the survey drone",
            "Shaft of a sculling oar", "Wing rib of the survey drone", "Wing of the survey drone",
            "Leaf spring of the tricycle", "Motor bracket of the tricycle", "Lid of the battery box",
        ):  # fmt: skip
            worked = by_hand(self.record(brief)[0])
            self.assertGreaterEqual(len(worked), 10)
            for symbol, formula, got, printed in worked:
                with self.subTest(brief=brief, formula=formula):
                    self.assertAlmostEqual(got, printed, delta=2e-4 * abs(printed) + 1e-9)
                names.add(symbol)
        self.assertLessEqual({"σ_w", "E_f", "τ_L", "index", "f", "N_cr", "p", "m", "t", "RF"}, names)

    def test_each_part_of_a_decision_is_told(self) -> None:
        words, data = self.record("Tricycle footwell floor")
        for text in ("Design record: Tricycle footwell floor · R1", "Decided as revision 1", "Driver steps in: 1100 N",
                     "pvc80: PVC foam 80 kg/m³", "estimated by a rule", "Core shear, driver steps in: reserve factor",
                     "Basis:", "Range:", "Alternatives", "Aluminium sheet 4", "fails mass", "Approved", "Initials",
                     "licensed engineer", "not symmetric"):  # fmt: skip
            self.assertIn(text, words)
        pages = len(pypdf.PdfReader(io.BytesIO(data)).pages)
        self.assertIn(f"page {pages} of {pages}", words)

    def test_every_kind_of_member_has_a_record(self) -> None:
        for brief in {type(brief.member): brief for brief in self.project.briefs}.values():
            with self.subTest(brief=brief.name):
                words, _ = self.record(brief.name)
                self.assertIn(brief.name, words)
                self.assertIn("Checks worked out", words)

    def test_quantities_of_the_vehicle_stand_with_their_formulas(self) -> None:
        words, _ = self.record("Wing spar of the survey drone")
        self.assertIn("= drone_span / 2", words)
        self.assertIn("drone_mass", words)

    def test_accepted_findings_keep_their_reasons_and_details_their_sentences(self) -> None:
        words, _ = self.record("Tricycle footwell floor", candidate=self.project.briefs[0].candidates[3].id)
        self.assertIn("No decision has been made for this candidate", words)
        self.assertIn("σ_b = j * V / (d * t)", words)
        self.assertIn("R_p", words)

    def test_texts_of_the_project_stay_texts(self) -> None:
        brief = self.project.briefs[0]
        named = replace(brief, name=HOSTILE, candidates=tuple(replace(own, note=HOSTILE) for own in brief.candidates))
        project = replace(self.project, title=HOSTILE, briefs=(named, *self.project.briefs[1:]))
        words, _ = self.record(named.id, project)
        self.assertIn(HOSTILE[:20], words)
        self.assertIn("<b>&amp;", words)

    def test_every_test_series_has_its_report(self) -> None:
        for series in self.project.series:
            words = words_of(series_pdf(self.project, series.id, DAY))
            for text in (series.name, "Method:", "Statistics", "Deviations", "Numbers of each specimen", "n ="):
                self.assertIn(text, words)


SOLUTIONS = {
    "deflection", "frequency", "frequency_band", "rotation", "twist", "diameter", "strut", "tipping", "buckling",
    "bay_sag", "span_mass", "divergence", "breaking_load", "detail", "bond_peel", "bond_parting", "bond_sheet",
    "hole_edge", "strip_buckling",
}  # fmt: skip
ADDED_UP = {"mass", "thickness"}  # worked out where one wall of even thickness is all that there is


@cache
def every_working() -> list[tuple[str, CheckResult, tuple[Step, ...]]]:
    """(where, check, how it is worked out) of every candidate of the demo."""
    project = demo_project()
    return [
        (f"{brief.name}, {result.candidate.name}", check, worked_out(result, check))
        for brief in project.briefs
        for result in evaluate_brief(project, brief, EVALUATOR).results
        for check in result.checks
    ]


class Workings(unittest.TestCase):
    def test_steps_end_at_the_value_that_the_check_has(self) -> None:
        """For every check of every candidate of the demo: the last reserve factor is the check's own."""
        more = 0
        for where, check, steps in every_working():
            if not math.isfinite(check.reserve_factor) or check.value <= 0.0:
                continue
            more += len(steps) > 1
            last = steps[-1]
            with self.subTest(where, check=check.check):
                if last.symbol == "RF":
                    self.assertAlmostEqual(last.value / check.reserve_factor, 1.0, places=5)
                elif last.symbol == "sum":
                    self.assertAlmostEqual(last.value, 1.0, places=6)
                else:
                    self.assertAlmostEqual(last.value, check.required / check.reserve_factor, places=6)
        self.assertGreater(more, 120)

    def test_every_check_with_a_formula_is_worked_out(self) -> None:
        """All but those whose number is a solution of equations: there the limit over the number is all there is."""
        self.assertEqual({name for name in all_checks() if not is_worked(name)}, SOLUTIONS)
        seen: set[str] = set()
        for where, check, steps in every_working():
            if check.check in SOLUTIONS | ADDED_UP or not math.isfinite(check.reserve_factor) or check.value <= 0.0:
                continue
            seen.add(check.check)
            with self.subTest(where, check=check.check):
                self.assertGreater(len(steps), 1)
        self.assertGreater(len(seen), 45)

    def test_a_formula_is_arithmetic_and_nothing_else(self) -> None:
        self.assertAlmostEqual(evaluate_formula("2 * x^2 + sqrt(y) − cos(60)", {"x": 3.0, "y": 4.0}), 19.5)
        for bad in ("__import__('os')", "x.y", "x if x else 1", "x[0]", "y", "1 / 0", "lambda: 1", "2 ^", "x(1)"):
            with self.subTest(bad=bad), self.assertRaises(ValueError):
                evaluate_formula(bad, {"x": 1.0})

    def test_a_brief_without_a_candidate_has_no_subject(self) -> None:
        project = demo_project()
        brief = replace(find_brief(project, project.briefs[0].id), candidates=(), baseline="")
        line_up = evaluate_brief(project, brief, EVALUATOR)
        self.assertIsNone(subject(project, line_up, materials_of(project)))
