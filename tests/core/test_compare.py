"""Differences between measured paints, in figures and in words."""

import copy
import unittest
from typing import Any

import numpy as np

from gelvet.core.compare.distance import compare_swatches
from gelvet.core.compare.profile_words import profile_phrases
from gelvet.core.compare.properties import PROPERTIES, figure
from gelvet.core.compare.wording import difference_words, phrases
from tests import simulated, wet_card
from tests.lamps import measured_with


def swatch(name: str) -> dict[str, Any]:
    found: dict[str, Any] = copy.deepcopy(simulated.measured().document["swatches"][name])
    return found


def at(comparison: Any, place: str) -> Any:
    return next(d for d in comparison.distances if d.place == place)


class Distances(unittest.TestCase):
    def test_a_paint_does_not_differ_from_itself(self) -> None:
        result = compare_swatches(swatch("S1"), swatch("S1"))
        self.assertEqual({d.de00 for d in result.distances}, {0.0})
        self.assertFalse(any(d.real for d in result.distances) or any(d.real for d in result.properties))
        self.assertEqual(difference_words(result), "")

    def test_blue_and_green_differ_really_and_both_ways_alike(self) -> None:
        there, back = compare_swatches(swatch("S1"), swatch("S2")), compare_swatches(swatch("S2"), swatch("S1"))
        for place in ("masstone", "half", "wash", "path"):
            self.assertTrue(at(there, place).real)
            self.assertAlmostEqual(at(there, place).de00, at(back, place).de00, places=9)

    def test_a_difference_is_real_only_beyond_twice_its_uncertainty(self) -> None:
        one, two = swatch("S1"), swatch("S1")
        two["masstone"]["lab"][0] += 3.0
        for u, real in ((0.5, True), (5.0, False)):
            one["masstone"]["u"] = two["masstone"]["u"] = u
            self.assertEqual(at(compare_swatches(one, two), "masstone").real, real)

    def test_every_figure_that_says_how_sure_it_is_can_be_compared(self) -> None:
        told = {place for p in PROPERTIES for place in (_named(p.value), _named(p.u))}
        for card in (wet_card.measured(), measured_with(3)):
            for name, found in card.document["swatches"].items():
                figures = {place for place in _figures(found) if place not in _NOT_COMPARED}
                self.assertEqual(figures - told, set(), name)

    def test_each_property_stands_where_it_is_looked_for(self) -> None:
        cards = (wet_card.measured(), measured_with(3), simulated.measured())
        swatches = [swatch for card in cards for swatch in card.document["swatches"].values()]
        elsewhere = {
            "fine",
            "flare",
            "glints_on_black",
            "glinting_veil",
            "residual_glints",
            "damage",
            "second_layer",
            "second_veil",
            "effect_bloom",
        }
        for of in PROPERTIES:
            found = [(figure(s, of.value), figure(s, of.u)) for s in swatches]
            if of.key not in elsewhere:
                self.assertTrue(any(value is not None for value, _ in found), of.key)
            for value, u in found:
                self.assertTrue(value is None or (u is not None and u > 0), of.key)
        self.assertEqual(len({p.key for p in PROPERTIES}), len(PROPERTIES))

    def test_a_layer_and_an_effect_are_found_by_their_names(self) -> None:
        layers = {"glaze": {"steps": [{"layers": 1, "delta_L": -9.0, "u": 0.4}, {"layers": 2, "delta_L": -4.0, "u": 0.3}]}}
        effects = {
            "effects": [{"effect": "gauze", "contrast": 1.0, "contrast_u": 0.1}, {"effect": "salt", "contrast": 3.0, "contrast_u": 0.2}]
        }
        first, second = swatch("S1") | layers | effects, swatch("S1") | copy.deepcopy(layers) | effects
        second["glaze"]["steps"][1]["delta_L"] = -6.0
        found = {d.of.key: d for d in compare_swatches(first, second).properties}
        self.assertAlmostEqual(found["second_layer"].difference or 0, -2.0)
        self.assertAlmostEqual(found["second_layer"].times_u or 0, 2.0 / np.hypot(0.3, 0.3))
        self.assertTrue(found["second_layer"].real)
        self.assertEqual((found["effect_salt"].first, found["effect_salt"].difference), (3.0, 0.0))
        self.assertNotIn("effect_bloom", found)

    def test_of_what_only_one_paint_has_the_chief_figures_alone_are_told(self) -> None:
        one, two = swatch("S1"), swatch("S1")
        two["granulation"] |= {"index": None, "mottle": None}
        found = {d.of.key: d for d in compare_swatches(one, two).properties}
        self.assertIsNone(found["granulation"].difference)
        self.assertNotIn("mottle", found)
        self.assertIn("skew", found)


# Figures that say how sure they are, but not of one paint against another: colours, which are told as distances; what is relative to
# another swatch already; a direction; what was measured at another depth or layer.
_NOT_COMPARED = {
    "masstone.u", "half.u", "wash.u", "strength.relative", "strength.half_light.relative", "lifting.residue_share",
    "lifting.residue_share_before", "lifting.residue_hue", "sparkle.hue", "drying.u",
}  # fmt: skip


def _named(where: tuple[str | int, ...]) -> str:
    return ".".join(map(str, where))


def _figures(found: Any, at: str = "") -> set[str]:
    """Where `u` or `<name>_u` stands, by the name of what it belongs to; lists have their own names."""
    if not isinstance(found, dict):
        return set()
    inside = {place for key, value in found.items() for place in _figures(value, f"{at}{key}.")}
    own = {f"{at}{key.removesuffix('_u')}" for key, value in found.items() if key.endswith("_u") and value is not None and key != "u"}
    known = {place for place in own if found.get(place.removeprefix(at)) is not None}
    return inside | known | ({f"{at}u"} if found.get("u") is not None and "lab" not in found else set())


class Words(unittest.TestCase):
    def changed(self, **masstone: float) -> str:
        one, two = swatch("S2"), swatch("S2")
        for item in (one, two):
            item["masstone"] |= {"lab": [50.0, -40.0, 0.0], "u": 0.4}
        two["masstone"]["lab"] = [50.0 + masstone.get("L", 0), -40.0 + masstone.get("a", 0), masstone.get("b", 0.0)]
        return difference_words(compare_swatches(one, two))

    def test_lightness_chroma_and_hue_are_named_with_their_amounts(self) -> None:
        self.assertEqual(self.changed(L=-6.0), "masstone 6 L* darker")
        self.assertEqual(self.changed(a=20.0), "masstone 20 C* duller")
        self.assertIn("masstone 14° greener", self.changed(b=10.0))
        self.assertIn("masstone 14° bluer", self.changed(b=-10.0))

    def test_grain_says_how_many_times(self) -> None:
        one, two = swatch("S1"), swatch("S1")
        two["granulation"] |= {"index": 2 * one["granulation"]["index"], "u": 0.05}
        keys = [p.key for p in phrases(compare_swatches(one, two))]
        self.assertIn("granulation", keys)
        self.assertIn("2.0× as grainy", difference_words(compare_swatches(one, two)))

    def test_strength_is_told_by_the_paint_that_halves_the_light(self) -> None:
        def tinting(fraction: float, relative: float | None = None) -> dict[str, Any]:
            half = {"fraction": fraction, "u": 0.004, "relative": relative, "relative_u": 0.1}
            return swatch("S1") | {"strength": {"slope": 2.0, "half_light": half, "absent": None}}

        def words(one: float, two: float) -> str:
            return difference_words(compare_swatches(tinting(one), tinting(two)))

        self.assertEqual(words(0.20, 0.10), "tints 2.0× as strongly")
        self.assertEqual(words(0.10, 0.20), "needs 2.0× as much paint")
        self.assertEqual(words(0.10, 0.109), "")
        self.assertEqual(difference_words(compare_swatches(swatch("S1"), tinting(0.1))), "")

        def said(relative: float | None) -> str:
            return {p.key: p.text for p in profile_phrases(tinting(0.12, relative))}["half_light"]

        self.assertEqual(said(None), "12 % of its paint takes half of the light.")
        self.assertEqual(said(1.0), "12 % of its paint takes half of the light.")
        self.assertEqual(said(1.15), "12 % of its paint takes half of the light, as of the reference's.")
        self.assertEqual(said(1.8), "12 % of its paint takes half of the light: in tints 1.8 times as strong as the reference.")

    def test_a_profile_speaks_of_everything_or_says_why_not(self) -> None:
        said = {p.key: p.text for p in profile_phrases(swatch("S3"))}
        self.assertEqual(set(said), {"hue_shift", "value_range", "granulation", "separation", "hiding", "lifting"})
        self.assertIn("too grey", said["hue_shift"])
        self.assertRegex(said["value_range"], r"from value \d\.\d to \d\.\d")

    def test_a_little_parting_is_told_from_none(self) -> None:
        def said(index: float, u: float) -> str:
            parting = {"index": index, "u": u, "components": [], "absent": None}
            return {p.key: p.text for p in profile_phrases(swatch("S1") | {"separation": parting})}["separation"]

        self.assertEqual(said(0.2, 0.05), "Does not separate (single spots lie 0.2 ΔE off its path).")
        self.assertIn("Does not separate", said(0.7, 0.4))
        self.assertIn("Separates a little: single spots lie 0.7 ΔE off its path", said(0.7, 0.08))

    def test_two_components_of_one_name_are_told_apart(self) -> None:
        def said(*labs: tuple[float, float, float]) -> str:
            parts = [
                {"lab": list(lab), "share": share, "tooth": tooth} for lab, share, tooth in zip(labs, (0.6, 0.4), (0.1, 0.6), strict=True)
            ]
            parting = {"index": 1.8, "u": 0.1, "components": parts, "absent": None}
            return {p.key: p.text for p in profile_phrases(swatch("S1") | {"separation": parting})}["separation"]

        self.assertIn("into a blue (60 %) and a red (40 %). The red lies more", said((87, -2, -8), (92, 6, 6)))
        self.assertIn("into a yellow (60 %) and a greener yellow (40 %). The greener yellow lies more", said((88, 1, 22), (89, -5, 22)))
        self.assertIn("and a redder yellow (40 %)", said((89, -5, 22), (88, 1, 22)))
        self.assertIn("into a blue (60 %) and a duller blue (40 %)", said((80, -4, -20), (83, -2, -10)))
        self.assertIn("into a grey (60 %) and a darker grey (40 %)", said((92, 1, 1), (84, 0, -1)))

    def test_what_stays_names_the_component_that_gained(self) -> None:
        parted = swatch("S1")
        parted["separation"] |= {"components": [{"lab": [87, -2, -8], "share": 0.6}, {"lab": [92, 6, 6], "share": 0.4}], "index": 1.8}
        parted["lifting"] |= {"residue_hue": 340.0, "residue_component": 1, "residue_share": 0.49, "residue_share_before": 0.36}
        said = {p.key: p.text for p in profile_phrases(parted)}["lifting"]
        self.assertIn("Its red stays more than its blue: 49 % of what is left, 36 % of the paint.", said)
        parted["lifting"] |= {"residue_component": None, "residue_share": None, "residue_share_before": None}
        self.assertIn("What stays is ", {p.key: p.text for p in profile_phrases(parted)}["lifting"])


if __name__ == "__main__":
    unittest.main()
