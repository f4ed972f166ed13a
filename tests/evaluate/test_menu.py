"""The menu against judging every combination in full, and against the textbook's lightest sandwich for stiffness."""

from __future__ import annotations

import itertools
import unittest
from functools import cache
from unittest import mock

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.sizing import combinations
from omakase.evaluate.sizing.combinations import MenuChoices, Space, choices_of
from omakase.evaluate.sizing.menu import MenuSearch, as_candidate
from omakase.evaluate.sizing.menu_state import Menu
from omakase.evaluate.sizing.workers import Workers
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import stated_materials
from omakase.project.model import Brief, Limits, LoadCase, find_candidate
from omakase.project.panels import PanelMember, PressureLoad
from tests.support import lightly_loaded

DEMO = demo_project()
PROJECT = replace(DEMO, briefs=(*DEMO.briefs[:2], lightly_loaded(DEMO.briefs[2])))  # the plank is quick to judge then
MATERIALS = stated_materials(PROJECT)  # as bought, without the shop's rates
BRIEF, PLANK = PROJECT.briefs[0], PROJECT.briefs[2]
SMALL = MenuChoices(
    ("twill200", "ud200"), ("pvc80", "hc48"), (0.0, 45.0), 1, 1, thicknesses=(0.006, 0.015), matters=("mass", "cost")
)

WIDE = MenuChoices(("ud200",), ("pvc80", "hc48"), (0.0, 90.0), 1, 2, thicknesses=(0.01, 0.03), matters=("mass", "cost"))

SHEARS = {"G13": 1000.0, "G23": 1000.0, "resin_uptake": 0.0}  # a core that shears and absorbs nothing


def last(brief: Brief, choices: MenuChoices, workers: Workers | None = None) -> Menu:
    menu = Menu(0)
    for menu in MenuSearch(brief, choices, MATERIALS, Evaluator()).run(workers):  # noqa: B007 - the last one counts
        pass
    return menu


@cache
def plank_menu() -> Menu:
    return last(PLANK, WIDE)


def own_ply(name: str, share: float) -> Material:
    """A cloth much the same but thinner or thicker."""
    twill = MATERIALS["twill200"]
    areal = twill.properties["fibre_areal_mass"]
    properties = {**twill.properties, "fibre_areal_mass": msgspec.structs.replace(areal, value=areal.value * share)}
    return msgspec.structs.replace(twill, id=name, properties=properties)


class Search(unittest.TestCase):
    def test_the_front_by_judging_every_combination(self) -> None:
        choices = replace_choices(
            SMALL, skins=("twill200", "spread100"), thicknesses=(0.012, 0.015)
        )  # they move little
        menu = last(BRIEF, choices)
        evaluator = Evaluator()
        space = Space(BRIEF, choices, MATERIALS)
        judged = []
        for batch in space.batches():
            for a, b, core, size in zip(batch.face_a, batch.face_b, batch.core, batch.thickness, strict=True):
                candidate = space.candidate(int(a), int(b), int(core), float(size))
                result = evaluator.evaluate(BRIEF, candidate, MATERIALS)
                if result.passes:
                    price = sum(
                        MATERIALS[la.material].value("price") if la.role == "ply"
                        else MATERIALS[la.material].value("price_volume") * (la.thickness or 0.0)
                        for la in candidate.layers
                    )  # fmt: skip
                    judged.append((result.mass, price * BRIEF.member.length * BRIEF.member.width))
        front = {
            (round(m, 7), round(p, 7))
            for m, p in judged
            if not any((x <= m + 1e-9 and y <= p + 1e-9) and (x < m - 1e-9 or y < p - 1e-9) for x, y in judged)
        }
        self.assertGreater(len(front), 1)
        found = {(round(d.outcome.mass, 7), round(d.values[1], 7)) for d in menu.dishes}
        self.assertLessEqual(front, found)
        self.assertTrue(menu.complete)
        self.assertTrue(all(dish.outcome.passes for dish in menu.dishes))
        titles = {title: dish for dish in menu.dishes for title in dish.titles}
        self.assertAlmostEqual(titles["lightest"].outcome.mass, min(m for m, _ in judged), places=9)
        self.assertEqual(set(titles), {"lightest", "cheapest", "thinnest", "simplest", "most robust"})

    def test_every_combination_is_accounted_for(self) -> None:
        menu = last(PLANK, replace_choices(SMALL, balanced=True, materials=2, most=2))
        before = sum(n for reason, n in menu.excluded.items() if not reason.startswith("judged"))
        self.assertEqual(menu.total, before + menu.left)

    def test_the_same_search_gives_the_same_result_on_workers(self) -> None:
        workers = Workers(2)
        self.addCleanup(workers.close)
        there, here = (
            [(d.titles, d.candidate.layers, round(d.outcome.share, 6)) for d in menu.dishes]
            for menu in (last(PLANK, WIDE, workers), plank_menu())
        )
        self.assertEqual(there, here)

    def test_a_cancelled_search_ends_with_what_it_has(self) -> None:
        seen = []
        search = MenuSearch(PLANK, WIDE, MATERIALS, Evaluator(), lambda: any(menu.judged for menu in seen))
        for menu in search.run():
            seen.append(menu)
        self.assertFalse(seen[-1].complete)
        self.assertIn("not finished", seen[-1].proof)

    def test_where_nothing_passes_the_least_bad_say_what_blocks_them(self) -> None:
        impossible = replace(PLANK, limits=replace(PLANK.limits, deflection=1e-6))
        menu = last(impossible, SMALL)
        self.assertEqual(menu.dishes, ())
        self.assertTrue(menu.least_bad)
        self.assertIn("Deflection", menu.least_bad[0].outcome.governs)
        shares = [dish.outcome.share for dish in menu.least_bad]
        self.assertEqual(shares, sorted(shares, reverse=True))

    def test_where_all_fail_when_judged_the_least_bad_are_those(self) -> None:
        """A band that forbids every frequency is nothing that the screen looks at."""
        impossible = replace(PLANK, limits=Limits(frequency_band=(1.0, 1e4)))
        search = MenuSearch(impossible, replace_choices(WIDE, most=1), MATERIALS, Evaluator())
        for menu in search._run(None):  # noqa: B007 - the last one, before more is allowed
            pass
        self.assertEqual(menu.left, menu.judged)
        self.assertEqual(menu.dishes, ())
        self.assertTrue(menu.least_bad)
        self.assertIn("band", menu.least_bad[0].outcome.governs)
        self.assertIn("judged: forbidden band", menu.excluded)

    def test_where_nothing_passes_more_is_allowed_and_said(self) -> None:
        """Cores too thin for the plank: thicker ones of the same kinds pass, and the menu leads there."""
        thin = replace_choices(SMALL, cores=("pvc80",), thicknesses=(0.003, 0.005))
        with (
            mock.patch.object(combinations, "WIDER_SKINS", ("twill200",)),
            mock.patch.object(combinations, "WIDER_CORES", ("pvc80",)),
            mock.patch.object(combinations, "WIDER_PLIES", 1),
        ):
            search = MenuSearch(PLANK, thin, MATERIALS, Evaluator())
            menus = list(search.run())
        first = [menu for menu in menus if not menu.note][-1]
        self.assertEqual((first.dishes, first.complete), ((), True))
        self.assertTrue(menus[-1].dishes)
        self.assertIn("Nothing passes with what was allowed", menus[-1].note)
        self.assertTrue(all(dish.outcome.passes for dish in menus[-1].dishes))
        self.assertEqual(search.choices, thin)

    def test_rules(self) -> None:
        outside = Space(BRIEF, replace_choices(SMALL, outside_45=True), MATERIALS)
        self.assertTrue(all(face[0].angle == 45.0 for face in outside.top))
        metal = replace_choices(SMALL, cores=("alhc50",), skins=("twill200", "gsatin300"))
        space = Space(BRIEF, metal, MATERIALS)
        inner = {space.top[a][-1].material for batch in space.batches() for a in batch.face_a}
        self.assertEqual(inner, {"gsatin300"})
        self.assertGreater(space.excluded["carbon on a metal core"], 0)

    def test_hours_go_with_the_layers(self) -> None:
        menu = last(PLANK, replace_choices(WIDE, matters=("hours", "mass")))
        simplest = next(dish for dish in menu.dishes if "simplest" in dish.titles)
        area = PLANK.member.length * PLANK.member.width
        count = len(simplest.candidate.layers) - 1
        self.assertAlmostEqual(simplest.values[0], (count + 2.0) * (0.15 + 0.4 * area))
        self.assertEqual(simplest.values[0], min(dish.values[0] for dish in menu.dishes))

    def test_bad_choices_are_refused(self) -> None:
        for change, word in (
            ({"skins": ("nothing",)}, "nothing"), ({"cores": ()}, "at least one"),
            ({"outside_45": True, "angles": (0.0,)}, "rules"), ({"thicknesses": (0.5, 0.6)}, "sold"),
        ):  # fmt: skip
            with self.subTest(change=change), self.assertRaisesRegex(OmakaseError, word):
                list(MenuSearch(BRIEF, replace_choices(SMALL, **change), MATERIALS, Evaluator()).run())

    def test_what_is_taken_is_a_candidate_with_its_origin(self) -> None:
        dish = plank_menu().dishes[0]
        command, identity = as_candidate(dish, PLANK, "c2")
        after = command.apply(PROJECT).briefs[2]
        self.assertIn("lightest", find_candidate(after, identity).origin)
        self.assertTrue(Evaluator().evaluate(after, find_candidate(after, identity), MATERIALS).passes)
        self.assertEqual(command.revert(command.apply(PROJECT)), PROJECT)

    def test_choices_to_begin_with_come_from_the_candidates(self) -> None:
        choices = choices_of(BRIEF, MATERIALS)
        self.assertEqual(choices.skins, ("twill200", "aramid170"))
        self.assertEqual(choices.cores, ("pvc80", "hc48"))


def replace_choices(choices: MenuChoices, **changes: object) -> MenuChoices:
    return msgspec.structs.replace(choices, **changes)


class Textbook(unittest.TestCase):
    def test_the_lightest_for_stiffness_has_a_core_twice_as_heavy_as_its_faces(self) -> None:
        """For thin faces and a core that shears little, D = E t d²/2 is reached with the least mass where
        ρ_c d = 2 · 2 ρ_f t: Allen, Analysis and Design of Structural Sandwich Panels (1969), chapter 11 (from memory);
        derived: d/dd (4 ρ_f D/(E d²) + ρ_c d) = 0.  The core's shear modulus is raised so that bending dominates."""
        core = MATERIALS["pvc200"]
        stiff = {
            key: msgspec.structs.replace(own, value=own.value * SHEARS.get(key, 1.0))
            for key, own in core.properties.items()
        }
        rigid = msgspec.structs.replace(core, id="rigid", properties=stiff, sold=())
        skins = {f"s{k}": own_ply(f"s{k}", 0.25 * 1.08**k) for k in range(40)}
        materials = {**MATERIALS, **skins, "rigid": rigid}
        sizes = tuple(float(t) for t in np.geomspace(0.008, 0.04, 41))
        member = PanelMember(2.0, 1.5)
        case = LoadCase("l1", "pressed", (PressureLoad(3000.0),))
        brief = Brief("b", "stiff", member, (case,), Limits(deflection=0.012))
        choices = MenuChoices(
            tuple(skins), ("rigid",), (0.0,), 1, 1, False, sizes, False, materials=2, matters=("mass",)
        )
        menu = Menu(0)
        for menu in MenuSearch(brief, choices, materials, Evaluator()).run():  # noqa: B007 - the last one counts
            pass
        best = next(dish for dish in menu.dishes if "lightest" in dish.titles)
        core_mass = rigid.value("density") * best.candidate.layers[1].thickness
        ratio = core_mass / (best.outcome.areal_mass - core_mass)
        self.assertIn("Deflection", best.outcome.governs)
        self.assertAlmostEqual(ratio, 2.0, delta=0.25)
        self.assertTrue(menu.enumerated)
        self.assertEqual(menu.total, len(list(itertools.product(skins, sizes))))


if __name__ == "__main__":
    unittest.main()
