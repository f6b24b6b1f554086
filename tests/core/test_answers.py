"""Answers to the questions, from figures whose truth is known."""

import unittest
from dataclasses import replace
from typing import Any

from gelvet.core.compare.answers import AnsweredMix, AnsweredSwatch, answer
from tests import simulated


def swatch(number: int, name: str, figures: Any, paper: str = "", **claims: str) -> AnsweredSwatch:
    return AnsweredSwatch(paint=number, name=name, paper=paper, figures=figures, claims=claims)


def mix(share: float, lab: tuple[float, float, float], partner: str = "Thrift") -> AnsweredMix:
    return AnsweredMix(parts=(("Squall", share, (30, 40, 20)), (partner, 1 - share, (40, -40, 10))), lab=lab, u=0.5)


class Answers(unittest.TestCase):
    figures: dict[str, Any]

    @classmethod
    def setUpClass(cls) -> None:
        cls.figures = simulated.measured().document["swatches"]

    def all_swatches(self) -> list[AnsweredSwatch]:
        return [swatch(i, f"Paint {i}", figures) for i, figures in enumerate(self.figures.values())]

    def test_nothing_measured_is_said(self) -> None:
        for question in ("one-paint", "in-mixes", "paper", "buy-again"):
            self.assertEqual(answer(question, []).sentences, ("Nothing of this session is measured yet.",))

    def test_side_by_side_names_the_nearest_and_the_farthest(self) -> None:
        found = answer("which-maker", self.all_swatches())
        self.assertRegex(found.sentences[0], r"^Nearest are Paint \d and Paint \d, \d+\.\d ΔE00")
        self.assertRegex(found.sentences[1], r"^Farthest apart are")
        self.assertEqual(len(found.table), len(self.figures) + 1)
        shifts = [row[found.table[0].index("hue shift")] for row in found.table[1:]]
        self.assertTrue(any(shift.startswith("−") for shift in shifts), shifts)
        self.assertFalse(any("-" in shift for shift in shifts), shifts)

    def test_a_paint_beside_itself_cannot_be_told_apart(self) -> None:
        figures = self.figures["S1"]
        found = answer("set-worth", [swatch(1, "One", figures), swatch(2, "Two", figures)])
        self.assertIn("Hard to tell apart by colour: One and Two.", found.sentences)

    def test_a_replacement_is_ranked(self) -> None:
        stock = self.all_swatches()
        twin = swatch(99, "Twin", stock[0].figures)
        found = answer("replacement", [*stock, twin])
        self.assertIn("The nearest to Paint 0 is Twin: 0.0 ΔE00", found.sentences[0])
        distances = [float(row[1]) + float(row[2]) for row in found.table[1:]]
        self.assertEqual(distances, sorted(distances))

    def test_one_paint_is_set_against_its_label(self) -> None:
        figures = self.figures["S1"]
        found = answer("one-paint", [swatch(1, "One", figures, transparency=figures["hiding"]["class"], staining="nonsense")] * 2)
        text = " ".join(found.sentences)
        self.assertIn("which agrees", text)
        self.assertIn("says staining is nonsense; measured as", text)
        self.assertIn("lie within 0.0 ΔE00", text)

    def test_mixes_tell_the_grey_the_clean_and_the_dark(self) -> None:
        found = answer("in-mixes", [], [mix(0.5, (30, 2, 1)), mix(0.75, (35, 38, 10)), mix(0.25, (12, 20, 10))])
        self.assertIn("50 % Squall + 50 % Thrift makes the truest grey", found.sentences[0])
        self.assertIn("Cleanest is 75 % Squall", found.sentences[1])
        self.assertIn("darkest dark is 25 % Squall + 75 % Thrift, at L* 12", found.sentences[2])
        self.assertEqual([row[5] for row in found.table[1:]], ["grey", "clean", "dull"])

    def test_no_neutralising_partner_is_said_too(self) -> None:
        self.assertIn("No partner neutralises it", answer("in-mixes", [], [mix(0.5, (30, 30, 10))]).sentences[0])

    def test_mixes_under_low_lamps_tell_their_sparkle(self) -> None:
        plain, shining = mix(0.5, (30, 2, 1)), replace(mix(0.75, (35, 38, 10)), glints=(12.0, 2.0))
        self.assertIn("75 % Squall + 25 % Thrift keeps most sparkle: 12 glints a cm².", answer("in-mixes", [], [plain, shining]).sentences)
        dull = replace(shining, glints=(0.4, 0.5))
        self.assertIn("None of the mixes sparkles.", answer("in-mixes", [], [plain, dull]).sentences)
        self.assertFalse([s for s in answer("in-mixes", [], [plain]).sentences if "sparkle" in s])

    def test_the_nearest_mix_to_a_bought_colour(self) -> None:
        target = swatch(9, "Target", self.figures["S1"])
        lab = self.figures["S1"]["masstone"]["lab"]
        near, far = mix(0.5, (lab[0] + 8, lab[1], lab[2])), mix(0.25, (90, 0, 0))
        found = answer("make-myself", [target], [far, near, mix(0.5, lab, "Target")])
        self.assertIn("50 % Squall + 50 % Thrift comes nearest to Target", found.sentences[0])
        self.assertEqual(len(found.table), 3)  # mixes with the target itself are no answer

    def test_papers_are_told_apart_by_name(self) -> None:
        one, two = self.figures["S1"], self.figures["S2"]
        found = answer("paper", [swatch(1, "One", one, "block"), swatch(1, "One", two, "pad")])
        self.assertRegex(found.sentences[0], r"^One, pad against block: .+")
        self.assertIn("Only one paper", answer("paper", [swatch(1, "One", one, "block")]).sentences[0])

    def test_fading_is_ranked_and_sparkle_is_not_invented(self) -> None:
        faded = {**self.figures["S1"], "fade": {"delta_e_ab": 9.0, "hours": 400.0, "category": "III", "u": 0.5, "absent": None}}
        steady = {**self.figures["S1"], "fade": {"delta_e_ab": 1.0, "hours": 400.0, "category": "I", "u": 0.5, "absent": None}}
        found = answer("lasting", [swatch(1, "Fades", faded), swatch(2, "Stays", steady)])
        self.assertIn("Steadiest is Stays", found.sentences[0])
        self.assertIn("Fades has moved most: 9.0 ΔE*ab, category III", found.sentences[1])
        self.assertIn("not measured", answer("sparkle", self.all_swatches()).sentences[0])
