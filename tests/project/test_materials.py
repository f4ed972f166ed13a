"""A project's own materials, and materials as a table."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.errors import MaterialError
from omakase.core.materials.material import Build
from omakase.core.materials.provenance import Sourced
from omakase.project import materials as own
from omakase.project.cells import plain_again, safe
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of, shipped_materials
from omakase.project.material_table import COLUMNS, bring_in, read_materials, write_materials
from omakase.project.storage import from_bytes, to_bytes

LIB = shipped_materials()
HEADING = ",".join(COLUMNS)


class Cells(unittest.TestCase):
    def test_no_cell_is_a_formula_and_each_comes_back(self) -> None:
        for text in ("=1+1", "+x", "-5", "@sum", "'=quoted", "'tis", "plain", "", "\tx"):
            self.assertEqual(plain_again(safe(text)), text)
            self.assertNotIn(safe(text)[:1], ("=", "+", "-", "@", "\t"))
        odd = replace(LIB["pvc80"], id="odd", name="=cmd|x", properties={
            **LIB["pvc80"].properties, "density": Sourced(80.0, "tested", "-weighed")})  # fmt: skip
        data = write_materials([odd], "si")
        self.assertNotIn(b",=cmd", data)
        again, errors = read_materials(data, "si", LIB)
        self.assertEqual((errors, again[0].name, again[0].properties["density"].note), ([], "=cmd|x", "-weighed"))


class Grade(unittest.TestCase):
    def test_a_grade_between_becomes_the_project_s_own(self) -> None:
        document = Document(demo_project())
        command, name = own.new_grade(document.project, "pvc80", 100.0)
        document.do(command)
        made = materials_of(document.project)[name]
        self.assertEqual((name, made.kind, made.value("density")), ("pvc100", "core", 100.0))
        self.assertTrue(LIB["pvc80"].value("S13") < made.value("S13") < LIB["pvc130"].value("S13"))
        self.assertEqual(from_bytes(to_bytes(document.project), "grade").materials[-1].id, name)
        self.assertEqual(own.new_grade(document.project, "pvc80", 100.0)[1], "pvc100-2")
        for core, density in (("pvc80", 20.0), ("xps35", 40.0), ("none", 80.0)):
            with self.assertRaises(MaterialError):
                own.new_grade(document.project, core, density)


class Own(unittest.TestCase):
    def setUp(self) -> None:
        self.document = Document(demo_project())

    def copy(self, name: str = "pvc80") -> str:
        command, new = own.copy(self.document.project, name)
        self.document.do(command)
        return new

    def test_a_copy_is_the_projects_own(self) -> None:
        self.assertEqual([self.copy(), self.copy(), self.copy("pvc80-2")], ["pvc80-2", "pvc80-3", "pvc80-2-2"])
        self.document.do(own.set_value(self.document.project, "pvc80-2", "density", Sourced(75.0, "tested", "weighed")))
        self.assertEqual(materials_of(self.document.project)["pvc80-2"].value("density"), 75.0)
        self.assertNotEqual(LIB["pvc80"].value("density"), 75.0)

    def test_what_cannot_be(self) -> None:
        name = self.copy()
        project = self.document.project
        for act, part in (
            (lambda: own.set_value(project, "pvc80", "density", Sourced(75.0, "tested")), "copy it"),
            (lambda: own.set_value(project, name, "density", Sourced(-1.0, "tested")), "outside"),
            (lambda: own.set_value(project, name, "nu12", Sourced(1.4, "tested")), "ν₁₂²"),
            (lambda: own.rename(project, "unobtainium", "x"), "no material"),
            (lambda: own.remove(project, "pvc80"), "copy it"),
        ):
            with self.subTest(part), self.assertRaisesRegex(MaterialError, part):
                act()

    def test_a_used_one_is_not_removed(self) -> None:
        name = self.copy()
        self.document.do(own.remove(self.document.project, name))
        self.assertEqual(self.document.project.materials, ())
        self.document.do(bring_in(self.document.project, [LIB["pvc80"]]))
        with self.assertRaisesRegex(MaterialError, "is used by"):
            own.remove(self.document.project, "pvc80")


class Recipes(unittest.TestCase):
    def setUp(self) -> None:
        self.document = Document(demo_project())
        command, self.name = own.new_ply(self.document.project, "c-satin4", "ep-infusion", "infused")
        self.document.do(command)

    @property
    def ply(self):  # type: ignore[no-untyped-def]
        return materials_of(self.document.project)[self.name]

    def test_a_ply_of_a_cloth(self) -> None:
        self.assertEqual(self.name, "satin4-1")
        V, fibre, resin = 0.54, LIB["f-carbon-sm"].value("density"), LIB["ep-infusion"].value("density")
        share = (1.0 - V) * resin / ((1.0 - V) * resin + V * fibre)  # infused: compaction fixes V_f
        self.assertAlmostEqual(self.ply.value("resin_mass_fraction"), share, places=9)
        self.assertEqual(self.ply.value("harness"), 4.0)
        self.document.undo()
        self.assertNotIn(self.name, materials_of(self.document.project))

    def test_process_and_resin_work_it_out_anew_and_keep_what_was_tested(self) -> None:
        tested = Sourced(48e9, "tested", "coupons of spring")
        self.document.do(own.set_value(self.document.project, self.name, "E1", tested))
        before = self.ply
        self.document.do(own.set_process(self.document.project, self.name, "one_to_one"))
        self.assertEqual(self.ply.properties["E1"], tested)
        self.assertLess(self.ply.value("E2"), before.value("E2"))
        self.document.do(own.set_resin(self.document.project, self.name, "ve"))
        self.assertEqual(self.ply.recipe.resin, "ve")
        self.assertEqual(self.ply.value("resin_density"), LIB["ve"].value("density"))
        with self.assertRaisesRegex(MaterialError, "no resin"):
            own.set_resin(self.document.project, self.name, "pvc80")

    def test_a_burn_off_or_a_thickness_corrects_it_and_outlives_another_resin(self) -> None:
        self.document.do(own.set_measured_fraction(self.document.project, self.name, 0.44))
        self.assertEqual(self.ply.properties["resin_mass_fraction"].source, "tested")
        self.document.do(own.set_resin(self.document.project, self.name, "ep-fast"))
        self.assertEqual(self.ply.value("resin_mass_fraction"), 0.44)
        self.document.do(own.set_measured_thickness(self.document.project, self.name, 0.25e-3))
        self.assertNotEqual(self.ply.value("resin_mass_fraction"), 0.44)

    def test_it_is_written_and_read_as_any_other(self) -> None:
        again = from_bytes(to_bytes(self.document.project), "x")
        self.assertEqual(to_bytes(again), to_bytes(self.document.project))
        for material in LIB.values():
            for sourced in material.properties.values():
                self.assertIs(type(sourced.value), float)

    def test_given_values_have_no_recipe(self) -> None:
        command, name = own.copy(self.document.project, "twill200")
        self.document.do(command)
        given = replace(own.own_material(self.document.project, name), recipe=None)
        self.document.do(own.change(self.document.project, given, "typed in from a datasheet"))
        with self.assertRaisesRegex(MaterialError, "no recipe"):
            own.set_resin(self.document.project, name, "ve")


class Table(unittest.TestCase):
    def test_all_shipped_materials_go_out_and_come_back(self) -> None:
        for units in ("si", "inch_pound"):
            materials, errors = read_materials(write_materials(LIB.values(), units), units, {})
            self.assertEqual(errors, [])
            for material in materials:
                original = LIB[material.id]
                self.assertEqual(
                    (material.name, material.kind, material.family), (original.name, original.kind, original.family)
                )
                self.assertEqual((material.build, material.recipe), (original.build, original.recipe))
                for key, sourced in original.properties.items():
                    self.assertAlmostEqual(material.value(key), sourced.value, delta=1e-8 * abs(sourced.value))
                    self.assertEqual(material.properties[key].source, sourced.source)

    def test_bad_lines_are_named_and_the_rest_is_taken(self) -> None:
        text = "\n".join(
            [
                HEADING,
                "pvc80,,,,density,75,kg/m³,tested,weighed",
                "pvc80,,,,G13,12,kg,tested,",
                "pvc80,,,,density,76,kg/m³,tested,",
                "9foam,,,,density,75,,,",
                "myfoam,My foam,core,foam,density,75,pcf,tested,",
                "pvc80,,,,colour,75,,,",
                "pvc80,,,,E3,90,MPa,guessed,",
                "",
                "hc48,,,,S13,1,MPa,,,,,a,b",
                "pvc60,,,,density,,kg/m³,,",
            ]
        )
        materials, errors = read_materials(text.encode(), "si", LIB)
        self.assertEqual([(m.id, m.value("density")) for m in materials], [("pvc80", 75.0)])
        self.assertEqual(materials[0].value("G13"), LIB["pvc80"].value("G13"))
        self.assertEqual([error.line for error in errors], [3, 4, 5, 6, 7, 8, 10, 11])
        for error, part in zip(errors, ("fit", "twice", "short name", "lacks", "no property", "no source", "cells",
                                        "number"), strict=True):  # fmt: skip
            self.assertIn(part, str(error))

    def test_other_files(self) -> None:
        for data, part in ((b"", "heading lacks"), (b"a;b\n", "heading lacks"), (b"\xff\xfe", "UTF-8"),
                           (b"x" * 20_000_001, "more than"), (b'material,"prop\n', "comma-separated")):  # fmt: skip
            materials, errors = read_materials(data, "si", LIB)
            self.assertEqual(materials, [])
            self.assertIn(part, str(errors[0]))

    def test_a_cloth_states_its_build_and_a_ply_its_recipe(self) -> None:
        head = "material,name,kind,family,property,value,unit,build,recipe"
        lines = [
            head,
            "c-mine,Mine,cloth,carbon,fibre_areal_mass,220,g/m²,multiaxial f-carbon-sm 30/-30,",
            "c-mine,,,,crimp,1,,,",
            "c-two,Two,cloth,carbon,fibre_areal_mass,188,g/m²,twill f-carbon-sm+f-aramid:0/1,",
            "c-two,,,,crimp,0.93,,,",
            "c-odd,Odd,cloth,carbon,fibre_areal_mass,220,g/m²,knitted f-carbon-sm,",
            "twill200,,,,E1,50,GPa,,c-twill200 ep-slow",
        ]
        materials, errors = read_materials("\n".join(lines).encode(), "si", LIB)
        self.assertEqual([m.build for m in materials if m.id == "c-mine"],
                         [Build("multiaxial", "f-carbon-sm", (30.0, -30.0))])  # fmt: skip
        self.assertEqual([error.line for error in errors], [6, 7])
        hybrid = next(m for m in materials if m.id == "c-two")
        self.assertEqual(hybrid.build, Build("twill", "f-carbon-sm", (), "f-aramid", (0.0, 1.0)))
        again, problems = read_materials(write_materials([hybrid], "si"), "si", LIB)
        self.assertEqual((again[0].build, problems), (hybrid.build, []))
        self.assertIn("architecture and fibre", str(errors[0]))
        self.assertIn("cloth, resin and process", str(errors[1]))

    def test_thousands_of_lines(self) -> None:
        lines = [HEADING]
        lines += [f"foam{i},Foam {i},,,density,{60 + i % 100},kg/m³,datasheet," for i in range(5000)]
        materials, errors = read_materials("\n".join(lines).encode(), "si", LIB)
        self.assertEqual((len(materials), len(errors)), (0, 5000))

    @given(st.text('apvc80, \r\n"density.kgm/³tested', max_size=200))
    @settings(deadline=None, max_examples=100)
    def test_whatever_stands_in_a_file(self, text: str) -> None:
        materials, errors = read_materials(f"{HEADING}\n{text}".encode("utf-8", "replace"), "si", LIB)
        self.assertTrue(materials or errors or not text.strip(', \r\n\t"'))


if __name__ == "__main__":
    unittest.main()
