"""Flat pieces, rolls, resin, calendars, cost and ledgers against geometry by hand, other libraries and cited
sources."""

from __future__ import annotations

import math
import random
import unittest
from itertools import pairwise

import networkx
import numpy as np
import pyclipper
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st

from omakase.core.build.calendar import Operation, Shift, in_order, saved_by_moulds, schedule
from omakase.core.build.cost import Rates, learnt, price, sensitivity
from omakase.core.build.errors import BuildError
from omakase.core.build.ledger import coupon_to_part, tally
from omakase.core.build.masses import MassRow, Weighing, explained, in_state, scatter, total
from omakase.core.build.nesting import Layout, lay_out
from omakase.core.build.pieces import (
    Piece,
    cut_to_fit,
    from_widths,
    mirrored,
    oval,
    rectangle,
    shoelace,
    turned,
    with_trim,
    within,
    without,
)
from omakase.core.build.resin import Demand, Mix, largest_batch, plan_batches, pot_life_at
from omakase.core.build.vacuum import leak_conductance, leak_down
from omakase.devices.gauge import SimulatedGauge

GRID = 1e7  # pyclipper works on whole numbers: 0.1 µm
ROUND_THE_CLOCK = Shift(0.0, 24.0, tuple(range(7)))


def whole(outline: np.ndarray) -> list[tuple[int, int]]:
    return [(round(x * GRID), round(y * GRID)) for x, y in outline]


def common_area(first: np.ndarray, second: np.ndarray) -> float:
    """m² that two polygons share, by pyclipper."""
    clipper = pyclipper.Pyclipper()
    clipper.AddPath(whole(first), pyclipper.PT_SUBJECT, True)
    clipper.AddPath(whole(second), pyclipper.PT_CLIP, True)
    shared = clipper.Execute(pyclipper.CT_INTERSECTION, pyclipper.PFT_NONZERO, pyclipper.PFT_NONZERO)
    return sum(abs(pyclipper.Area(path)) for path in shared) / GRID**2


def random_pieces(chance: random.Random, width: float) -> list[Piece]:
    """Rectangles, ovals, tapers and polygons with a bay, at common angles, none wider than the roll."""
    pieces = []
    for _ in range(chance.randint(1, 12)):
        long, wide = chance.uniform(0.05, 0.6) * width, chance.uniform(0.03, 0.6) * width
        outline = chance.choice((
            rectangle(long, wide), oval(long, wide),
            from_widths([0.0, long / 2.0, long], [wide, wide * chance.uniform(0.2, 1.0), wide * chance.random()]),
            np.array([[0.0, 0.0], [long, 0.0], [long, wide], [long / 2.0, wide / 3.0], [0.0, wide]]),
        ))  # fmt: skip
        pieces.append(Piece(outline, chance.choice((0.0, 90.0, 45.0, -45.0, 30.0))))
    return pieces


class Pieces(unittest.TestCase):
    def test_areas_and_trim_by_hand(self) -> None:
        self.assertAlmostEqual(Piece(rectangle(0.62, 0.44)).area, 0.2728)
        trapezoid = from_widths([0.0, 1.5], [0.2, 0.1])
        self.assertAlmostEqual(shoelace(trapezoid), 1.5 * 0.15)
        self.assertAlmostEqual(shoelace(oval(0.5, 0.3)), math.pi / 4.0 * 0.15, places=12)
        grown = with_trim(Piece(rectangle(0.62, 0.44)), 0.02)
        self.assertAlmostEqual(grown.area, 0.66 * 0.48)
        holed = Piece(rectangle(0.4, 0.3), holes=(rectangle(0.1, 0.1, 0.1, 0.1),))
        self.assertAlmostEqual(holed.area, 0.12 - 0.01)
        self.assertAlmostEqual(with_trim(holed, 0.01).area, 0.42 * 0.32 - 0.08 * 0.08)
        self.assertEqual(with_trim(holed, 0.06).holes, ())  # closed by its trim

    def test_trim_of_any_polygon_equals_an_independent_offset(self) -> None:
        """Against pyclipper's mitred offset."""
        for outline in (from_widths([0.0, 0.7, 1.5], [0.2, 0.24, 0.1]), turned(rectangle(0.3, 0.2), 30.0)):
            offset = pyclipper.PyclipperOffset(2.5)
            offset.AddPath(whole(outline), pyclipper.JT_MITER, pyclipper.ET_CLOSEDPOLYGON)
            expected = sum(abs(pyclipper.Area(path)) for path in offset.Execute(0.02 * GRID)) / GRID**2
            self.assertAlmostEqual(with_trim(Piece(outline), 0.02).gross, expected, places=6)

    def test_a_mirrored_piece_lies_as_the_cloth_with_its_face_down(self) -> None:
        piece = Piece(from_widths([0.0, 1.0], [0.3, 0.1]) + np.array([0.0, 0.1]), 30.0)
        other = mirrored(piece)
        self.assertEqual(other.grain, -30.0)
        self.assertAlmostEqual(other.area, piece.area)
        np.testing.assert_allclose(mirrored(other).outline, piece.outline)

    def test_strips_cover_the_piece_and_overlap_by_the_splice(self) -> None:
        """A 2 m × 1 m ply at 0° on a roll of 0.4 m: (1 − 0.03)/(0.4 − 0.03) = 2.6, so three strips, each 1.02/3 +
        0.02."""
        parts = cut_to_fit(Piece(rectangle(2.0, 1.0)), 0.4, 0.03)
        self.assertEqual(len(parts), 3)
        for part in parts:
            self.assertAlmostEqual(part.size[1], (1.0 + 2 * 0.03) / 3.0)
        lows = sorted(float(part.outline[:, 1].min()) for part in parts)
        for low, after in pairwise(lows):
            self.assertAlmostEqual(low + parts[0].size[1] - after, 0.03)
        bias = cut_to_fit(Piece(rectangle(2.0, 1.0), 45.0), 0.4, 0.0)
        self.assertAlmostEqual(sum(part.area for part in bias), 2.0)
        with self.assertRaises(BuildError):
            cut_to_fit(Piece(rectangle(2.0, 1.0)), 0.4, 0.5)
        foam = Piece(rectangle(0.3, 1.5), turns=(0.0, 90.0, 180.0, 270.0))
        self.assertEqual(cut_to_fit(foam, 1.22, 0.0, 2.44), [foam])  # it fits when it is turned
        self.assertEqual(len(cut_to_fit(Piece(rectangle(0.3, 1.5)), 1.22, 0.0, 2.44)), 2)

    def test_cuts_with_holes_keep_their_areas(self) -> None:
        base, hole = rectangle(1.0, 0.5), rectangle(0.2, 0.1, 0.4, 0.2)
        ((outline, holes),) = without(base, [hole])
        self.assertAlmostEqual(shoelace(outline) - sum(map(shoelace, holes)), 0.48)
        ((outline, _),) = within(base, [rectangle(0.4, 0.4, 0.8, 0.3)])
        self.assertAlmostEqual(shoelace(outline), 0.2 * 0.2)


class Rolls(unittest.TestCase):
    def check(self, pieces: list[Piece], layout: Layout, spacing: float) -> None:
        self.assertEqual(sorted(own.index for own in layout.placed), list(range(len(pieces))))
        lying: dict[int, list[np.ndarray]] = {}
        for placed in layout.placed:
            piece = pieces[placed.index]
            # the warp runs along the roll, one way or the other
            self.assertIn(round((placed.turn + piece.grain) % 360.0, 6) % 360.0, piece.turns)
            outline = placed.outline(piece)
            self.assertAlmostEqual(shoelace(outline), piece.gross, places=9)
            self.assertGreaterEqual(outline.min(), -1e-9)
            self.assertLessEqual(outline[:, 1].max(), layout.width + 1e-9)
            self.assertLessEqual(outline[:, 0].max(), layout.length + 1e-9)
            low, high = outline.min(axis=0), outline.max(axis=0)
            for other in lying.get(placed.sheet, []):
                apart = (other.min(axis=0) >= high + spacing).any() or (low >= other.max(axis=0) + spacing).any()
                if not apart:
                    self.assertLess(common_area(outline, other), 1e-9)
            lying.setdefault(placed.sheet, []).append(outline)
        self.assertGreaterEqual(layout.bought, layout.area * (1.0 - 1e-9))  # no layout beats the area bound

    def test_a_thousand_random_jobs(self) -> None:
        """No piece overlaps another or leaves the roll or sheet, and each keeps its warp; judged by pyclipper."""
        chance = random.Random(5)
        for _ in range(1000):
            width = chance.choice((0.3, 0.5, 1.0, 1.27))
            spacing, sheet = chance.choice((0.0, 0.004, 0.01)), chance.choice((0.0, 0.0, 2.4))
            pieces = random_pieces(chance, width)
            self.check(pieces, lay_out(pieces, width, spacing, 1, sheet), spacing)

    def test_what_fits_exactly_wastes_nothing(self) -> None:
        """Four 0.5 m squares on a roll of 1 m take 1 m; two right triangles of one square are one square."""
        layout = lay_out([Piece(rectangle(0.5, 0.5)) for _ in range(4)], 1.0)
        self.assertAlmostEqual(layout.length, 1.0)
        self.assertAlmostEqual(layout.used, 1.0)
        triangle = np.array([[0.0, 0.0], [0.4, 0.0], [0.0, 0.4]])
        pair = lay_out([Piece(triangle), Piece(triangle)], 0.4)
        self.assertLess(pair.length, 0.4 * 1.03)  # rows of 2 mm cost a little

    def test_bias_wastes_about_a_third(self) -> None:
        """A square at 45° alone on a roll as wide as its diagonal fills half of it."""
        layout = lay_out([Piece(rectangle(0.5, 0.5), 45.0)], 0.5 * math.sqrt(2.0))
        self.assertAlmostEqual(layout.used, 0.5, places=6)
        many = lay_out([Piece(rectangle(0.5, 0.5), 45.0) for _ in range(8)], 1.27, 0.005)
        self.assertTrue(0.55 < many.used < 0.8, many.used)

    def test_the_same_job_is_laid_out_the_same_way(self) -> None:
        pieces = random_pieces(random.Random(3), 1.0)
        first, second = lay_out(pieces, 1.0, 0.005), lay_out(pieces, 1.0, 0.005)
        self.assertEqual(first.placed, second.placed)
        self.assertLessEqual(first.length, lay_out(pieces, 1.0, 0.005, 0).length)

    def test_sheets_are_opened_when_the_last_is_full(self) -> None:
        layout = lay_out([Piece(rectangle(1.0, 1.0)) for _ in range(3)], 1.0, 0.0, 5, 2.0)
        self.assertEqual(layout.sheets, 2)
        self.assertAlmostEqual(layout.bought, 3.0)
        self.assertAlmostEqual(layout.offcut, 1.0)

    def test_what_fits_in_no_way_is_told(self) -> None:
        for pieces, width in (([Piece(rectangle(0.5, 0.5))], 0.4), ([Piece(rectangle(0.5, 0.5))], 0.0)):
            with self.assertRaises(BuildError) as caught:
                lay_out(pieces, width)
            self.assertEqual(caught.exception.field, "width")


class Resin(unittest.TestCase):
    MIX = Mix(0.3, 0.36, 3000.0, 0.3)

    @given(
        st.floats(0.0, 5.0), st.floats(0.0, 1.0), st.floats(0.0, 1.0), st.floats(0.0, 0.5), st.floats(0.1, 30.0),
        st.floats(283.0, 308.0), st.floats(60.0, 1800.0), st.floats(0.0, 0.02),
    )  # fmt: skip
    def test_mass_is_kept(
        self, laminate: float, core: float, consumables: float, tools: float, area: float, temperature: float,
        wetting: float, loss: float,
    ) -> None:  # fmt: skip
        demand = Demand(laminate, core, consumables, tools, area)
        try:
            plan = plan_batches(demand, self.MIX, temperature, 1.0 / wetting, 0.7, loss)
        except BuildError as error:
            self.assertIn(error.field, ("cup_loss", "wetting", "largest_cup"))  # too small a cup, too many of them
            return
        self.assertAlmostEqual(plan.mixed, demand.total + plan.cups + plan.rounding, places=9)
        self.assertTrue(-1e-9 <= plan.rounding <= 1.001e-3 * max(len(plan.batches), 1))
        for batch in plan.batches:
            self.assertAlmostEqual(batch.hardener / batch.resin, 0.3)
            self.assertLessEqual(batch.total, 0.3 + 1.001e-3)

    def test_pot_life_halves_for_ten_degrees(self) -> None:
        """Common practice, no source; Arrhenius' rule with 55 kJ/mol gives the same within 15 % from 15 to 35 °C."""
        self.assertAlmostEqual(pot_life_at(3000.0, 306.15), 1500.0)
        self.assertAlmostEqual(pot_life_at(3000.0, 286.15), 6000.0)
        self.assertAlmostEqual(pot_life_at(3000.0, 296.15, 0.4), 1500.0)
        for temperature in (288.15, 308.15):
            arrhenius = 3000.0 * math.exp(55e3 / 8.314 * (1.0 / temperature - 1.0 / 296.15))
            self.assertAlmostEqual(pot_life_at(3000.0, temperature) / arrhenius, 1.0, delta=0.15)

    def test_the_largest_batch_is_used_up_within_its_pot_life(self) -> None:
        slow = Mix(0.3, 0.36, 3000.0, 10.0)
        most, limit = largest_batch(slow, 296.15, 1.0 / 600.0, 0.2, 0.7)
        self.assertEqual(limit, "pot life")
        self.assertAlmostEqual(most / (0.2 / 600.0), 0.7 * pot_life_at(3000.0, 296.15, most), places=6)
        self.assertEqual(largest_batch(self.MIX, 296.15, 1.0, 1.0, 0.7), (0.3, "largest safe cup"))

    def test_a_pot_life_of_zero_is_told_at_its_field(self) -> None:
        for change, field in ((Mix(0.3, 0.3, 0.0, 0.3), "pot_life"), (Mix(0.3, 0.3, 3000.0, 0.0), "largest_cup")):
            with self.assertRaises(BuildError) as caught:
                plan_batches(Demand(1.0, area=1.0), change, 296.15, 0.01, 0.7, 0.0)
            self.assertEqual(caught.exception.field, field)


class Calendars(unittest.TestCase):
    def random_operations(self, chance: random.Random, moulds: bool = False) -> list[Operation]:
        operations = []
        for i in range(chance.randint(1, 22)):
            after = tuple(f"o{j}" for j in range(i) if chance.random() < 0.2)
            mould = chance.choice(("", "a", "b")) if moulds else ""
            operations.append(
                Operation(f"o{i}", f"work {i}", chance.uniform(0.0, 6.0),
                          chance.choice((0.0, chance.uniform(0.0, 30.0))),
                          chance.randint(1, 2), after, mould)
            )  # fmt: skip
        chance.shuffle(operations)
        return operations

    def test_elapsed_time_is_the_longest_path(self) -> None:
        """With people and moulds enough, round the clock, against networkx's longest path."""
        chance = random.Random(11)
        for _ in range(200):
            operations = self.random_operations(chance)
            graph = networkx.DiGraph()
            for own in operations:
                graph.add_edge(f"{own.name} start", f"{own.name} end", weight=own.hours + own.wait)
                for name in own.after:
                    graph.add_edge(f"{name} end", f"{own.name} start", weight=0.0)
            expected = networkx.dag_longest_path_length(graph, "weight")
            plan = schedule(operations, ROUND_THE_CLOCK, 10_000, {})
            self.assertAlmostEqual(plan.elapsed, expected, places=6)
            marked = [slot for slot in plan.slots if slot.critical]
            self.assertAlmostEqual(sum(slot.end - slot.start for slot in marked), expected, places=6)

    def test_nobody_is_in_two_places_and_no_mould_holds_two_parts(self) -> None:
        chance = random.Random(12)
        shift = Shift(8.0, 8.0, (0, 1, 2, 3, 4), 2)
        for _ in range(100):
            operations = self.random_operations(chance, True)
            plan = schedule(operations, shift, 3, {"a": 1, "b": 2})
            ends = {slot.operation.name: slot.end for slot in plan.slots}
            for slot in plan.slots:
                self.assertTrue(all(ends[name] <= slot.start + 1e-6 for name in slot.operation.after))
                worked = sum(high - low for low, high in shift.stretches(slot.start, slot.worked))
                self.assertAlmostEqual(worked, slot.operation.hours, places=6)
                moment = slot.start + 1e-7
                if slot.operation.hours > 1e-6:
                    busy = sum(own.operation.people for own in plan.slots if own.start <= moment < own.worked)
                    self.assertLessEqual(busy, 3)
                for mould, count in (("a", 1), ("b", 2)):
                    taken = [
                        own for own in plan.slots if own.operation.mould == mould and own.start <= moment < own.end
                    ]
                    self.assertLessEqual(len(taken), count)

    def test_two_skins_in_one_mould_and_a_closing_bond(self) -> None:
        """By hand: each skin 2 h and 20 h of cure in the one mould, then 1 h of bond: 2 + 20 + 2 + 20 + 1 h; with a
        second mould and hands for both 2 + 20 + 1 h."""
        skins = [Operation(f"s{i}", f"skin {i}", 2.0, 20.0, 1, (), "skin") for i in range(2)]
        works = [*skins, Operation("bond", "bond", 1.0, 0.0, 2, ("s0", "s1"))]
        self.assertAlmostEqual(schedule(works, ROUND_THE_CLOCK, 2, {}).elapsed, 45.0)
        self.assertAlmostEqual(saved_by_moulds(works, ROUND_THE_CLOCK, 2, {})["skin"], 22.0)
        self.assertAlmostEqual(schedule(works, ROUND_THE_CLOCK, 2, {}).hands_on, 6.0)

    def test_hands_rest_at_night_and_cures_do_not(self) -> None:
        """Friday 14:00, 4 h of work: two hours on Friday, two on Monday to 10:00; a cure runs through the weekend."""
        shift = Shift(8.0, 8.0, (0, 1, 2, 3, 4), 4)
        plan = schedule([Operation("a", "a", 4.0, 12.0)], shift, 1, {}, 14.0)
        self.assertAlmostEqual(plan.slots[0].worked, 3 * 24.0 + 10.0)
        self.assertAlmostEqual(plan.end, 3 * 24.0 + 22.0)
        cured = schedule([Operation("a", "a", 1.0, 60.0)], shift, 1, {}, 14.0)
        self.assertAlmostEqual(cured.end, 15.0 + 60.0)

    def test_a_mould_stays_taken_until_the_part_is_out(self) -> None:
        steps = []
        for i in range(2):
            steps += [Operation(f"lay {i}", "lay", 1.0, 10.0, 1, (), "m", f"out {i}"),
                      Operation(f"out {i}", "out", 1.0, 0.0, 1, (f"lay {i}",), "m")]  # fmt: skip
        plan = schedule(steps, ROUND_THE_CLOCK, 5, {})
        self.assertAlmostEqual(plan.elapsed, 24.0)

    def test_a_calendar_that_waits_for_itself_is_told(self) -> None:
        circle = [Operation("a", "lay up", 1.0, after=("b",)), Operation("b", "bond", 1.0, after=("a",))]
        with self.assertRaisesRegex(BuildError, "waits for itself: lay up → bond → lay up"):
            in_order(circle)
        with self.assertRaisesRegex(BuildError, "not there"):
            schedule([Operation("a", "a", 1.0, after=("z",))], Shift(), 1, {})
        with self.assertRaisesRegex(BuildError, "needs 3 people"):
            schedule([Operation("a", "a", 1.0, people=3)], Shift(), 2, {})
        with self.assertRaises(BuildError):
            Shift(8.0, 0.0)


class Cost(unittest.TestCase):
    def test_wrights_curve(self) -> None:
        """T. P. Wright, Journal of the Aeronautical Sciences 3 (1936) 122, from memory: the cumulative average falls to
        the same share each time the number doubles."""
        for count in (1, 3, 10, 64):
            self.assertAlmostEqual(learnt(2 * count, 0.8) / learnt(count, 0.8), 0.8)
        self.assertAlmostEqual(learnt(100, 0.85), 0.3397, places=3)  # usual table of the 85 % curve, from memory

    def test_a_price_by_hand(self) -> None:
        """100 of material, 10 h at 40, 5 % scrap, moulds of 1,000 over 10, 20 % overhead, 15 % margin, no learning:
        100 + 400 = 500; scrap 500 · 0.05/0.95 = 26.32; moulds 100; 626.32 · 1.2 · 1.15 = 864.32."""
        rates = Rates(40.0, 0.2, 0.15, 0.05, 1.0, 1000.0, 10)
        made = price(100.0, 10.0, rates)
        self.assertAlmostEqual(made.total, 864.3157894, places=5)
        self.assertAlmostEqual(price(100.0, 10.0, rates, 1).tooling, 1000.0)
        swings = sensitivity(100.0, 10.0, rates, 10)
        self.assertEqual(swings[0].what, "hours ±20 %")
        self.assertAlmostEqual(swings[0].high - made.total, 80.0 / 0.95 * 1.2 * 1.15, places=6)

    def test_bad_rates_are_told_at_their_field(self) -> None:
        for change in ({"hour": -1.0}, {"scrap": 1.0}, {"learning": 0.2}, {"parts": 0}):
            with self.assertRaises(BuildError) as caught:
                Rates(**{"hour": 1.0, **change})
            self.assertEqual(caught.exception.field, next(iter(change)))


class Weighed(unittest.TestCase):
    ROWS = (MassRow("cloth", "twill", 0.160), MassRow("resin", "in it", 0.120), MassRow("core", "foam", 0.200),
            MassRow("filler", "filler", 0.030), MassRow("paint", "paint", 0.040))  # fmt: skip

    def test_scatter_adds_within_a_kind_and_squares_between_kinds(self) -> None:
        double = (*self.ROWS, MassRow("resin", "more", 0.120))
        self.assertAlmostEqual(scatter([MassRow("resin", "a", 0.1), MassRow("resin", "b", 0.1)]), 0.02)
        expected = math.sqrt((0.16 * 0.02) ** 2 + (0.24 * 0.1) ** 2 + (0.2 * 0.05) ** 2 + (0.03 * 0.35) ** 2
                             + (0.04 * 0.3) ** 2)  # fmt: skip
        self.assertAlmostEqual(scatter(double), expected)

    def test_causes_add_up_to_the_difference(self) -> None:
        """+0.1 mm over 0.25 m² of resin at 1,150 kg/m³ is 28.75 g (ASTM D3171 for zero voids)."""
        trimmed = Weighing(0.520, "trimmed", 0.0107)
        found = explained(self.ROWS, trimmed, (), 0.0106, 1150.0, 0.25)
        self.assertAlmostEqual(found[0].mass, 0.1e-3 * 0.25 * 1150.0)
        self.assertAlmostEqual(sum(own.mass for own in found), 0.520 - total(in_state(self.ROWS, "trimmed")))
        painted = explained(self.ROWS, Weighing(0.640, "painted"), (trimmed,), 0.0106, 1150.0, 0.25)
        self.assertAlmostEqual(sum(own.mass for own in painted), 0.640 - total(self.ROWS))
        between = next(own for own in painted if own.what.startswith("filler"))
        self.assertAlmostEqual(between.mass, 0.640 - 0.520 - 0.070)

    def test_the_ledgers_interval_is_students(self) -> None:
        """Against scipy.stats' own interval of a mean."""
        ratios = [1.05, 1.04, 1.06, 1.08]
        found = tally(ratios)
        low, high = scipy.stats.t.interval(0.9, 3, np.mean(ratios), scipy.stats.sem(ratios))
        self.assertAlmostEqual(found.low, low)
        self.assertAlmostEqual(found.high, high)
        self.assertTrue(found.offers)
        self.assertFalse(tally([1.05, 1.06]).offers)  # too few
        self.assertFalse(tally([0.9, 1.15, 1.0]).offers)  # tells nothing

    def test_coupon_to_part_is_welchs_difference(self) -> None:
        """Scatter against the standard error of scipy's Welch test."""
        first, second = [5.02e-3, 5.07e-3, 4.98e-3], [5.61e-3, 5.78e-3, 5.5e-3, 5.71e-3]
        found = coupon_to_part(first, second, 2e-3, 2e-3, 0.3, 4)
        test = scipy.stats.ttest_ind(second, first, equal_var=False)
        error = (np.mean(second) - np.mean(first)) / test.statistic / 2e-3
        self.assertAlmostEqual(found.per_area_scatter, error)
        self.assertAlmostEqual(found.part, 0.3 * (np.mean(second) - np.mean(first)) / 2e-3)
        self.assertAlmostEqual(found.all_parts, 4.0 * found.part)
        with self.assertRaises(BuildError):
            coupon_to_part([5e-3], second, 2e-3, 2e-3, 0.3, 1)


class Vacuum(unittest.TestCase):
    def test_a_drop_test_by_hand(self) -> None:
        test = leak_down([0.0, 150.0, 300.0], [2500.0, 3300.0, 3900.0])
        self.assertAlmostEqual(test.lost, 1400.0)
        self.assertTrue(test.passes)
        short = leak_down([0.0, 60.0], [2500.0, 3000.0])  # 5 mbar in a minute is beyond 17 in five
        self.assertAlmostEqual(short.allowed, 340.0)
        self.assertFalse(short.passes)

    def test_a_leak_is_told_from_settling(self) -> None:
        """The simulated bag settles by 2.5 mbar; a leak of 11 Pa/s goes on rising, and its conductance comes back."""
        for leak, passes in ((0.8, True), (11.0, False)):
            gauge = SimulatedGauge(2500.0, leak)
            times = [30.0 * i for i in range(11)]
            test = leak_down(times, [gauge.read(t) for t in times])
            self.assertEqual(test.passes, passes)
            self.assertEqual(test.growing, not passes)
        self.assertAlmostEqual(leak_conductance(11.0, 0.01, 2500.0), 0.01 * 11.0 / 98825.0)

    def test_readings_that_cannot_be_are_told(self) -> None:
        for t, p in (([0.0], [2500.0]), ([0.0, 0.0], [1.0, 2.0]), ([0.0, 1.0], [1.0, -2.0]), ([0.0, 1.0], [1.0, 2e5]),
                     ([0.0, 1.0], [1.0, math.nan])):  # fmt: skip
            with self.assertRaises(BuildError):
                leak_down(t, p)


if __name__ == "__main__":
    unittest.main()
