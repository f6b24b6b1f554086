"""Shots of one card at other moments, the pictures of what its figures rest on, and this bench's own classes."""

import io
from typing import Any

import numpy as np
import tifffile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, TransactionTestCase

from gelvet.site.captures.models import Capture, CaptureState, Original
from gelvet.site.captures.services import companions, lay_beside_the_dry_one
from gelvet.site.captures.storage import store_original
from gelvet.site.library.models import Paint
from gelvet.site.results.models import Measurement
from tests import simulated
from tests.site.interface import Asking
from tests.site.scene import OwnDataFolder, session_with_simulated_card, work


class Moments(OwnDataFolder, Asking, TransactionTestCase):
    def setUp(self) -> None:
        super().setUp()
        _, self.card = session_with_simulated_card()

    def add(self, **light: Any) -> Any:
        file = SimpleUploadedFile("card.tif", simulated.bench().image.read_bytes())
        address = f"/api/cards/{self.card.card_id}/captures"
        return self.client.post(address, {"file": file, **light}, headers={"X-CSRFToken": self.token})

    def test_a_wet_capture_gives_the_dry_one_its_drying_shift_and_a_late_one_is_laid_beside_it(self) -> None:
        self.assertEqual(self.add(state="wet").status_code, 201)
        work()
        self.assertEqual(self.shown_on_the_shelf(), [])
        self.add()
        work()
        self.assertEqual(self.shown_on_the_shelf(), sorted(self.card.paints.values()))
        wet, dry = Capture.objects.order_by("pk")
        self.assertEqual((wet.state, dry.state), (CaptureState.DONE, CaptureState.DONE))
        document = dry.measurements.get().document
        # It was the same scan: nothing has moved.
        self.assertLess(document["swatches"]["S1"]["drying"]["masstone"]["delta_e00"], 0.2)
        self.assertIn("captured wet", wet.measurements.get().document["swatches"]["S1"]["granulation"]["absent"])
        self.assertEqual([c.pk for c in companions(dry)], [wet.pk])
        self.assertEqual(companions(wet), [])
        late = Capture.objects.create(card=self.card, original=dry.original, paint_state="before_lifting", state=CaptureState.DONE)
        lay_beside_the_dry_one(late)
        dry.refresh_from_db()
        self.assertEqual(dry.state, CaptureState.QUEUED)
        self.assertEqual([c.pk for c in companions(dry)], [wet.pk, late.pk])
        spoilt = Capture.objects.create(card=self.card, original=dry.original, paint_state="wet", state=CaptureState.DONE)
        self.assertEqual(companions(dry)[0].pk, spoilt.pk)
        failed = {"calibration": {"gates": [{"id": "clipping", "state": "fail"}]}, "swatches": {}}
        Measurement.objects.create(capture=spoilt, document=failed, inputs={}, algorithm="1", pictures="")
        self.assertEqual([c.pk for c in companions(dry)], [wet.pk, late.pk])
        # A newer one that was taken otherwise does not take its place, nor is it laid beside what it cannot be compared with.
        photograph = Original.objects.create(sha256="0" * 64, name="wet.JPG", size=1)
        other = Capture.objects.create(card=self.card, original=photograph, paint_state="wet", state=CaptureState.DONE)
        self.assertEqual([c.pk for c in companions(dry)], [wet.pk, late.pk])
        dry_one = Original.objects.create(sha256="1" * 64, name="dry.jpg", size=1)
        photographed = Capture.objects.create(card=self.card, original=dry_one, state=CaptureState.DONE)
        self.assertEqual(companions(photographed)[0].pk, other.pk)
        lay_beside_the_dry_one(other)
        self.assertEqual([c.state for c in Capture.objects.filter(pk=photographed.pk)], [CaptureState.QUEUED])
        Capture.objects.filter(pk__in=(photographed.pk, other.pk)).delete()
        self.assert_views()

    def test_a_shot_of_another_moment_that_does_not_fit_costs_the_card_nothing(self) -> None:
        blank = io.BytesIO()
        tifffile.imwrite(blank, np.full((220, 300, 3), 200, np.uint8), photometric="rgb")
        original, _ = store_original(iter([blank.getvalue()]), "other-sheet.tif")
        Capture.objects.create(card=self.card, original=original, paint_state="wet", state=CaptureState.DONE)
        self.add()
        work()
        dry = Capture.objects.get(paint_state="dry")
        self.assertEqual((dry.state, dry.message), (CaptureState.DONE, ""))
        document = dry.measurements.get().document
        self.assertIsNotNone(document["swatches"]["S1"]["masstone"]["lab"])
        self.assertIsNone(document["swatches"]["S1"]["drying"])
        self.assertTrue(any("Measured without other-sheet.tif" in w for w in document["calibration"]["warnings"]))

    def shown_on_the_shelf(self) -> list[int]:
        """Paints that the library calls measured; each of them has its picture there."""
        measured = [p["id"] for p in self.client.get("/api/library").json()["paints"] if p["measured"]]
        for paint in measured:
            response = self.client.get(f"/api/paints/{paint}/strip")
            self.assertEqual(response.status_code, 200)
            response.close()
        return sorted(measured)

    def assert_views(self) -> None:
        """Of the paint's fullest swatch."""
        paint = Paint.objects.order_by("pk")[0]
        views = self.client.get(f"/api/paints/{paint.pk}/profile").json()["swatch"]["views"]
        self.assertTrue({"plain", "grain", "separation"} <= set(views))
        response = self.client.get(views["grain"])
        self.assertEqual((response.status_code, response["Content-Type"]), (200, "image/png"))
        self.assertEqual(b"".join(response)[:4], b"\x89PNG")
        self.assertEqual(self.client.get(views["grain"].replace("grain", "../../scale")).status_code, 404)

    def test_what_no_card_is_is_refused(self) -> None:
        self.assert_problem(self.add(state="damp"), 400, "unknown-state", "before it is lifted")
        device = {"device": "flatbed", "kind": "white-led", "paint_state": "damp"}
        self.assert_problem(
            self.send("post", f"/api/cards/{self.card.card_id}/device", device), 400, "unknown-setting", "states of the paint"
        )


class OwnClasses(Asking, TestCase):
    def test_limits_are_kept_and_impossible_ones_refused(self) -> None:
        usual = self.send("get", "/api/class-limits").json()
        self.assertEqual(usual, {"veil": [0.05, 0.12, 0.3], "removed": [0.3, 0.6, 0.85]})
        own = {"veil": [0.04, 0.1, 0.25], "removed": [0.2, 0.5, 0.8]}
        self.assertEqual(self.send("put", "/api/class-limits", own).json(), own)
        self.assertEqual(self.send("get", "/api/class-limits").json(), own)
        self.assert_problem(self.send("put", "/api/class-limits", {**own, "veil": [0.3, 0.1, 0.25]}), 422, "class-limits", "must rise")
        self.assertEqual(self.send("get", "/api/class-limits").json(), own)
