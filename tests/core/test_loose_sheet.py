"""Sheets without a printed card: found swatches against where they were painted, corners, tiers and ratios."""

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import imagecodecs
import numpy as np

from gelvet.cli.main import main
from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Placement, Rect
from gelvet.core.colour.difference import ciede2000
from gelvet.core.errors import LayoutError, NothingMeasurable
from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
from gelvet.core.loose_sheet.found_swatches import largest_rectangle
from gelvet.core.loose_sheet.propose import Given, place_sheet, propose_layout
from gelvet.core.loose_sheet.sheet_corners import find_corners
from gelvet.core.loose_sheet.step_along import step_along
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.unprinted import unprinted
from tests import simulated
from tests.loose import as_eight_bit, photographed, scanned


def _corners(geometry: Geometry) -> Floats:
    width, height = geometry.size_mm
    return geometry.to_pixels(np.array([[0, 0], [width, 0], [width, height], [0, height]]))


def placed(picture: Picture, geometry: Geometry) -> Layout:
    """The sheet's true layout, its corners where they are."""
    layout = unprinted(simulated.bench().layout)
    corners = tuple((float(x), float(y)) for x, y in _corners(geometry))
    height, width = picture.pixels.shape[:2]
    return replace(layout, placement=Placement(corners_px=corners, image_px=(width, height), scale="size"))


def share_inside(rect: Rect, others: list[Rect]) -> float:
    """The share of `rect` that lies inside any of `others`."""
    x, y = np.meshgrid(np.linspace(rect.x, rect.right, 60), np.linspace(rect.y, rect.bottom, 60))
    inside = np.zeros(x.shape, dtype=bool)
    for o in others:
        inside |= (x >= o.x) & (x <= o.right) & (y >= o.y) & (y <= o.bottom)
    return float(inside.mean())


class Finding(unittest.TestCase):
    def found_on_the_sheet(self, picture: Picture, geometry: Geometry) -> tuple[Layout, list[tuple[str, Rect]]]:
        """Proposed zones where the sheet's true corners are known, so that both are in the same millimetres."""
        true = placed(picture, geometry)
        assert true.placement is not None
        given = Given(corners_px=true.placement.corners_px, size_mm=true.size_mm)
        proposal = propose_layout(picture, "OLD-1", given)
        return true, [(z.kind, z.rect) for z in proposal.zones]

    def test_all_paint_is_found_and_nothing_else(self) -> None:
        for name, (picture, geometry) in (("scan", scanned()), ("photograph", photographed())):
            true, zones = self.found_on_the_sheet(picture, geometry)
            painted = [z.rect.inset(-0.9) for z in true.zones if z.swatch and z.kind != "paper"]
            proposed = [rect for kind, rect in zones if kind != "paper"]
            for rect in proposed:
                self.assertGreater(share_inside(rect, painted), 0.97, (name, rect))
            for zone in true.zones:
                if zone.kind in {"masstone", "wash", "gradient", "lifted", "unlifted"}:
                    self.assertGreater(share_inside(zone.rect, [r.inset(-1.2) for r in proposed]), 0.6, (name, zone.id))
            for kind, rect in zones:
                if kind == "paper":
                    self.assertEqual(share_inside(rect, [z.inset(0.9) for z in painted]), 0.0, (name, rect))

    def test_gradients_are_told_with_their_direction_also_when_turned(self) -> None:
        picture, _ = scanned()
        turned = Picture(pixels=np.ascontiguousarray(np.rot90(picture.pixels)), stated_dpi=300.0)
        for shown, axis in ((picture, "+x"), (turned, "-y")):
            zones = propose_layout(shown, "OLD-1").zones
            axes = {z.axis for z in zones if z.kind == "gradient"}
            self.assertEqual(axes, {axis})
            self.assertGreaterEqual(sum(z.kind == "gradient" for z in zones), 3)

    def test_scale_comes_from_a_scanners_file_or_from_the_person_never_from_a_photograph(self) -> None:
        picture, _ = scanned()
        placement, size = place_sheet(picture, Given())
        self.assertEqual(placement.scale, "file")
        self.assertAlmostEqual(size[0], picture.pixels.shape[1] / 300 * 25.4, delta=0.3)
        photo = replace(picture, provenance={"exposure_s": 0.01})
        self.assertEqual(place_sheet(photo, Given())[0].scale, "unknown")
        self.assertEqual(place_sheet(photo, Given(pixels_per_mm=10.0))[0].scale, "clicks")
        self.assertEqual(place_sheet(replace(picture, stated_dpi=72.0), Given())[0].scale, "unknown")
        self.assertEqual(place_sheet(photo, Given(size_mm=(210, 148)))[1], (210, 148))

    def test_white_paper_without_paint_is_said_to_hold_none(self) -> None:
        blank = Picture(pixels=np.full((900, 1200, 3), 240, np.uint8), source="blank.png")
        with self.assertRaisesRegex(NothingMeasurable, "No swatches were found .* blank.png"):
            propose_layout(blank, "B")

    def test_paint_over_all_the_sheet_leaves_no_paper(self) -> None:
        rng = np.random.default_rng(3)
        full = Picture(pixels=rng.integers(20, 90, (600, 800, 3)).astype(np.uint8), source="full.png")
        with self.assertRaises(NothingMeasurable):
            propose_layout(full, "B")


class Corners(unittest.TestCase):
    def test_the_corners_of_a_photographed_sheet_are_found(self) -> None:
        picture, geometry = photographed()
        found = find_corners(picture)
        assert found is not None
        apart = np.linalg.norm(np.array(found) - _corners(geometry), axis=1)
        self.assertLess(apart.max(), 0.006 * max(picture.pixels.shape[:2]))

    def test_a_sheet_that_fills_the_image_has_none(self) -> None:
        self.assertIsNone(find_corners(Picture(pixels=np.full((500, 700, 3), 235, np.uint8))))

    def test_corners_the_wrong_way_round_and_tags_beside_them_are_refused(self) -> None:
        picture, geometry = scanned()
        document = layout_to_document(placed(picture, geometry))
        self.assertEqual(layout_from_document(document, "sheet"), layout_from_document(json.loads(json.dumps(document)), "sheet"))
        document["placement"]["corners_px"].reverse()
        with self.assertRaisesRegex(LayoutError, "clockwise"):
            layout_from_document(document, "sheet")
        mixed = {**layout_to_document(simulated.bench().layout), "placement": layout_to_document(placed(picture, geometry))["placement"]}
        with self.assertRaisesRegex(LayoutError, "one or the other"):
            layout_from_document(mixed, "sheet")
        del document["placement"]
        with self.assertRaisesRegex(LayoutError, "fewer than three tags"):
            layout_from_document(document, "sheet")


class Tiers(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def measured(self, pixels: Image, layout: Layout, profile: bytes | None = None) -> dict[str, object]:
        path = self.folder / f"{len(list(self.folder.iterdir()))}.png"
        path.write_bytes(imagecodecs.png_encode(pixels, level=1) if profile is None else _png_with_profile(pixels, profile))
        return measure_image(path, layout, None).document

    def test_the_paper_taken_for_white_gives_the_tier_grey_and_an_uncertainty_that_holds(self) -> None:
        inside = []
        for picture, geometry in (scanned(), photographed()):
            document = self.measured(as_eight_bit(picture.pixels), placed(picture, geometry))
            calibration = document["calibration"]
            assert isinstance(calibration, dict) and isinstance(document["zones"], dict)
            self.assertEqual(calibration["tier"], "grey")
            reference = next(g for g in calibration["gates"] if g["id"] == "reference")
            self.assertEqual(reference["state"], "warn")
            self.assertIn("taken for white", reference["advice"])
            for name, true in simulated.bench().truth["zones"].items():
                zone = document["zones"].get(name)
                if zone and zone["lab"]:
                    error = float(ciede2000(np.array(zone["lab"]), np.array(true["lab"])))
                    inside.append(error < 2 * zone["u"])
        self.assertGreater(len(inside), 20)
        self.assertGreater(np.mean(inside), 0.85)

    def test_a_profile_is_believed_where_it_makes_the_paper_paper(self) -> None:
        picture, geometry = scanned()
        srgb = imagecodecs.cms_profile("srgb")
        layout = placed(picture, geometry)
        bright = as_eight_bit(picture.pixels)
        bright = np.clip(bright.astype(float) * 245 / np.median(bright[:40]), 0, 255).astype(np.uint8)
        for pixels, tier in ((bright, "profile"), ((bright * 0.6).astype(np.uint8), "grey")):
            calibration = self.measured(pixels, layout, srgb)["calibration"]
            assert isinstance(calibration, dict)
            self.assertEqual(calibration["tier"], tier)

    def test_sixteen_bits_without_a_profile_are_not_guessed_at(self) -> None:
        picture, geometry = scanned()
        document = self.measured(picture.pixels, placed(picture, geometry))
        assert isinstance(document["calibration"], dict) and isinstance(document["swatches"], dict)
        self.assertEqual(document["calibration"]["tier"], "none")
        self.assertIn("does not say how its values are meant", document["swatches"]["S1"]["hiding"]["absent"])

    def test_a_card_without_a_reference_gives_ratios_and_no_colours(self) -> None:
        bench = simulated.bench()
        document = self.measured(as_eight_bit(bench.capture.image), bench.layout)
        assert isinstance(document["calibration"], dict) and isinstance(document["swatches"], dict) and isinstance(document["zones"], dict)
        self.assertEqual(document["calibration"]["tier"], "none")
        self.assertTrue(all(z["lab"] is None for z in document["zones"].values()))
        for name, true in bench.truth["swatches"].items():
            found = document["swatches"][name]
            self.assertAlmostEqual(found["hiding"]["veil"], true["hiding"]["veil"], delta=0.03)
            self.assertAlmostEqual(found["lifting"]["removed"], true["lifting"]["removed"], delta=0.08)
            self.assertEqual((found["hiding"]["class"], found["lifting"]["class"], found["lifting"]["residual_de00"]), (None, None, None))
            self.assertIn("ratios only", found["hue_shift"]["absent"])

    def test_grain_needs_a_printed_card_and_says_so(self) -> None:
        picture, geometry = scanned()
        document = self.measured(as_eight_bit(picture.pixels), placed(picture, geometry))
        assert isinstance(document["swatches"], dict)
        self.assertIn("blur", document["swatches"]["S1"]["granulation"]["absent"])

    def test_another_image_than_the_corners_were_set_in_is_refused(self) -> None:
        picture, geometry = scanned()
        with self.assertRaisesRegex(NothingMeasurable, "find the swatches of this image anew"):
            self.measured(as_eight_bit(picture.pixels)[:-40], placed(picture, geometry))


def _png_with_profile(pixels: Image, profile: bytes) -> bytes:
    import io

    from PIL import Image as Pillow

    stream = io.BytesIO()
    Pillow.fromarray(pixels).save(stream, "PNG", icc_profile=profile, compress_level=1)
    return stream.getvalue()


class Pieces(unittest.TestCase):
    def test_a_step_between_two_paints_is_found_where_it_is_and_a_gradient_has_none(self) -> None:
        rng = np.random.default_rng(1)
        noise = rng.normal(0, 0.02, (60, 120, 3))
        flat = np.concatenate([np.full((50, 3), 0.6), np.full((70, 3), 0.2)]) + noise
        at = step_along(flat, 6.0)
        assert at is not None
        self.assertLessEqual(abs(at - 50), 3)
        self.assertIsNone(step_along(np.linspace(0.9, 0.1, 120)[:, None] * [1, 0.7, 0.2] + noise, 6.0))

    def test_a_blot_on_half_the_breadth_is_no_step(self) -> None:
        """A clump of strong grain in a narrow swatch cut it in two."""
        density = np.full((30, 120, 3), 0.3) + np.random.default_rng(2).normal(0, 0.02, (30, 120, 3))
        density[:18, 48:] += 0.3
        self.assertIsNone(step_along(density, 6.0))

    def test_the_largest_rectangle_lies_inside(self) -> None:
        mask = np.zeros((60, 90), np.uint8)
        cv2.ellipse(mask, (45, 30), (40, 25), 0, 0, 360, 1, -1)
        found = largest_rectangle(mask > 0)
        assert found is not None
        left, top, right, bottom = found
        self.assertTrue(mask[top:bottom, left:right].all())
        self.assertGreater((right - left) * (bottom - top), 0.9 * 2 * 40 * 25)  # an ellipse holds 2ab
        self.assertIsNone(largest_rectangle(np.zeros((20, 20), bool)))


class CommandLine(unittest.TestCase):
    def test_found_swatches_become_a_layout_that_measures(self) -> None:
        picture, _ = scanned()
        with tempfile.TemporaryDirectory() as folder:
            image = Path(folder) / "old.png"
            image.write_bytes(imagecodecs.png_encode(as_eight_bit(picture.pixels)))
            self.assertEqual(main(["find", str(image), "--dpi", "300", "--out", folder]), 0)
            out = Path(folder) / "old.measure.json"
            self.assertEqual(main(["measure", str(image), "--layout", str(Path(folder) / "old.card.json"), "--out", str(out)]), 0)
            document = json.loads(out.read_text())
            self.assertEqual(document["calibration"]["tier"], "grey")
            self.assertGreaterEqual(sum(s["masstone"]["lab"] is not None for s in document["swatches"].values()), 3)
            for wrong in (["--size", "12"], ["--dpi", "-3"], ["--corners", "1,2", "3,4", "x", "7,8"], ["--id", "a/b"]):
                self.assertEqual(main(["find", str(image), *wrong, "--out", folder]), 2)
