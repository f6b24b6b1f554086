"""Water, layers, moments and the pictures of what figures rest on, against the simulator's truth and known fields."""

import unittest
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import lit_shots
from gelvet.core.colour.difference import ciede2000
from gelvet.core.compare.profile_words import profile_phrases
from gelvet.core.errors import ClassLimitsError
from gelvet.core.measure.classes import USUAL, ClassLimits, classed
from gelvet.core.measure.grain.lightness_spectrum import ARMS_LENGTH_MM, eye_variance, spectrum_of
from gelvet.core.measure.low_lamps.sparkle import find_glints, without_glints
from gelvet.core.measure.quantities.water import Effect, WaterDrop, WetDrop
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels
from gelvet.core.measure.water.patterns import effect, tilt, water_drop, wet_drop
from gelvet.core.pipeline import measure_image
from tests.lamps import lit_card, measured_with
from tests.wet_card import measured, wet_card

PAPER = np.array([86.0, 89.0, 70.0])


def field(depth: Floats, pixels_per_mm: float = 8.0) -> ZonePixels:
    """A grey zone of that tint depth (h, w)."""
    xyz = (PAPER * 10 ** -depth[..., None]).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(depth.shape, bool), pixels_per_mm=pixels_per_mm)


def colour(xyz: Floats) -> ZoneColour:
    return ZoneColour(xyz=xyz, sd=np.full(3, 0.3), u=0.1, u_lab=np.full(3, 0.1), u_spatial=0.05, used_fraction=1.0)


class OnTheCard(unittest.TestCase):
    found: dict[str, Any]
    true: dict[str, Any]

    @classmethod
    def setUpClass(cls) -> None:
        cls.found, cls.true = measured().document["swatches"], wet_card().truths["dry"]["swatches"]

    def test_drops_reach_and_clear_what_they_truly_do(self) -> None:
        for swatch in ("S1", "S2"):
            found, true = self.found[swatch], self.true[swatch]
            self.assertAlmostEqual(found["wet_drop"]["reach_mm"], true["wet_drop"]["reach_mm"], delta=0.3)
            self.assertAlmostEqual(found["water_drop"]["area_mm2"] / true["water_drop"]["area_mm2"], 1, delta=0.15)
            self.assertAlmostEqual(found["water_drop"]["rim"] / true["water_drop"]["rim"], 1, delta=0.15)

    def test_water_parts_two_pigments_and_never_one(self) -> None:
        two, one = self.found["S1"], self.found["S2"]
        self.assertGreater(two["tilt"]["parted"], 3.0)
        self.assertGreater(two["tilt"]["parted"], 2 * one["tilt"]["parted"])
        self.assertGreater(two["wet_drop"]["parted"], one["wet_drop"]["parted"])

    def test_a_strip_has_the_colours_it_ran_to(self) -> None:
        for swatch in ("S1", "S2"):
            found = {end: np.array(self.found[swatch]["tilt"][end]["lab"]) for end in ("head", "tail")}
            true = {end: np.array(self.true[swatch]["tilt"][end]) for end in ("head", "tail")}
            for end in ("head", "tail"):
                self.assertLess(float(ciede2000(found[end], true[end])), 2.0)
            # From end to end the paint changes by many times more than the scanner errs.
            ran = np.linalg.norm(true["tail"] - true["head"])
            self.assertLess(float(np.linalg.norm(found["tail"] - found["head"] - true["tail"] + true["head"])), 0.15 * float(ran))

    def test_drying_is_the_difference_of_the_two_cards(self) -> None:
        for swatch in ("S1", "S2"):
            for place in ("masstone", "wash"):
                wet, dry = (np.array(wet_card().truths[s]["swatches"][swatch][place]["lab"]) for s in ("wet", "dry"))
                shift = self.found[swatch]["drying"][place]
                self.assertAlmostEqual(shift["delta_e00"], float(ciede2000(wet, dry)), delta=0.8)
                self.assertGreater(shift["delta_L"], 0)

    def test_streaks_are_brush_marks_and_backruns_are_counted(self) -> None:
        grain = self.found["S2"]["granulation"]
        self.assertTrue(grain["brush_marks"])
        self.assertLess(grain["index"], 0.5)
        self.assertGreater(self.found["S1"]["granulation"]["index"], 1.0)
        self.assertEqual(self.found["S1"]["gradient"]["backruns"], 0)
        self.assertEqual(self.found["S2"]["gradient"]["backruns"], 2)

    def test_grain_is_told_in_heavy_and_in_light_colour(self) -> None:
        places = self.found["S1"]["granulation"]["by_depth"]
        self.assertEqual([p["depth"] for p in places], sorted((p["depth"] for p in places), reverse=True))
        self.assertGreater(len(places), 4)
        truth = {"wash": self.true["S1"]["granulation"]["index"]}
        wash = next(p for p in places if p["where"] == "wash")
        self.assertAlmostEqual(wash["index"], truth["wash"], delta=2 * wash["u"] + 0.05)

    def test_tinting_strength_is_the_true_slope(self) -> None:
        # A very vivid paint's colour is the less certain one, and says so.
        for swatch, within in (("S1", 0.08), ("S2", 0.15)):
            found, true = self.found[swatch]["strength"], self.true[swatch]["strength"]
            self.assertAlmostEqual(found["slope"] / true["slope"], 1, delta=within)
            self.assertLess(abs(found["slope"] - true["slope"]), 2 * found["u"])
            self.assertAlmostEqual(found["half_light"]["fraction"] / true["half_light"], 1, delta=0.04)
            self.assertLess(abs(found["half_light"]["fraction"] - true["half_light"]), 2 * found["half_light"]["u"])

    def test_a_named_reference_paint_is_the_whole_of_strength(self) -> None:
        card = wet_card()
        layout = replace(card.layout, extra={**card.layout.extra, "strength_reference": "S2"})
        swatches = measure_image(card.images["dry"], layout, card.reference).document["swatches"]
        self.assertEqual(swatches["S2"]["strength"]["relative"], 1.0)
        ratio = swatches["S1"]["strength"]["slope"] / swatches["S2"]["strength"]["slope"]
        self.assertAlmostEqual(swatches["S1"]["strength"]["relative"], ratio, places=3)
        self.assertIsNone(self.found["S1"]["strength"]["relative"])
        halves = [swatches[s]["strength"]["half_light"] for s in ("S1", "S2")]
        self.assertAlmostEqual(halves[0]["relative"], halves[1]["fraction"] / halves[0]["fraction"], places=3)

    def test_hiding_in_a_wash_stands_beside_that_in_masstone(self) -> None:
        hiding = self.found["S1"]["hiding"]
        self.assertLess(hiding["wash"]["veil"], hiding["veil"])
        self.assertAlmostEqual(hiding["veil"], self.true["S1"]["hiding"]["veil"], delta=0.008)

    def test_effects_have_contrast_and_size(self) -> None:
        effects = {e["effect"]: e for e in self.found["S1"]["effects"]}
        self.assertEqual(set(effects), {"salt", "gauze", "splatter"})
        self.assertTrue(all(e["contrast"] > 2 and 0.2 < e["size_mm"] < 4 for e in effects.values()))
        for swatch in ("S1", "S2"):
            for found, true in zip(self.found[swatch]["effects"], self.true[swatch]["effects"], strict=True):
                self.assertEqual(found["effect"], true["effect"])
                self.assertAlmostEqual(found["contrast"] / true["contrast"], 1, delta=0.15)

    def test_each_figure_with_a_picture_has_it(self) -> None:
        views = measured().views["S1"]
        self.assertTrue({"plain", "grain", "separation", "component-1", "component-2"} <= set(views))
        self.assertNotIn("component-1", measured().views["S2"])
        # Contrast is stretched, light is kept where it was.
        self.assertGreater(views["grain"].std(), 3 * views["plain"].std())
        # One component is the blue one and the other the red one.
        red_over_blue = [float(views[f"component-{n}"][..., 0].mean()) - float(views[f"component-{n}"][..., 2].mean()) for n in (1, 2)]
        self.assertLess(min(red_over_blue), 0)
        self.assertGreater(max(red_over_blue), 0)

    def test_words_tell_what_was_seen(self) -> None:
        said = " ".join(p.text for p in profile_phrases(self.found["S1"]))
        for part in ("Touched into a wet patch", "tilted strip its parts run apart", "Dries", "drop of water clears", "Salt:"):
            self.assertIn(part, said)


class Fields(unittest.TestCase):
    def disc(self, reach: float, side: int = 120) -> Floats:
        y, x = np.mgrid[:side, :side] / 8.0
        return np.asarray(np.hypot(x - side / 16, y - side / 16) / reach)

    def test_a_disc_of_paint_reaches_to_its_edge(self) -> None:
        found = wet_drop(field(np.where(self.disc(4.0) < 1, 0.6, 0.0)), PAPER, Absent("none"), lambda lab: 0.5)
        assert isinstance(found, WetDrop)
        self.assertAlmostEqual(found.reach_mm or 0, 4.0, delta=0.3)
        self.assertIsNone(found.parted)

    def test_a_ring_round_a_pale_disc_is_the_drops_rim(self) -> None:
        radius = self.disc(1.0)
        found = water_drop(field(0.3 - 0.15 * (radius < 3) + 0.2 * np.exp(-(((radius - 3.2) / 0.3) ** 2))), PAPER)
        assert isinstance(found, WaterDrop)
        self.assertAlmostEqual(found.area_mm2, np.pi * 3.2**2, delta=3.0)
        self.assertGreater(found.rim, 1.3)

    def wavy(self, grain: float, seed: int) -> tuple[Floats, float]:
        """A drop whose ring of 1.6 times the wash's depth is wavy, on a paint that granulates; and the area inside it."""
        side, px = 140, 10.0
        y, x = (np.mgrid[:side, :side] - side / 2) / px
        turn = np.arctan2(y, x)
        away = np.hypot(x, y) - 3.2 * (1 + 0.12 * np.sin(3 * turn) + 0.06 * np.cos(5 * turn))
        clumps = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal((side, side)), (0, 0), 1.5)
        depth = (
            0.25
            * (1 - 0.6 / (1 + np.exp((away + 0.7) / 0.1)) + 0.6 * np.exp(-((away / 0.25) ** 2)))
            * np.exp(grain * clumps / clumps.std())
        )
        return depth, np.pi * 3.2**2 * (1 + (0.12**2 + 0.06**2) / 2)

    def test_a_wavy_ring_is_followed_round_in_smooth_and_in_granulating_paint(self) -> None:
        for grain, close in ((0.0, 0.02), (0.35, 0.08)):
            for seed in range(3):
                depth, area = self.wavy(grain, seed)
                found = water_drop(field(depth, 10.0), PAPER)
                assert isinstance(found, WaterDrop)
                self.assertAlmostEqual(found.area_mm2 / area, 1, delta=close)
                self.assertAlmostEqual(found.rim, 1.6, delta=0.05 if grain == 0 else 0.2)

    def test_the_part_of_a_ring_that_is_masked_is_told_from_the_rest(self) -> None:
        depth, area = self.wavy(0.0, 1)
        seen = field(depth, 10.0)
        seen.good[:60, 95:] = False
        found = water_drop(seen, PAPER)
        assert isinstance(found, WaterDrop)
        self.assertAlmostEqual(found.area_mm2 / area, 1, delta=0.04)
        seen.good[:, 80:] = False
        self.assertIsInstance(water_drop(seen, PAPER), Absent)

    def test_what_cannot_be_measured_is_absent_with_its_reason(self) -> None:
        flat, pale = field(np.full((120, 120), 0.3)), field(np.full((120, 120), 0.01))
        whole = field(np.where(self.disc(20.0) < 1, 0.6, 0.0))
        reasons = [
            (wet_drop(pale, PAPER, Absent("none"), lambda lab: 0.5), "no paint is seen"),
            (water_drop(flat, PAPER), "no pale place"),
            (water_drop(pale, PAPER), "too pale"),
            (water_drop(field(np.full((20, 20), 0.3)), PAPER), "too small"),
            (effect("salt", field(np.full((20, 20), 0.3)), None), "too small"),
            (tilt(replace(flat, good=np.zeros((120, 120), bool)), "+x", PAPER, Absent("none"), lambda lab: 0.5), "too little"),
        ]
        for found, words in reasons:
            assert isinstance(found, Absent)
            self.assertIn(words, found.reason)
        ran = wet_drop(whole, PAPER, Absent("none"), lambda lab: 0.5)
        assert isinstance(ran, WetDrop)
        self.assertIsNone(ran.reach_mm)

    def test_an_even_field_has_no_effect(self) -> None:
        found = effect("gauze", field(np.full((120, 120), 0.3)), None)
        assert isinstance(found, Effect)
        self.assertAlmostEqual(found.contrast, 0, places=3)
        self.assertIsNone(found.size_mm)

    def test_an_eye_at_arms_length_sees_coarse_waves_and_no_fine_ones(self) -> None:
        """Its best is near 8 cycles a degree (Mannos and Sakrison), which is 0.76 cycles/mm from 60 cm."""
        x = np.arange(480) / 12.0

        def seen(cycles_mm: float) -> float:
            depth = np.broadcast_to(0.3 + 0.02 * np.sin(2 * np.pi * cycles_mm * x), (240, 480))
            return eye_variance(spectrum_of(field(depth, 12.0), 0.0), 0.0)

        best = 8.0 / (ARMS_LENGTH_MM * np.tan(np.radians(1)))
        self.assertGreater(seen(best), 3 * seen(best / 8))
        self.assertGreater(seen(best), 10 * seen(4.5))


class UnderLamps(unittest.TestCase):
    def test_glints_are_taken_out_of_the_grain(self) -> None:
        sides = {name for name in measured_with(3).views["S1"] if name.startswith("light-")}
        self.assertEqual(sides, {"light-even", "light-000", "light-120", "light-240"})
        measured = measured_with(3)
        white = np.array(measured.document["zones"]["S1.paper"]["xyz"])
        lights = lit_shots(measured.capture, white, measured.shots)
        wash = lit_card().flat.card.layout.zone("S1.wash")
        found = find_glints(lights, {"wash": [wash]})
        assert not isinstance(found, Absent)
        places = np.concatenate([s.places_mm for f in found for s in f.shots])
        self.assertGreater(len(places), 0)
        self.assertTrue(all(wash.rect.x <= x <= wash.rect.right and wash.rect.y <= y <= wash.rect.bottom for x, y in places))
        pixels = ZonePixels(xyz=np.ones((200, 200, 3), np.float32), good=np.ones((200, 200), bool), pixels_per_mm=20.0)
        masked = without_glints(pixels, (places[0][0] - 5, places[0][1] - 5), found)
        self.assertFalse(masked.good[100, 100])
        self.assertGreater(masked.good.mean(), 0.9)


class WordsForGrain(unittest.TestCase):
    def said(self, *indices: float) -> str:
        swatch = dict(measured().document["swatches"]["S1"])
        places = [{"depth": 1 - 0.2 * i, "index": v, "u": 0.1, "where": "gradient"} for i, v in enumerate(indices)]
        swatch["granulation"] = {**swatch["granulation"], "by_depth": places}
        return next(p.text for p in profile_phrases(swatch) if p.key == "granulation")

    def test_where_it_is_plainest_is_told_only_beyond_chance(self) -> None:
        self.assertIn("most in heavy colour (2.0 against 1.0", self.said(2.0, 1.9, 1.0))
        self.assertIn("most in light colour (2.0 against 1.0", self.said(1.0, 1.9, 2.0))
        self.assertIn("most in half tints (2.5", self.said(1.0, 2.5, 1.2))
        self.assertNotIn("grains most", self.said(1.5, 1.6, 1.55))


class WordsForComponents(unittest.TestCase):
    def said(self, one: float | None, two: float | None) -> str:
        swatch = dict(measured().document["swatches"]["S1"])
        parts = [{**c, "tooth": t} for c, t in zip(swatch["separation"]["components"], (one, two), strict=True)]
        swatch["separation"] = {**swatch["separation"], "components": parts}
        return next(p.text for p in profile_phrases(swatch) if p.key == "separation")

    def test_the_one_in_the_hollows_is_named_where_lamps_tell(self) -> None:
        self.assertIn("lies more in the hollows", self.said(0.6, 0.1))
        self.assertNotEqual(self.said(0.6, 0.1), self.said(0.1, 0.6))
        self.assertNotIn("hollows", self.said(0.5, 0.4) + self.said(None, None))


class Classes(unittest.TestCase):
    def swatch(self, veil: float, transmits: float | None, removed: float) -> dict[str, Any]:
        return {
            "hiding": {"veil": veil, "transmits": transmits, "class": USUAL.transparency(veil, 1.0)},
            "lifting": {"removed": removed, "class": USUAL.staining(removed)},
        }

    def test_a_benchs_own_limits_rename_and_measure_nothing(self) -> None:
        swatch = self.swatch(0.06, 0.5, 0.5)
        own = classed(swatch, ClassLimits(veil=(0.1, 0.2, 0.4), removed=(0.2, 0.4, 0.55)))
        self.assertEqual((own["hiding"]["class"], own["lifting"]["class"]), ("transparent", "low"))
        self.assertEqual(own["hiding"]["veil"], 0.06)
        self.assertEqual(own["hiding"]["next_class"]["class"], "semi-transparent")
        self.assertAlmostEqual(own["hiding"]["next_class"]["away"], 0.04)
        self.assertEqual(own["lifting"]["next_class"], {"class": "non-staining", "away": 0.55 - 0.5})
        self.assertEqual(swatch["hiding"]["class"], "semi-transparent")

    def test_figures_without_a_class_get_none(self) -> None:
        plain = {"hiding": {"veil": 0.06, "class": None}, "lifting": {"removed": None, "class": None}}
        self.assertEqual(classed(plain, USUAL), plain)

    def test_limits_that_part_nothing_are_refused(self) -> None:
        for veil in ((0.1, 0.1, 0.3), (0.0, 0.1, 0.2), (0.1, 0.2, 1.0), (0.1, 0.2), (0.3, 0.2, 0.4), (0.1, float("nan"), 0.3)):
            with self.assertRaises(ClassLimitsError):
                ClassLimits(veil=veil).checked()
