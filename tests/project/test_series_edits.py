"""Series of tests and what is accepted from them, as edits of the document."""

from __future__ import annotations

import unittest
from collections.abc import Callable

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.errors import MaterialError, OmakaseError
from omakase.core.specimens.curve import Curve
from omakase.project import materials as own_materials
from omakase.project import series as edits
from omakase.project.commands import replace
from omakase.project.curves import RESOLUTION, to_curve, to_record
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of, stated_materials, with_accepted
from omakase.project.model import Acceptance, LoadItem, Reading, Series, Specimen
from omakase.project.step_log import LogError, Rig, read_log

ENTRY = Acceptance("", "t1", "core beams", "allowable", "pvc80", "S13", 0.9e6, "B-basis, n = 6", "2026-11-25")


class Days(unittest.TestCase):
    """The day a result came in stays with it, and goes with it."""

    def setUp(self) -> None:
        self.plain = replace(demo_project().series[0], specimens=(Specimen("p1", "1"), Specimen("p2", "2")))

    def edited(self, series: Series, change: Callable[[Specimen], Specimen], day: str) -> Series:
        return edits.dated(series, edits.change_specimen(series, "p1", change), day)

    def test_days_of_a_specimen(self) -> None:
        weighed = self.edited(self.plain, lambda own: edits.with_mass(own, "31 g", "si"), "2026-12-01")
        broken = self.edited(weighed, lambda own: edits.with_log(own, "+ 5 kg\nbroke at 25 kg", "si"), "2026-12-02")
        noted = self.edited(broken, lambda own: replace(own, note="clean"), "2026-12-03")
        self.assertEqual(
            [(own.weighed, own.tested) for own in noted.specimens], [("2026-12-01", "2026-12-02"), ("", "")]
        )
        emptied = self.edited(noted, lambda own: replace(own, log="", mass=None), "2026-12-04")
        self.assertEqual((emptied.specimens[0].weighed, emptied.specimens[0].tested), ("", ""))

    def test_one_added_with_its_data(self) -> None:
        added, identity = edits.add_specimen(self.plain)
        new = edits.dated(
            self.plain,
            edits.change_specimen(added, identity, lambda own: edits.with_mass(own, "30 g", "si")),
            "2026-12-01",
        )
        self.assertEqual([own.weighed for own in new.specimens], ["", "", "2026-12-01"])


class Accepted(unittest.TestCase):
    def setUp(self) -> None:
        self.document = Document(demo_project())

    def value(self, key: str = "S13") -> float:
        return materials_of(self.document.project)["pvc80"].value(key)

    def test_in_place_undone_redone_and_withdrawn(self) -> None:
        before = self.value()
        self.document.do(edits.accept(self.document.project, ENTRY))
        self.assertEqual(self.value(), 0.9e6)
        tested = materials_of(self.document.project)["pvc80"]
        self.assertEqual((tested.properties["S13"].source, tested.tests), ("tested", ("core beams",)))
        self.assertIn("core beams", tested.properties["S13"].note)
        self.document.undo()
        self.assertEqual(self.value(), before)
        self.document.redo()
        self.assertEqual(self.value(), 0.9e6)
        self.document.do(edits.withdraw(self.document.project, self.document.project.acceptances[0].id))
        self.assertEqual(self.value(), before)

    def test_the_same_property_is_accepted_once_only(self) -> None:
        self.document.do(edits.accept(self.document.project, ENTRY))
        self.document.do(edits.accept(self.document.project, replace(ENTRY, value=1.0e6, name="newer beams")))
        self.assertEqual(len(self.document.project.acceptances), 1)
        self.assertEqual(self.value(), 1.0e6)
        self.document.do(edits.accept(self.document.project, replace(ENTRY, key="S23")))
        self.assertEqual(len({entry.id for entry in self.document.project.acceptances}), 2)

    def test_what_is_stated_stays_as_it_was(self) -> None:
        stated = stated_materials(self.document.project)["pvc80"]
        self.document.do(edits.accept(self.document.project, ENTRY))
        self.assertIs(stated_materials(self.document.project)["pvc80"], stated)
        command, name = own_materials.copy(self.document.project, "pvc80")
        self.document.do(command)
        copied = materials_of(self.document.project)[name]
        self.assertEqual(copied.value("S13"), stated.value("S13"))
        self.assertEqual(copied.tests, ())

    def test_values_that_cannot_be_are_refused(self) -> None:
        foam = stated_materials(self.document.project)["pvc80"]
        for entry in (replace(ENTRY, value=-1.0), replace(ENTRY, key="soap"), replace(ENTRY, kind="factor", value=0.0)):
            with self.assertRaises(MaterialError):
                with_accepted(foam, entry)


class Specimens(unittest.TestCase):
    SERIES = Series("t1", "beams", "core_shear_beam", sizes={"width": 0.05, "span": 0.1}, specimens=(
        Specimen("p1", "1"), Specimen("p2", "2", sizes={"width": 0.06})))  # fmt: skip

    def test_a_size_of_its_own_and_back(self) -> None:
        first, second = self.SERIES.specimens
        self.assertEqual(edits.sizes_of(self.SERIES, first), {"width": 0.05, "span": 0.1})
        self.assertEqual(edits.sizes_of(self.SERIES, second)["width"], 0.06)
        self.assertEqual(edits.with_size(second, "width", None).sizes, {})

    def test_data_of_one_kind_takes_the_place_of_another(self) -> None:
        curve = to_record(Curve({"force": [0.0, 5.0, 9.0], "travel": [0.0, 1e-3, 2e-3]}))  # type: ignore[dict-item]
        specimen = edits.with_curve(Specimen("p1", "1"), curve)
        specimen = edits.with_log(specimen, "10 kg")
        self.assertEqual((specimen.curve, specimen.log), (None, "10 kg"))
        specimen = edits.with_force(specimen, "98 kgf", "si")
        self.assertEqual((specimen.log, specimen.force.text), ("", "98 kgf"))
        self.assertIsNone(edits.with_force(specimen, " ", "si").force)
        self.assertEqual(edits.with_mass(specimen, "41 g", "si").mass, Reading(0.041, 0.0005, "41 g"))

    def test_added_and_removed(self) -> None:
        series, identity = edits.add_specimen(self.SERIES)
        self.assertEqual((identity, len(series.specimens)), ("p3", 3))
        self.assertEqual(edits.remove_specimen(series, "p1").specimens[0].id, "p2")
        again, free = edits.add_specimen(edits.remove_specimen(series, "p1"))
        self.assertEqual(free, "p1")
        self.assertEqual(len({own.id for own in again.specimens}), 3)


class Kept(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.integers(-(10**6), 10**6), min_size=2, max_size=60).filter(any), st.integers(-6, 6))
    def test_a_column_is_kept_to_a_part_of_its_span(self, whole: list[int], power: int) -> None:
        values = [value * 10.0**power for value in whole]
        curve = Curve({"force": values})  # type: ignore[dict-item]
        again = to_curve(to_record(curve))
        reach = max(values) - min(values) or max(map(abs, values))
        for kept, read in zip(again.force, curve.force, strict=True):
            self.assertLessEqual(abs(kept - read), reach / RESOLUTION * 0.51)


class Logs(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(st.text(alphabet="0123456789.,;=+ \n\tkglNmbroke/#", max_size=120))
    def test_any_scribble_is_steps_or_a_line_that_is_named(self, text: str) -> None:
        try:
            steps = read_log(text, Rig(0.5, 2.0, (LoadItem("bok", 2.0),)))
        except LogError as error:
            self.assertRegex(str(error), r"^line \d+: ")
        except OmakaseError as error:  # no other kind
            self.fail(str(error))
        else:
            self.assertLessEqual(len(steps), len(text.splitlines()))


if __name__ == "__main__":
    unittest.main()
