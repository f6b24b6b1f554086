"""What a damp brush takes away, what stays, and what it does to the paper."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import lit_shots
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.grain.roughness import paper_relief, rise_of_roughness, roughness
from gelvet.core.measure.layers.lifting import lifting
from gelvet.core.measure.quantities.layers import Lifting
from gelvet.core.measure.quantities.swatch import nothing_measured
from gelvet.core.measure.quantities.texture import Component
from gelvet.core.measure.ratios import only_ratios
from gelvet.core.measure.values import Absent, ZoneColour
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera
from gelvet.core.simulate.lamp import Lamp, slopes
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.truth import card_truth
from tests import zones
from tests.lamps import measured_with, photographed
from tests.wet_card import wet_card

PAPER = np.array([86.0, 89.0, 70.0])


def colour(xyz: Floats) -> ZoneColour:
    return ZoneColour(xyz=xyz, sd=np.full(3, 0.3), u=0.1, u_lab=np.full(3, 0.1), u_spatial=0.05, used_fraction=1.0)


class WhatStays(unittest.TestCase):
    def test_lifting_is_told_from_the_same_place_where_nothing_was_left_beside_it(self) -> None:
        card = wet_card()
        layout = replace(card.layout, zones=tuple(z for z in card.layout.zones if z.kind != "unlifted"))
        alone = measure_image(card.images["dry"], layout, card.reference).document["swatches"]["S1"]["lifting"]
        self.assertIn("no unlifted zone", alone["absent"])
        before = ShotFile(path=card.images["before_lifting"], state="before_lifting")
        found = measure_image(card.images["dry"], layout, card.reference, other_shots=[before]).document["swatches"]["S1"]["lifting"]
        self.assertTrue(found["before"])
        self.assertAlmostEqual(found["removed"], card.truths["dry"]["swatches"]["S1"]["lifting"]["removed"], delta=0.03)

    def test_a_spoilt_shot_from_before_lifting_is_told_where_it_alone_could_tell(self) -> None:
        card = wet_card()
        layout = replace(card.layout, zones=tuple(z for z in card.layout.zones if z.kind != "unlifted"))
        bright = np.minimum(tifffile.imread(card.images["before_lifting"]).astype(float) * 1.5, 65535).astype(np.uint16)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bright.tif"
            tifffile.imwrite(path, bright, photometric="rgb")
            before = ShotFile(path=path, state="before_lifting")
            found = measure_image(card.images["dry"], layout, card.reference, other_shots=[before]).document["swatches"]["S1"]["lifting"]
        self.assertEqual((found["removed"], found["absent"]), (None, "before lifting: the capture has no usable bare paper zone"))

    def test_a_card_before_lifting_says_so(self) -> None:
        card = wet_card()
        document = measure_image(card.images["before_lifting"], card.layout, card.reference, state="before_lifting").document
        self.assertIn("before it was lifted", document["swatches"]["S1"]["lifting"]["absent"])
        self.assertIsNotNone(document["swatches"]["S1"]["hiding"]["veil"])

    def test_a_capture_without_reference_tells_shares_and_no_hue_of_what_stays(self) -> None:
        told = lifting(colour(PAPER), colour(0.3 * PAPER), colour(PAPER * [0.9, 0.8, 0.5]))
        assert isinstance(told, Lifting)
        self.assertIsNotNone(told.residue_hue)
        left = only_ratios(replace(nothing_measured(Absent("")), lifting=told)).lifting
        assert isinstance(left, Lifting)
        self.assertEqual((left.removed, left.residue_hue, left.residual_de00), (told.removed, None, None))

    def test_what_stays_is_told_by_its_component(self) -> None:
        blue, red = PAPER * 10 ** -np.array([0.5, 0.4, 0.1]), PAPER * 10 ** -np.array([0.1, 0.3, 0.5])
        parts = (Component(xyz=blue, u=1.0, share=0.5, share_u=0.05), Component(xyz=red, u=1.0, share=0.5, share_u=0.05))
        both = colour(PAPER * 10 ** -np.array([0.6, 0.7, 0.6]))
        left = PAPER * 10 ** -(0.3 * np.array([0.1, 0.3, 0.5]))
        found = lifting(colour(PAPER), both, colour(left), components=parts)
        assert isinstance(found, Lifting)
        self.assertEqual(found.residue_component, 1)
        self.assertAlmostEqual(found.residue_share or 0, 1.0, delta=0.02)
        self.assertAlmostEqual(found.residue_share_before or 0, 0.47, delta=0.05)

    def test_what_stays_is_what_gained_a_share_though_the_other_is_still_more(self) -> None:
        """Three parts of blue and one of red become three of blue and two of red: the red stays."""
        blue, red = np.array([0.5, 0.4, 0.1]), np.array([0.1, 0.3, 0.5])
        parts = tuple(Component(xyz=PAPER * 10**-ink, u=1.0, share=of, share_u=0.05) for ink, of in ((blue, 0.75), (red, 0.25)))
        whole, left, alike = (colour(PAPER * 10 ** -(b * blue + r * red)) for b, r in ((1.2, 0.4), (0.3, 0.2), (0.3, 0.1)))
        found = lifting(colour(PAPER), whole, left, components=parts)
        assert isinstance(found, Lifting)
        self.assertEqual(found.residue_component, 1)
        self.assertAlmostEqual(found.residue_share or 0, 0.4, delta=0.03)
        self.assertAlmostEqual(found.residue_share_before or 0, 0.25, delta=0.03)
        both = lifting(colour(PAPER), whole, alike, components=parts)
        assert isinstance(both, Lifting)
        self.assertIsNone(both.residue_component)


class ThePaper(unittest.TestCase):
    def test_undamaged_paper_is_as_rough_as_paper(self) -> None:
        measured = measured_with(3)
        lights = lit_shots(measured.capture, np.array(measured.document["zones"]["S1.paper"]["xyz"]), measured.shots)
        bare = [z.rect for z in measured.capture.layout.zones_of("paper")]
        paper = roughness(lights, bare)
        rise = rise_of_roughness(lights, bare[0], paper)
        assert rise is not None
        self.assertAlmostEqual(rise.value, 0.0, delta=min(0.15, 2 * rise.u))
        self.assertIsNone(roughness(lights[:1], bare))
        self.assertIsNone(rise_of_roughness(lights, Rect(0, 0, 4, 4), paper))

    def test_relief_is_the_papers_slope_however_low_the_lamp_stood(self) -> None:
        import cv2

        layout = build_card("RELIEF-1", "A6", [SwatchLabel("Any")], Design(tests=()))
        camera = Camera(pixels_per_mm=18.0)
        card = card_for_camera(layout, {"S1": paint_of_codes("Any", ("PB29",), (1.0,))}, camera, 41)
        rise = slopes(card)[0]
        slow = cv2.GaussianBlur(rise, (0, 0), 0.4685 * card.pixels_per_mm)
        true = float(cv2.GaussianBlur(rise - slow, (0, 0), 0.0625 * card.pixels_per_mm).std())
        found = {}
        for elevation in (18.0, 35.0):
            lamp = Lamp(azimuth_deg=0.0, elevation_deg=elevation)
            relief = photographed(card, camera, [lamp], "tiff-16").document["paper"]["relief"]
            self.assertAlmostEqual(relief["slope"] / true, 1, delta=0.15)
            self.assertLess(abs(relief["slope"] - true), 2 * relief["u"])
            found[elevation] = relief["slope"]
        self.assertAlmostEqual(found[18.0] / found[35.0], 1, delta=0.1)
        self.assertIn("low lamp", measured_with(0).document["paper"]["relief"]["absent"])
        lights = lit_shots(measured_with(1).capture, card.paper_xyz, [])
        for impossible in (None, 0.0, 0.35, 90.0, -20.0):
            unsaid = [lights[0], replace(lights[0], raking=True, elevation_deg=impossible)]
            self.assertIn("how low", getattr(paper_relief(unsaid, [Rect(0, 0, 9, 9)]), "reason", ""))

    def test_raised_fibres_are_told_by_how_much_rougher_they_are(self) -> None:
        found, true = _scrubbed()
        self.assertGreater(true["S1"]["lifting"]["damage"], 0.6)
        self.assertLess(abs(true["S2"]["lifting"]["damage"]), 0.2)
        for swatch in ("S1", "S2"):
            self.assertAlmostEqual(found[swatch]["lifting"]["damage"], true[swatch]["lifting"]["damage"], delta=0.2)


def _scrubbed() -> tuple[dict[str, Any], dict[str, Any]]:
    """Figures and truth of two paints that were lifted, the paper roughened under the first, with one low lamp."""
    layout = build_card("SCRUBBED-1", "A6", [SwatchLabel("Scrubbed"), SwatchLabel("Dabbed")], Design(tests=("lifting",)))
    blue = paint_of_codes("Scrubbed", ("PB29",), (1.0,), masstone_amount=2.2)
    camera, lamp = Camera(pixels_per_mm=18.0), Lamp(azimuth_deg=90.0)
    card = card_for_camera(layout, {"S1": replace(blue, scuffs=0.9), "S2": blue}, camera, 31)
    return photographed(card, camera, [lamp], "tiff-16").document["swatches"], card_truth(card)["swatches"]


class ShareLifted(unittest.TestCase):
    def test_share_of_depth_removed(self) -> None:
        found = lifting(zones.colour(zones.PAPER), zones.colour(zones.PAPER * 10**-0.8), zones.colour(zones.PAPER * 10**-0.2))
        assert isinstance(found, Lifting)
        self.assertAlmostEqual(found.removed, 0.75)
        # As a share of a depth of 0.8: more would call paints alike that are not.
        self.assertLess(found.u, 0.007)
        pale = lifting(zones.colour(zones.PAPER), zones.colour(zones.PAPER * 10**-0.1), zones.colour(zones.PAPER * 10**-0.025))
        assert isinstance(pale, Lifting)
        self.assertAlmostEqual(pale.u / found.u, 8)
        unsure = lifting(
            zones.colour(zones.PAPER), replace(zones.colour(zones.PAPER * 10**-0.8), u=4.0), zones.colour(zones.PAPER * 10**-0.2)
        )
        assert isinstance(unsure, Lifting)
        self.assertGreater(unsure.u, 1.5 * found.u)
        self.assertEqual(
            (USUAL.staining(0.9), USUAL.staining(0.7), USUAL.staining(0.4), USUAL.staining(0.1)), ("non-staining", "low", "medium", "high")
        )

    def test_hardly_any_paint_is_absent(self) -> None:
        self.assertIsInstance(lifting(zones.colour(zones.PAPER), zones.colour(zones.PAPER * 0.99), zones.colour(zones.PAPER)), Absent)
