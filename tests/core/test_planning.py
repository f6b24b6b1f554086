"""Planning: proposals, orders, grids, effort and steps, on invented paints."""

import unittest
from itertools import pairwise
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from gelvet.core.card.blocks import APPLICATIONS, TESTS
from gelvet.core.card.builder import Design, SwatchLabel, build_card, capacity
from gelvet.core.card.mix_grid import build_mix_card, grid_columns
from gelvet.core.compare.comparability import SwatchRecord, obstacles
from gelvet.core.errors import LayoutError
from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
from gelvet.core.planning.arrange import ARRANGEMENTS, arrange
from gelvet.core.planning.effort import effort
from gelvet.core.planning.facts import PaintFacts, hue_of
from gelvet.core.planning.painting_order import painting_order
from gelvet.core.planning.propose import by_colour, colour_gaps, propose
from gelvet.core.planning.questions import QUESTIONS
from gelvet.core.planning.soaking import soak_seconds
from gelvet.core.planning.steps import bench_steps

CODES = ["PY150", "PO71", "PR254", "PV19", "PV23", "PB29", "PB15", "PG7", "PG18", "PBr7", "PBk9", "PY35", "PR101", "PB28"]


def paint(number: int, name: str = "", *codes: str, **more: Any) -> PaintFacts:
    return PaintFacts(id=number, maker=more.pop("maker", "Saltings Colour Works"), name=name or f"Paint {number}", pigments=codes, **more)


BOX = [paint(i, "", code) for i, code in enumerate(CODES, start=1)]


class Proposals(unittest.TestCase):
    def test_one_name_from_several_makers(self) -> None:
        stock = [paint(1, "Thrift", "PV19"), paint(2, "thrift", "PR122", maker="Tern & Tidewrack"), paint(3, "Squall", "PBk9")]
        self.assertEqual([p.paint for p in propose("which-maker", "Thrift", stock).paints], [1, 2])
        self.assertEqual(propose("which-maker", "", stock).paints, ())

    def test_one_pigment_alone_before_others_and_with_its_forms(self) -> None:
        stock = [paint(1, "", "PB15:3", "PG7"), paint(2, "", "PB15:3"), paint(3, "", "PB15"), paint(4, "", "PB29")]
        self.assertEqual([p.paint for p in propose("one-pigment", "PB15", stock).paints], [2, 3, 1])
        self.assertEqual([p.paint for p in propose("one-pigment", "PB15:3", stock).paints], [2, 1])

    def test_a_set_comes_in_its_own_order(self) -> None:
        stock = [paint(1, "", range="Dune box", place=2), paint(2, "", range="Dune box", place=1), paint(3, "", range="Shore box", place=1)]
        self.assertEqual([p.paint for p in propose("set-worth", "Saltings Colour Works · Dune box", stock).paints], [2, 1])

    def test_the_nearest_are_measured_before_they_are_guessed(self) -> None:
        stock = [
            paint(1, "", "PB29", masstone=(28, 20, -50), wash=(80, 3, -16)),
            paint(2, "", "PB28", masstone=(33, 8, -45), wash=(82, 0, -15)),
            paint(3, "", "PR254", masstone=(40, 60, 35), wash=(82, 20, 10)),
            paint(4, "", "PB29", "PV23"),
        ]
        found = propose("replacement", "1", stock).paints
        self.assertEqual([p.paint for p in found], [1, 2, 3, 4])
        self.assertIn("as measured", found[1].reason)
        self.assertIn("PB29", found[3].reason)

    def test_a_ring_spreads_round_the_circle_without_the_paint_itself(self) -> None:
        found = propose("in-mixes", "6", BOX)
        hues = [hue_of(BOX[p.paint - 1]) or 0 for p in found.partners]
        self.assertLessEqual(len(hues), 12)
        self.assertGreaterEqual(len(hues), 10)
        self.assertEqual(hues, sorted(hues))
        self.assertNotIn(6, [p.paint for p in found.partners])

    def test_a_mixed_colour_is_set_against_its_own_pigments(self) -> None:
        mixed = paint(90, "Samphire", "PG7", "PY150")
        found = propose("make-myself", "90", [*BOX, mixed])
        self.assertEqual([p.paint for p in found.paints], [8])
        self.assertEqual([p.paint for p in found.partners], [1, 90])
        self.assertEqual(propose("make-myself", "1", [BOX[0]]).paints, ())

    def test_sparkling_and_doubtful_paints_are_found_by_their_labels(self) -> None:
        stock = [paint(1, "", sparkles=True), paint(2, "", claims={"lightfastness": "III"}), paint(3, "", owned=False)]
        self.assertEqual([p.paint for p in propose("sparkle", "", stock).paints], [1])
        self.assertEqual([p.paint for p in propose("lasting", "", stock).paints], [2])
        self.assertEqual([p.paint for p in propose("buy-again", "", stock).paints], [1, 2])

    def test_every_question_proposes_without_fault_even_from_nothing(self) -> None:
        for question in QUESTIONS:
            for stock in ([], BOX):
                with self.subTest(question=question, stock=len(stock)):
                    for subject in ("", "1", "PB29", "nobody"):
                        found = propose(question, subject, stock)
                        ids = [p.paint for p in (*found.paints, *found.partners)]
                        self.assertEqual(len(ids), len(set(ids)))

    def test_colours_are_looked_up_by_their_distance(self) -> None:
        stock = [paint(1, masstone=(30, 20, -50)), paint(2, masstone=(80, 0, 70)), paint(3)]
        self.assertEqual([p for p, _ in by_colour((78, 2, 66), stock)], [2, 1])

    def test_gaps_in_a_box_are_told(self) -> None:
        only_blues = [paint(1, "", "PB29"), paint(2, "", "PG7")]
        self.assertTrue(any(b - a > 100 or b < a for a, b in colour_gaps(only_blues)))
        self.assertEqual(colour_gaps([]), [])


class Orders(unittest.TestCase):
    @given(st.lists(st.sampled_from(BOX), unique_by=lambda p: p.id), st.sampled_from(sorted(ARRANGEMENTS)))
    def test_an_order_keeps_every_paint_once(self, stock: list[PaintFacts], arrangement: str) -> None:
        self.assertEqual(sorted(arrange(stock, arrangement)), sorted(p.id for p in stock))

    def test_light_comes_before_dark_and_unknown_last(self) -> None:
        stock = [paint(1, "", "PBk9"), paint(2, "", "PY150"), paint(3), paint(4, "", "PR254")]
        self.assertEqual(arrange(stock, "lightness"), [2, 4, 1, 3])

    def test_first_pigment_orders_by_letter_then_number(self) -> None:
        stock = [paint(1, "", "PB29"), paint(2, "", "PY150"), paint(3, "", "PY35"), paint(4)]
        self.assertEqual(arrange(stock, "pigment"), [3, 2, 1, 4])

    def test_neighbours_by_likeness_are_nearer_than_chance(self) -> None:
        stock = [paint(i, masstone=(50 - i, 40 * (-1) ** i, 5 * i)) for i in range(8)]
        order = arrange(stock, "likeness")
        signs = [(-1) ** i for i in order]
        self.assertEqual(sum(a != b for a, b in pairwise(signs)), 1)

    def test_yellow_is_painted_first_staining_darks_late_and_sparkle_last(self) -> None:
        stock = [paint(1, "", "PB15"), paint(2, "", "PY150", sparkles=True), paint(3, "", "PY150"), paint(4, "", "PB29")]
        self.assertEqual(painting_order(stock), [3, 4, 1, 2])

    def test_an_unknown_order_is_refused(self) -> None:
        with self.assertRaises(KeyError):
            arrange(BOX, "moon")


class Soaking(unittest.TestCase):
    def test_tubes_wait_for_nothing_and_minerals_longest(self) -> None:
        self.assertEqual(soak_seconds(paint(1, "", "PB29", form="tube")), 0)
        self.assertEqual(soak_seconds(paint(1, "", "PB29", form="pan")), 60)
        self.assertGreaterEqual(soak_seconds(paint(1, "", "PBr7", form="pan")), 300)
        self.assertLessEqual(soak_seconds(paint(1, "", "PBr7", form="dry")), 600)


class Designs(unittest.TestCase):
    def test_every_application_with_every_test_fits_each_sheet_that_says_so(self) -> None:
        for application in APPLICATIONS:
            for tests in ((), ("hiding",), ("hiding", "lifting"), ("layers",), ("exposure",), tuple(TESTS)):
                design = Design(application, tests)
                for sheet in ("130x90", "A6", "A5", "A4", "A3", "250x180"):
                    with self.subTest(application=application, tests=tests, sheet=sheet):
                        self.one(sheet, design)

    def one(self, sheet: str, design: Design) -> None:
        try:
            bears = capacity(sheet, design)
        except LayoutError as problem:
            self.assertEqual((sheet, design.tests), ("130x90", tuple(TESTS)))
            self.assertRegex(str(problem), r"need \d lines")
            return
        layout = build_card("C", sheet, [SwatchLabel(str(i)) for i in range(bears)], design)
        layout_from_document(layout_to_document(layout), "it")
        rects = [z.rect for z in layout.zones]
        for i, rect in enumerate(rects):
            self.assertGreaterEqual(rect.x, 0)
            self.assertLessEqual(rect.right, layout.size_mm[0])
            self.assertFalse(any(rect.inset(1e-6).intersects(other) for other in rects[i + 1 :]))

    def test_one_paint_has_every_test_three_times_on_one_sheet_each_line_with_paper_of_its_own(self) -> None:
        plan = QUESTIONS["one-paint"]
        layout = build_card("C", plan.sheet, [SwatchLabel("Thrift")] * plan.replicates, Design(plan.application, plan.tests))
        for swatch in layout.swatches:
            kinds = {z.kind for z in layout.zones if z.swatch == swatch.id}
            wanted = {z.kind for test in plan.tests for z in TESTS[test].zones}
            self.assertEqual(kinds, wanted | {z.kind for z in APPLICATIONS[plan.application].zones})
        lines = {z.rect.y for z in layout.zones}
        self.assertEqual({z.rect.y for z in layout.zones_of("paper")}, lines)
        self.assertGreater(len(lines), len(layout.swatches))

    def test_lines_are_parted_so_that_none_is_crowded_for_the_other(self) -> None:
        layout = build_card("C", "A5", [SwatchLabel("a")], Design(tests=tuple(t for t in TESTS if t != "exposure")))
        first, second = (next(z for z in layout.zones if z.id == name) for name in ("S1.masstone", "S1.line2.paper"))
        self.assertLess(first.rect.y, second.rect.y)
        # Room that is spared shows in the zones: both lines give way by about the same share.
        [wide] = [z.rect.width for z in layout.zones if z.id == "S1.gradient"]
        [drop] = [z.rect.width for z in layout.zones if z.id == "S1.wet_drop"]
        self.assertLess(abs((60 - wide) / (60 - 28) - (17 - drop) / (17 - 12)), 0.35)

    def test_a_large_sheet_has_two_columns(self) -> None:
        layout = build_card("C", "A3", [SwatchLabel(str(i)) for i in range(20)])
        self.assertEqual(len({z.rect.x for z in layout.zones_of("masstone")}), 2)
        self.assertEqual(capacity("A3"), 2 * capacity("A4"))

    def test_odd_sheets_are_refused_in_a_sentence(self) -> None:
        for sheet, words in (("90x50", "at least 120"), ("2000x10", "no sheet"), ("950x400", "at most"), ("A9", "no sheet named A9")):
            with self.subTest(sheet=sheet), self.assertRaisesRegex(LayoutError, words):
                capacity(sheet)

    def test_a_frame_has_a_window_for_each_row_that_holds_all_its_zones(self) -> None:
        layout = build_card("C", "A5", [SwatchLabel("a"), SwatchLabel("b")], Design(framed=True))
        self.assertEqual(len(layout.extra["windows"]), 2)
        lined = build_card("C", "A4", [SwatchLabel("a"), SwatchLabel("b")], Design(tests=tuple(TESTS), framed=True))
        self.assertEqual(len(lined.extra["windows"]), len(lined.zones_of("paper")))
        x, y, width, height = layout.extra["windows"][0]
        for zone in layout.zones:
            if zone.id.startswith("S1."):
                self.assertTrue(x < zone.rect.x and zone.rect.right < x + width and y < zone.rect.y and zone.rect.bottom < y + height)


class MixGrids(unittest.TestCase):
    def labels(self, count: int) -> list[SwatchLabel]:
        return [SwatchLabel(f"P{i}") for i in range(count)]

    def test_one_paint_meets_a_ring_in_three_proportions(self) -> None:
        layout = build_mix_card("M", "A5", self.labels(1), self.labels(12))
        mixes = layout.zones_of("mix")
        self.assertEqual(len(mixes), 36)
        for zone in mixes:
            (own, share), (other, rest) = zone.extra["parts"]
            self.assertEqual((own, round(share + rest, 6)), ("S1", 1.0))
            self.assertNotEqual(other, "S1")
        self.assertEqual(len(layout.zones_of("masstone")), 13)
        self.assertEqual(len(layout.extra["heads"]), 12 + 3)
        document = layout_to_document(layout)
        self.assertEqual(layout_to_document(layout_from_document(document, "it")), document)

    def test_a_grid_of_paints_and_partners_mixes_half_and_half(self) -> None:
        layout = build_mix_card("M", "A4", self.labels(4), self.labels(5))
        self.assertEqual(len(layout.zones_of("mix")), 20)
        self.assertEqual({share for z in layout.zones_of("mix") for _, share in z.extra["parts"]}, {0.5})

    def test_zones_lie_apart_on_every_sheet(self) -> None:
        for sheet in ("A6", "A5", "A4", "A3"):
            layout = build_mix_card("M", sheet, self.labels(1), self.labels(grid_columns(sheet, 3)))
            rects = [z.rect for z in layout.zones]
            for i, one in enumerate(rects):
                self.assertLessEqual(one.right, layout.size_mm[0])
                self.assertLessEqual(one.bottom, layout.size_mm[1] - 14)
                self.assertFalse(any(one.inset(1e-6).intersects(two) for two in rects[i + 1 :]), sheet)

    def test_too_many_of_either_are_refused(self) -> None:
        for rows, columns, words in ((20, 3, "rows does not fit"), (1, 60, "bears"), (0, 3, "at least one")):
            with self.subTest(rows=rows), self.assertRaisesRegex(LayoutError, words):
                build_mix_card("M", "A5", self.labels(rows), self.labels(columns))


class Steps(unittest.TestCase):
    def setUp(self) -> None:
        design = Design(tests=("hiding", "lifting", "layers"))
        self.layout = build_card("C", "A4", [SwatchLabel("dark"), SwatchLabel("light"), SwatchLabel("glitter")], design)
        self.paints = {
            "S1": paint(1, "Dark", "PB15"),
            "S2": paint(2, "Light", "PY150", form="pan"),
            "S3": paint(3, "Glitter", "PV19", sparkles=True),
        }
        self.steps = bench_steps(self.layout, self.paints)

    def test_the_order_is_that_of_the_work(self) -> None:
        kinds = [s.kind for s in self.steps]
        self.assertEqual(kinds, ["ink", "wake", *["paint"] * 12, "dry", "layer", "layer", "lift"])
        self.assertEqual([s.swatch for s in self.steps if s.kind == "paint"], [s for s in ("S2", "S1", "S3") for _ in range(4)])
        self.assertEqual(self.steps[2].text, "S2 Light: a heavy masstone, drawn out with water into the palest wash; then one even wash.")
        self.assertEqual([bool(s.reminder) for s in self.steps[2:6]], [True, False, False, False])

    def test_each_painted_zone_is_named_once_before_drying(self) -> None:
        named = [z for s in self.steps if s.kind == "paint" for z in s.zones]
        wanted = [z.id for z in self.layout.zones if z.kind not in {"paper", "ink"}]
        self.assertEqual(sorted(named), sorted(wanted))

    def test_waits_and_reminders(self) -> None:
        by_id = {s.id: s for s in self.steps}
        self.assertEqual(by_id["wake-60"].seconds, 60)
        self.assertIn("another brush", by_id["S3.paint"].reminder)
        self.assertGreater(by_id["dry"].seconds, by_id["ink"].seconds)
        self.assertEqual(len(by_id["layer-3"].zones), 3)

    def test_what_soaks_longest_is_wetted_first_and_rows_without_a_name_are_not_forgotten(self) -> None:
        paints = {"S1": paint(1, "Pan", "PB29", form="pan"), "S2": paint(2, "Cake", "PB29", form="dry")}
        steps = bench_steps(self.layout, paints)
        self.assertEqual([(s.text.split()[1], s.seconds) for s in steps if s.kind == "wake"], [("Cake", 300), ("Pan", 60)])
        freehand = next(s for s in steps if s.id == "freehand")
        self.assertIn("Paint S3 freehand", freehand.text)
        self.assertTrue(all(z.startswith("S3.") for z in freehand.zones))

    def test_a_mixing_card_tells_each_mix(self) -> None:
        layout = build_mix_card("M", "A5", [SwatchLabel("Dark")], [SwatchLabel("Light")])
        steps = bench_steps(layout, {"S1": self.paints["S1"], "S2": self.paints["S2"]})
        words = [s.text for s in steps if s.kind == "mix"]
        self.assertEqual(words, ["Mix S1 Dark with S2 Light: 75, 50 and 25 % of S1."])

    def test_effort_grows_with_the_work(self) -> None:
        small = effort([self.layout])
        large = effort([self.layout] * 4)
        self.assertEqual((large.cards, large.swatches), (4, 12))
        self.assertAlmostEqual(large.paint_ml, 4 * small.paint_ml, delta=0.03)
        self.assertAlmostEqual(small.paper_m2, 0.062, delta=0.001)
        self.assertEqual(effort([]).waiting, 0)


class Comparability(unittest.TestCase):
    def test_wet_against_dry_weighs_most_and_paper_is_named(self) -> None:
        found = obstacles(SwatchRecord(state="wet", paper="rough pad"), SwatchRecord(state="dry", paper="cotton block"))
        self.assertEqual([o.weight for o in found], ["forbids", "warns"])
        self.assertIn("rough pad and cotton block", found[1].sentence)

    def test_the_same_record_has_nothing_against_it_and_unknown_paper_is_said(self) -> None:
        same = SwatchRecord(state="dry", tier="target", paper="block", woken="fresh")
        self.assertEqual(obstacles(same, same), [])
        self.assertEqual([o.field for o in obstacles(same, SwatchRecord(state="dry"))], ["paper"])

    def test_what_went_wrong_at_the_bench_is_said_once(self) -> None:
        spoilt = SwatchRecord(state="dry", paper="block", mishaps=("C-1 S2, the wash crawled",))
        found = obstacles(spoilt, SwatchRecord(state="dry", paper="block"))
        self.assertEqual([(o.weight, o.sentence) for o in found], [("warns", "Noted at the bench: C-1 S2, the wash crawled.")])
        self.assertEqual(len(obstacles(spoilt, spoilt)), 1)
