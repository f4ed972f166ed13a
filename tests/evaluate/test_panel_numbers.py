"""Linear panels give the numbers they gave before there were other members, for the sample of every file version."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from typing import Any

from omakase.core.members.panel_given import LINEAR
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.records import candidate_record
from omakase.project.library import materials_of
from omakase.project.panels import PanelMember
from omakase.project.storage import read_project

FILES = Path(__file__).parents[1] / "files"
# another processor adds in another order; a method that changed would be off by far more
SAME = 1e-9


class PanelNumbers(unittest.TestCase):
    """``panel-numbers.json`` : by file and candidate; a file named in place of numbers has the same as that one."""

    def test_every_sample_file(self) -> None:
        frozen = json.loads((FILES / "panel-numbers.json").read_text("utf-8"))
        evaluator = Evaluator()
        for name, expected in frozen.items():
            numbers = frozen[expected] if isinstance(expected, str) else expected
            project = read_project(FILES / name)
            materials = materials_of(project)
            for brief in project.briefs:
                for candidate in brief.candidates if isinstance(brief.member, PanelMember) else ():
                    result = evaluator.evaluate(brief, candidate, materials, LINEAR)
                    with self.subTest(file=name, brief=brief.id, candidate=result.candidate.id):
                        self.compare(candidate_record(result, False), numbers[f"{brief.id}/{result.candidate.id}"])

    def compare(self, found: dict[str, Any], expected: dict[str, Any]) -> None:
        if "error" in expected:
            self.assertEqual(found["error"], expected["error"])
            return
        self.close(found["mass"], expected["mass"])
        self.close(found["thickness"], expected["thickness"])
        for one, other in zip(found["frequencies"], expected["frequencies"], strict=True):
            self.close(one, other)
        checks = {f"{own['check']}|{own['load_case_id']}": own for own in found["checks"]}
        self.assertEqual(set(checks), set(expected["checks"]))
        for key, (value, reserve) in expected["checks"].items():
            self.close(checks[key]["value"], value)
            self.close(checks[key]["reserve_factor"], reserve)

    def close(self, found: float | None, expected: float | None) -> None:
        if expected is None or found is None:
            self.assertEqual(found, expected)
        else:
            self.assertLessEqual(abs(found - expected), SAME * max(abs(expected), 1e-12))


if __name__ == "__main__":
    unittest.main()
