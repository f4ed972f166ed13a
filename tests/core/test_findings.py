"""Rules that warn of a layup: each fires where it should and is silent beside it."""

from __future__ import annotations

import unittest

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import RULE_MODULES, all_rules, find_all
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.materials.cloth import make_ply
from omakase.core.materials.material import Material, Recipe
from omakase.core.materials.provenance import Sourced
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.evaluate.results.wording import finding_words
from omakase.project import translate
from omakase.project.library import shipped_materials
from omakase.project.model import Candidate
from omakase.project.quickline import read_quick_line

LIB = shipped_materials()


def stack(line: str) -> Stack:
    return translate.stack(Candidate("c", "c", read_quick_line(line, LIB)), LIB)


def rules(line: str) -> set[str]:
    return {finding.rule for finding in find_all(stack(line))}


def found(line: str, **where: object) -> dict[str, Finding]:
    """Findings by rule of a layup that works somewhere."""
    return {f.rule: f for f in find_all(stack(line), (), Surroundings(**where))}  # type: ignore[arg-type]


class Rules(unittest.TestCase):
    def fires_and_is_silent(self, cases: list[tuple[str, str, str]]) -> None:
        """Each rule finds something in the first layup and nothing of its kind in the second."""
        for rule, fires, silent in cases:
            with self.subTest(rule, line=fires):
                self.assertIn(rule, rules(fires))
                self.assertNotIn(rule, rules(silent))

    def test_registrations_are_complete(self) -> None:
        self.assertEqual(tuple(all_rules()), RULE_MODULES)
        for rule in all_rules().values():
            self.assertTrue(rule.summary and rule.basis)

    def test_each_where_it_should_and_not_beside_it(self) -> None:
        cases = [
            (
                "carbon_on_metal",
                "twill200 0 ; al6082 2 ; twill200 0",
                "twill200 0 ; satin300 0 ; al6082 2 ; satin300 0",
            ),
            ("carbon_on_metal", "twill200 0 ; core alhc50 10 ; twill200 0", "twill200 0 ; core hc48 10 ; twill200 0"),
            (
                "carbon_on_metal",
                "gtwill163 0 ; core alhc50 10 ; twill200 0",
                "twill200 0 ; gtwill163 0 ; core alhc50 10 ; gtwill163 0",
            ),
            ("one_axis", "ud200 5/0/-5", "ud200 0/0 ; twill200 45"),
            ("unsymmetric", "ud200 0/0/90/90", "ud200 0/90/90/0"),
            ("unsymmetric", "twill200 0/0 ; core pvc80 10 ; twill200 0", "twill200 0 ; core pvc80 10 ; twill200 0"),
            ("unbalanced", "ud200 0/30/0", "ud200 30/-30/-30/30"),
            ("stiff_on_wood", "twill200 0 ; ply-birch 6 ; twill200 0", "satin300 0 ; ply-birch 6 ; satin300 0"),
        ]
        self.fires_and_is_silent(cases)

    def test_where_the_part_works(self) -> None:
        """Service temperature against the wet glass transition less 28 K (guidance of CMH-17): a resin of 55 °C wet
        stands 27 °C wet, and 20 K more where it stays dry."""

        line = "twill200 0 ; core pvc80 10 ; twill200 0"
        for celsius, wet, hot in ((26.0, True, False), (28.0, True, True), (46.0, False, False), (48.0, False, True)):
            self.assertEqual("heat" in found(line, temperature=celsius + 273.15, wet=wet), hot, celsius)
        self.assertEqual(found(line, temperature=345.0)["heat"].layers, (0, 1, 2))  # the foam too, above 70 °C
        self.assertIn("aerial", found("twill200 0 ; gtwill163 0", aerial=True))
        self.assertIn("aerial", found("gtwill163 0 ; core alhc50 10 ; gtwill163 0", aerial=True))
        self.assertNotIn("aerial", found("gtwill163 0 ; core hc48 10 ; aramid170 0", aerial=True))
        self.assertNotIn("aerial", found("twill200 0 ; gtwill163 0"))
        self.assertIn("open_edge", found(line, open_edge=True))
        self.assertNotIn("open_edge", found("twill200 0/0", open_edge=True))

    def test_a_light_outer_ply_and_the_sides_of_a_satin(self) -> None:
        cases = [
            ("sanding_ply", "gplain50 0 ; twill200 0/0", "gplain50 0 ns ; twill200 0/0"),
            ("sanding_ply", "twill200 0/0 ; gplain50 45", "gplain50 0 ; gtwill163 0"),
            ("satin_sides", "satin4 0 ; satin4 0 turned", "twill200 0/0"),
            ("satin_sides", "satin4 0/0", "twill200 0/0"),
            ("satin_sides", "satin4 0 ; satin4 0 turned", "satin4 0 ; core pvc80 10 ; satin4 0"),
        ]
        self.fires_and_is_silent(cases)
        outward = next(f for f in find_all(stack("satin4 0 ; satin4 0 turned")) if f.rule == "satin_sides")
        self.assertIn("times as stiffly", outward.text)
        same = next(f for f in find_all(stack("satin4 0/0")) if f.rule == "satin_sides")
        self.assertIn("bows when", same.text)

    def test_bends_and_twist(self) -> None:
        # a twill of 0.25 mm (rating 4) goes round 2.5 mm, a tape of 0.2 mm (rating 2) only 9 mm
        self.assertEqual(found("twill200 0 ; ud200 0", radius=4e-3)["drape"].layers, (1,))
        self.assertNotIn("drape", found("twill200 0 ; ud200 0", radius=20e-3))
        self.assertNotIn("drape", found("ud200 0"))
        self.assertEqual(found("ud200 0/45/-45/0", twisted=True)["twist"].layers, (0, 3))
        self.assertEqual(found("ud200 45/0/0", twisted=True)["twist"].layers, (2,))
        self.assertNotIn("twist", found("ud200 45/0/-45", twisted=True))
        self.assertNotIn("twist", found("ud200 0/0"))
        self.assertNotIn("twist", found("al6082 2", twisted=True))

    def test_a_thickness_that_is_sold(self) -> None:
        between = found("twill200 0 ; core pvc80 11.3 ; twill200 0")["not_sold"]
        self.assertEqual(finding_words(between, "si")[1], "12 mm is the nearest thicker one")
        self.assertEqual(between.layers, (1,))
        self.assertNotIn("not_sold", rules("twill200 0 ; core pvc80 10.1 ; twill200 0"))
        thicker = found("twill200 0 ; core pvc80 70 ; twill200 0")["not_sold"]
        self.assertEqual(finding_words(thicker, "si")[1], "50.8 mm is the nearest thicker one")

    def test_numbers_are_told_in_the_readers_units(self) -> None:
        """344.26 K are 160 °F, 50.8 mm are 2 in (the inch is 25.4 mm by definition)."""
        everywhere = {
            **found("twill200 0/45 ; core pvc80 70 ; twill200 0", temperature=344.261, radius=1e-3),
            **found("ud200 0/0/90/90"),
        }
        told = {rule: finding_words(one, "inch_pound") for rule, one in everywhere.items()}
        self.assertIn("the part works at 160 °F", told["heat"][0])
        self.assertEqual(told["not_sold"][1], "2 in is the nearest thicker one")
        self.assertRegex(told["drape"][0], r"drapes around 0\.\d+ in,")
        self.assertRegex(told["unsymmetric"][0], r"39\.\d+ in of it rise by \d+\.\d+ in")
        for rule, one in everywhere.items():
            for units, foreign in (("si", r"\d in\b|°F"), ("inch_pound", r"\bmm\b|°C")):
                words = " ".join(finding_words(one, units))  # type: ignore[arg-type]
                self.assertNotRegex(words, r"[{}]", rule)
                self.assertNotRegex(words, foreign, rule)

    def test_the_layers_are_named(self) -> None:
        finding = next(f for f in find_all(stack("twill200 0 ; al6082 2 ; twill200 0")) if f.rule == "carbon_on_metal")
        self.assertEqual(finding.layers, (0, 1, 2))
        self.assertIn("layers 1, 2 and 3", finding.text)

    def test_the_bow_of_an_unsymmetric_strip(self) -> None:
        """A strip of two halves t with moduli E1 and E2, its middle stretched by ε and no moment: the curvature is
        3/2 (E1 − E2)/(E1 + E2) ε/t (composite beam, derived; Poisson's effect is under 3 % here)."""
        layup = stack("ud200 0/0/90/90")
        ply = LIB["ud200"]
        E1, E2, t = ply.value("E1"), ply.value("E2"), layup.thickness / 2.0
        curvature = 1.5 * (E1 - E2) / (E1 + E2) * 1e-3 / t
        finding = next(f for f in find_all(layup) if f.rule == "unsymmetric")
        measures = {measure.name: measure.value for measure in finding.measures}
        self.assertAlmostEqual(measures["rise"] / (curvature * measures["span"] ** 2 / 8.0), 1.0, delta=0.03)

    def test_ribbon_the_weak_way(self) -> None:
        strip = Panel(0.3, 0.9, Edges("simple", "simple", "free", "free"))
        for angle, expected in ((0.0, False), (90.0, True)):
            line = f"twill200 0 ; core hc48 12.7 @{angle:g} ; twill200 0"
            layup = stack(line)
            response = respond(strip, layup, (LoadCase("air", (30e3,)),))
            found = find_all(layup, run_all(response, Settings(), Limits()))
            self.assertEqual("ribbon" in {f.rule for f in found}, expected)
            calm = respond(strip, layup, (LoadCase("air", (300.0,)),))
            rules = {f.rule for f in find_all(layup, run_all(calm, Settings(), Limits()))}
            self.assertNotIn("ribbon", rules)  # with a hundred times the strength it is no news
            for finding in found:
                self.assertIn("turn the ribbon to 0°", finding.fix)

    def test_metal_honeycomb_by_what_it_states_and_not_by_its_name(self) -> None:
        """Spelt either way it is told; a core that states that it does not conduct is believed."""
        plain = {key: own for key, own in LIB["alhc50"].properties.items() if key != "conductive"}
        for name, properties, expected in (
            ("Aluminum honeycomb", plain, True),
            ("Foil honeycomb", LIB["alhc50"].properties, True),
            ("Aluminium-coloured paper honeycomb", plain | {"conductive": Sourced(0.0, "datasheet")}, False),
        ):
            core = Material("foil", name, "core", "honeycomb", properties)
            ply = Layer(LIB["twill200"], 0.0, 0.25e-3)
            layup = Stack((ply, Layer(core, 0.0, 0.01, "core"), ply))
            self.assertEqual("carbon_on_metal" in {f.rule for f in find_all(layup)}, expected)

    def test_a_mat_by_hand_is_not_called_rich(self) -> None:
        self.assertNotIn("resin_share", {f.rule for f in find_all(stack("gmat450 0/0"))})
        by_hand = make_ply(Recipe("g-mat450", "up", "one_to_one"), LIB, "m")
        self.assertGreater(by_hand.value("resin_mass_fraction"), 0.6)
        self.assertNotIn("resin_share", {f.rule for f in find_all(Stack((make_layer(by_hand),)))})

    def test_advice_on_satin_sides_does_not_go_in_circles(self) -> None:
        """Four plies that mirror each other, the inner pair turned by 90° as advised: nothing is left to say."""
        uneven = "satin4 0 ; satin4 0 ; satin4 0 turned ; satin4 0 turned"
        told = next(f for f in find_all(stack(uneven)) if f.rule == "satin_sides")
        self.assertIn("inner pair", told.fix)
        followed = "satin4 0 ; satin4 90 ; satin4 90 turned ; satin4 0 turned"
        self.assertEqual(find_all(stack(followed)), ())

    def test_resin_share(self) -> None:
        cloth = LIB["twill200"]
        for share, expected in ((0.2, True), (0.45, False), (0.7, True)):
            properties = cloth.properties | {"resin_mass_fraction": Sourced(share, "assumed")}
            other = Material("x", "x", "ply", "carbon", properties)
            layup = Stack((Layer(other, 0.0, 0.25e-3),))
            self.assertEqual("resin_share" in {f.rule for f in find_all(layup)}, expected)


if __name__ == "__main__":
    unittest.main()
