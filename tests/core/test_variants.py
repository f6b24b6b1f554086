"""Cards of other kinds: what can still be measured when zones are missing, shared, small or elsewhere, and what is said."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np

from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.reading import Picture
from gelvet.core.card.layout import Layout, Rect, Zone
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_xyz, xyz_to_lab
from gelvet.core.formats.measurement_file import measurement_document
from gelvet.core.measure.card import measure_card
from gelvet.core.measure.dilution.path import dilution_path
from gelvet.core.measure.quantities.colour import DilutionPath
from gelvet.core.measure.values import ZoneColour, ZonePixels
from gelvet.core.measure.zone.colour import zone_colour, zone_pixels
from gelvet.core.measure.zone.light import zone_light
from tests import simulated

ANY_ZONE = Zone(id="S1.wash", kind="wash", rect=Rect(10, 10, 25, 15))


@lru_cache(maxsize=1)
def calibrated() -> Any:
    made = simulated.bench()
    return calibrate(Picture(pixels=made.capture.image), made.layout, made.reference)


def measured(change: Callable[[Zone], Zone | None]) -> dict[str, Any]:
    """The simulated card measured with its zones changed; None takes a zone away."""
    layout: Layout = simulated.bench().layout
    zones = tuple(z for z in map(change, layout.zones) if z is not None)
    capture = replace(calibrated(), layout=replace(layout, zones=zones))
    return measurement_document(capture, measure_card(capture), "dry")


def without(*kinds: str) -> dict[str, Any]:
    return measured(lambda zone: None if zone.kind in kinds else zone)


def de00(one: list[float], two: list[float]) -> float:
    return float(ciede2000(np.array(one), np.array(two)))


class MissingZones(unittest.TestCase):
    truth: dict[str, Any]

    @classmethod
    def setUpClass(cls) -> None:
        cls.truth = simulated.bench().truth["swatches"]

    def test_without_a_masstone_zone_the_deepest_of_the_gradient_stands_for_it(self) -> None:
        swatch = without("masstone")["swatches"]["S1"]
        gradient = simulated.bench().capture.card.zone_xyz["S1.gradient"]
        deepest = gradient[:, : gradient.shape[1] // 10].reshape(-1, 3).mean(axis=0, dtype=float)
        self.assertLess(de00(swatch["masstone"]["lab"], xyz_to_lab(deepest).tolist()), 2.5)
        calibration, _ = calibrated().calibration.colour_uncertainty(np.array(swatch["masstone"]["lab"]))
        self.assertGreaterEqual(swatch["masstone"]["u"], round(calibration, 4))
        self.assertIsNotNone(swatch["wash"]["lab"])

    def test_without_a_wash_zone_grain_is_judged_on_the_middle_of_the_gradient(self) -> None:
        grain = without("wash")["swatches"]["S1"]["granulation"]
        self.assertIsNone(grain["absent"])
        self.assertEqual(grain["where"], "gradient")
        self.assertGreater(grain["index"], 0.5)

    def test_without_a_gradient_the_wash_is_reached_between_the_zones_or_said_to_end(self) -> None:
        swatch = without("gradient")["swatches"]["S1"]
        self.assertLess(de00(swatch["masstone"]["lab"], self.truth["S1"]["masstone"]["lab"]), 4)
        self.assertIsNotNone(swatch["wash"]["lab"])

    def test_what_lacks_its_zones_is_absent_and_names_them(self) -> None:
        cases = {"over_ink": "hiding", "beside_ink": "hiding", "lifted": "lifting", "unlifted": "lifting"}
        for kind, quantity in cases.items():
            with self.subTest(kind=kind):
                found = without(kind)["swatches"]["S2"][quantity]
                self.assertIn(kind, found["absent"])
                self.assertIsNone(found["class"])

    def test_without_bare_paper_nothing_relative_is_claimed(self) -> None:
        document = without("paper")
        swatch = document["swatches"]["S1"]
        for quantity in ("hue_shift", "value_range", "granulation", "hiding", "lifting"):
            self.assertIn("paper", swatch[quantity]["absent"])
        self.assertIsNone(document["zones"]["S1.masstone"]["paper_relative_lab"])
        self.assertLess(de00(document["zones"]["S1.masstone"]["lab"], self.truth["S1"]["masstone"]["lab"]), 4)


class OtherPlaces(unittest.TestCase):
    def test_one_ink_line_serves_every_swatch(self) -> None:
        def share(zone: Zone) -> Zone | None:
            if zone.kind != "ink":
                return zone
            return replace(zone, swatch=None) if zone.id == "S1.ink" else None

        shared, own = measured(share)["swatches"], measured(lambda zone: zone)["swatches"]
        for name in ("S1", "S2", "S3"):
            self.assertAlmostEqual(shared[name]["hiding"]["veil"], own[name]["hiding"]["veil"], delta=0.004)

    def test_a_zone_off_the_image_is_absent_with_its_reason(self) -> None:
        def push(zone: Zone) -> Zone:
            return replace(zone, rect=Rect(-60, 40, 12, 12)) if zone.id == "S1.masstone" else zone

        document = measured(push)
        self.assertIn("only 0 %", document["zones"]["S1.masstone"]["absent"])
        self.assertIsNotNone(document["swatches"]["S2"]["masstone"]["lab"])

    def test_a_tiny_wash_is_too_small_for_grain_but_has_its_colour(self) -> None:
        def shrink(zone: Zone) -> Zone:
            return replace(zone, rect=Rect(zone.rect.x + 5, zone.rect.y + 5, 4, 3)) if zone.id == "S1.wash" else zone

        document = measured(shrink)
        self.assertIn("too small for grain", document["swatches"]["S1"]["granulation"]["absent"])
        self.assertIsNotNone(document["zones"]["S1.wash"]["lab"])

    def test_kinds_that_are_not_known_yet_still_have_a_colour(self) -> None:
        def rename(zone: Zone) -> Zone:
            return replace(zone, kind="glaze", extra={"layers": 2}) if zone.id == "S3.wash" else zone

        document = measured(rename)
        self.assertIsNotNone(document["zones"]["S3.wash"]["lab"])
        self.assertIsNone(document["swatches"]["S3"]["glaze"])


class ZoneStatistics(unittest.TestCase):
    def pixels(self, lightness: "np.ndarray[Any, Any]", good: "np.ndarray[Any, Any] | None" = None) -> ZonePixels:
        xyz = lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)).astype(np.float32)
        return ZonePixels(xyz=xyz, good=np.ones(lightness.shape, bool) if good is None else good, pixels_per_mm=8.0)

    def test_the_mean_is_taken_in_light_not_in_lightness(self) -> None:
        halves = np.where(np.arange(200)[None, :] < 100, 20.0, 90.0) * np.ones((120, 1))
        found = zone_colour(calibrated(), ANY_ZONE, self.pixels(halves))
        assert isinstance(found, ZoneColour)
        expected = lab_to_xyz(np.array([[20.0, 0, 0], [90.0, 0, 0]])).mean(axis=0)
        np.testing.assert_allclose(found.xyz, expected, rtol=1e-5)
        self.assertGreater(found.lab[0], 60)
        self.assertAlmostEqual(float(found.sd[0]), 35, delta=0.1)

    def test_masked_pixels_do_not_count_and_too_few_are_refused(self) -> None:
        lightness = np.full((120, 200), 60.0)
        lightness[:, :100] = 10
        good = np.zeros(lightness.shape, bool)
        good[:, 120:] = True
        found = zone_colour(calibrated(), ANY_ZONE, self.pixels(lightness, good))
        assert isinstance(found, ZoneColour)
        self.assertAlmostEqual(float(found.lab[0]), 60, delta=1e-3)
        self.assertAlmostEqual(found.used_fraction, 0.4)
        good[:, 150:] = False
        refused = zone_colour(calibrated(), ANY_ZONE, self.pixels(lightness, good))
        self.assertNotIsInstance(refused, ZoneColour)

    def test_uneven_zones_are_less_certain(self) -> None:
        rng = np.random.default_rng(0)
        blotches = np.kron(rng.normal(0, 1, (6, 10)), np.ones((20, 20)))
        spread = []
        for amount in (0.5, 3.0):
            found = zone_colour(calibrated(), ANY_ZONE, self.pixels(60 + amount * blotches))
            assert isinstance(found, ZoneColour)
            spread.append(found.u_spatial)
        self.assertAlmostEqual(spread[1] / spread[0], 6, delta=1.5)

    def test_zones_are_read_a_little_inside_their_border(self) -> None:
        zone = simulated.bench().layout.zone("S1.wash")
        found = zone_pixels(calibrated(), zone_light(calibrated(), zone))
        height, width = (side / found.pixels_per_mm for side in found.good.shape)
        self.assertAlmostEqual(zone.rect.width - width, 1.2, delta=0.15)
        self.assertAlmostEqual(zone.rect.height - height, 1.2, delta=0.15)


class OpaquePaints(unittest.TestCase):
    def test_a_paint_whose_depth_falls_toward_its_masstone_is_ordered_by_place(self) -> None:
        """A chalky paint: thick it is pale, half thick it is deepest, thin it vanishes."""
        paper = np.array([85.0, 88.0, 70.0])
        along = np.linspace(0, 1, 480)
        depth = np.interp(along, [0, 0.55, 1], [0.35, 0.6, 0.02])
        xyz = paper * 10 ** -(depth[None, :, None] * np.array([0.5, 0.8, 1.0]))
        gradient = ZonePixels(xyz=np.repeat(xyz, 100, axis=0).astype(np.float32), good=np.ones((100, 480), bool), pixels_per_mm=8.0)
        masstone = ZoneColour(
            xyz=paper * 10 ** -(0.35 * np.array([0.5, 0.8, 1.0])),
            sd=np.zeros(3),
            u=0.3,
            u_lab=np.full(3, 0.3),
            u_spatial=0.1,
            used_fraction=1,
        )
        found = dilution_path(gradient, "+x", [], masstone, paper)
        assert isinstance(found, DilutionPath)
        self.assertTrue(found.by_place)
        np.testing.assert_allclose(np.log10(paper / found.wash_xyz)[2], 0.15 * 0.35, atol=0.012)


if __name__ == "__main__":
    unittest.main()
