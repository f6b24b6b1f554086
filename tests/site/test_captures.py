"""Captures: originals kept as they came, jobs that survive, results as versions, pictures and the probe."""

import errno
import hashlib
import io
import json
import os
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db.models import F
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone

from gelvet.core.compare.profile_words import profile_phrases
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Capture, CaptureState, Original
from gelvet.site.captures.services import take_up_lost_jobs
from gelvet.site.captures.storage import original_path
from gelvet.site.captures.tasks import measure_capture
from gelvet.site.demo.services import load_demo
from gelvet.site.library.models import Paint, ReferenceTarget
from tests import simulated
from tests.site.scene import NAMES, OwnDataFolder, session_with_simulated_card, start_worker, work


class Uploads:
    """What a browser does."""

    client: Client
    card: Card

    def upload(self, data: bytes, name: str = "scan.tif") -> Any:
        self.client.get("/")
        token = self.client.cookies["csrftoken"].value
        file = SimpleUploadedFile(name, data)
        return self.client.post(f"/api/cards/{self.card.card_id}/captures", {"file": file}, headers={"X-CSRFToken": token})

    def post(self, path: str, body: object = None) -> Any:
        self.client.get("/")
        token = self.client.cookies["csrftoken"].value
        return self.client.post(path, json.dumps(body), content_type="application/json", headers={"X-CSRFToken": token})


class TakenIn(Uploads, OwnDataFolder, TestCase):
    def setUp(self) -> None:
        _, self.card = session_with_simulated_card()
        self.data_tiff = simulated.bench().image.read_bytes()

    def stored(self) -> list[Path]:
        return [p for p in Path(settings.ORIGINALS_DIR).rglob("*") if p.is_file()]

    def test_the_original_is_kept_byte_for_byte_and_cannot_be_written(self) -> None:
        capture = self.upload(self.data_tiff, "C:\\scans\\card one.tif").json()["capture"]
        digest = hashlib.sha256(self.data_tiff).hexdigest()
        self.assertEqual((capture["sha256"], capture["file"], capture["state"]), (digest, "card one.tif", "queued"))
        path = original_path(digest)
        self.assertEqual(path.read_bytes(), self.data_tiff)
        self.assertEqual(path.stat().st_mode & 0o222, 0)
        back = self.client.get(f"/api/captures/{capture['id']}/original")
        self.assertEqual(b"".join(back.streaming_content), self.data_tiff)  # type: ignore[attr-defined]

    def test_the_same_file_twice_is_recognised(self) -> None:
        first, second = self.upload(self.data_tiff).json(), self.upload(self.data_tiff, "copy.tif").json()
        self.assertEqual((first["known"], second["known"]), (False, True))
        self.assertEqual(first["capture"]["id"], second["capture"]["id"])
        self.assertEqual(Capture.objects.count(), 1)

    def test_what_is_no_image_is_refused_in_a_sentence(self) -> None:
        for data, code in ((b"", "empty-file"), (b"not a picture at all", "not-an-image")):
            response = self.upload(data, "notes.tif")
            self.assertEqual((response.status_code, response.json()["code"]), (422, code))
            self.assertIn("notes.tif", response.json()["title"])
        self.assertEqual(Capture.objects.count(), 0)

    def test_a_card_without_reference_says_what_to_do_first(self) -> None:
        Card.objects.update(reference="")
        response = self.upload(self.data_tiff)
        self.assertEqual((response.status_code, response.json()["code"]), (409, "no-reference"))

    def test_a_full_disk_loses_nothing_and_leaves_nothing(self) -> None:
        self.upload(self.data_tiff)
        before = self.stored()
        with mock.patch("gelvet.site.captures.storage.os.fsync", side_effect=OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))):
            response = self.upload(self.data_tiff + b"more", "second.tif")
        self.assertEqual((response.status_code, response.json()["code"]), (507, "disk-full"))
        self.assertIn("second.tif was not stored", response.json()["title"])
        self.assertEqual(self.stored(), before)
        self.assertEqual(Original.objects.count(), 1)

    def test_too_large_is_refused_while_it_arrives(self) -> None:
        with self.settings(MAXIMUM_UPLOAD_BYTES=1000):
            self.assertEqual(self.upload(self.data_tiff).status_code, 413)
        self.assertEqual(Original.objects.count(), 0)

    def test_settings_of_the_devices_are_checked(self) -> None:
        for wrong in ({"kind": "laser"}, {"device": "telescope"}, {"dpi": 5000}, {"fault": "meteor"}, {"lamp_azimuth_deg": 90}):
            with self.subTest(wrong=wrong):
                response = self.post(f"/api/cards/{self.card.card_id}/device", wrong)
                self.assertEqual(response.json()["code"], "unknown-setting")
        Paint.objects.filter(name=NAMES[0]).update(pigments=["PR999"])
        response = self.post(f"/api/cards/{self.card.card_id}/device", {"kind": "white-led", "dpi": 300})
        self.assertEqual(response.json()["code"], "no-optics")


class Measuring(Uploads, OwnDataFolder, TransactionTestCase):
    """With a real worker on the real queue."""

    def setUp(self) -> None:
        _, self.card = session_with_simulated_card()
        self.capture = self.upload(simulated.bench().image.read_bytes()).json()["capture"]

    def state(self) -> dict[str, Any]:
        found: dict[str, Any] = self.client.get(f"/api/captures/{self.capture['id']}").json()
        return found

    def test_a_file_becomes_figures_pictures_a_profile_and_a_comparison(self) -> None:
        work()
        self.assertEqual((self.state()["state"], self.state()["measured"]), ("done", True))
        reply = self.client.get(f"/api/captures/{self.capture['id']}/measurement").json()
        expected = simulated.measured().document
        self.assertEqual(reply["document"]["swatches"], json.loads(json.dumps(expected["swatches"])))
        self.assert_pictures(reply)
        self.assert_probe()
        self.assert_profile_and_comparison()
        self.assert_versions(reply)

    def assert_pictures(self, reply: dict[str, Any]) -> None:
        base = f"/api/captures/{self.capture['id']}"
        for address in (f"{base}/tiles/0/0/0", f"{base}/crops/S1.wash", f"{base}/card.jpg"):
            response = self.client.get(address)
            self.assertEqual((response.status_code, response["Content-Type"]), (200, "image/jpeg"), address)
        self.assertEqual(self.client.get(f"{base}/crops/nothing").status_code, 404)
        self.assertAlmostEqual(reply["scale"]["width"] / reply["scale"]["pixels_per_mm"], 210, delta=0.2)

    def assert_probe(self) -> None:
        base = f"/api/captures/{self.capture['id']}/probe"
        zone = simulated.bench().layout.zone("S3.masstone").rect
        x, y = zone.centre
        probe = self.client.get(base, {"x_mm": str(x), "y_mm": str(y)}).json()
        lab = simulated.measured().document["zones"]["S3.masstone"]["lab"]
        self.assertAlmostEqual(probe["lab"][0], lab[0], delta=1.5)
        self.assertEqual(self.client.get(base, {"x_mm": "-5", "y_mm": "3"}).status_code, 404)

    def assert_profile_and_comparison(self) -> None:
        one, two, three = Paint.objects.order_by("pk")
        profile = self.client.get(f"/api/paints/{one.pk}/profile").json()
        figures = simulated.measured().document["swatches"]["S1"]
        self.assertEqual([said["text"] for said in profile["sentences"]], [p.text for p in profile_phrases(figures)])
        self.assertGreaterEqual(len(profile["sentences"]), 6)
        self.assertEqual(profile["swatch"]["tier"], "target")
        self.assertAlmostEqual(profile["swatch"]["crops"]["wash"]["width_mm"], 31.2, places=3)
        self.assertEqual(self.client.get(f"/api/paints/{one.pk}/strip").status_code, 200)
        reply = self.client.get("/api/compare", {"paints": f"{one.pk},{two.pk},{three.pk}"}).json()
        self.assertEqual([(p["first"], p["second"]) for p in reply["pairs"]], [(one.pk, two.pk), (one.pk, three.pk), (two.pk, three.pk)])
        self.assertTrue(reply["pairs"][0]["phrases"])
        self.assertEqual(self.client.get("/api/compare", {"paints": "1,2,3,4,5,6,7"}).json()["code"], "too-many")
        self.assertEqual(self.client.get("/api/compare", {"paints": "blue"}).json()["code"], "unknown-paint")

    def assert_versions(self, first: dict[str, Any]) -> None:
        self.post(f"/api/captures/{self.capture['id']}/run-again")
        work()
        second = self.client.get(f"/api/captures/{self.capture['id']}/measurement").json()
        self.assertEqual((first["versions"], second["versions"]), (1, 2))
        self.assertEqual(second["document"], first["document"])

    def test_what_cannot_be_measured_says_why_and_keeps_the_file(self) -> None:
        image = simulated.bench().image.read_bytes()
        broken = self.upload(image[: len(image) // 2], "half.tif").json()["capture"]
        work()
        state = self.client.get(f"/api/captures/{broken['id']}").json()
        self.assertEqual(state["state"], "failed")
        self.assertIn("half.tif", state["message"])
        self.assertNotIn(str(settings.ORIGINALS_DIR), state["message"])
        self.assertTrue(original_path(broken["sha256"]).exists())

    def test_a_cancelled_job_does_nothing_and_can_be_run_again(self) -> None:
        self.assertEqual(self.post(f"/api/captures/{self.capture['id']}/cancel").json()["state"], "cancelled")
        work()
        self.assertFalse(self.state()["measured"])
        self.assertEqual(self.post(f"/api/captures/{self.capture['id']}/cancel").status_code, 409)
        self.post(f"/api/captures/{self.capture['id']}/run-again")
        self.assertEqual(self.post(f"/api/captures/{self.capture['id']}/run-again").status_code, 409)
        work()
        self.assertTrue(self.state()["measured"])

    def test_a_killed_workers_job_is_taken_up_again(self) -> None:
        """The worker process is killed in the middle of measuring; once it has been silent long enough, another resumes."""
        worker = start_worker(self.data)
        while self.state()["share"] < 0.1 and worker.poll() is None:
            time.sleep(0.1)
        worker.kill()
        worker.wait()
        self.assertEqual(self.state()["state"], "running")
        self.assertEqual(take_up_lost_jobs(), 0)  # not yet: it might only be slow
        Capture.objects.update(heard=F("heard") - timedelta(seconds=settings.JOB_LEASE_SECONDS + 5))
        self.assertEqual(take_up_lost_jobs(), 1)
        self.assertEqual(take_up_lost_jobs(), 0)
        self.assertEqual(self.state()["state"], "queued")
        work()
        self.assertTrue(self.state()["measured"])
        self.assertEqual(Capture.objects.get().measurements.count(), 1)

    def test_a_job_that_kills_every_worker_is_given_up(self) -> None:
        silent = timezone.now() - timedelta(seconds=settings.JOB_LEASE_SECONDS + 5)
        Capture.objects.update(state=CaptureState.RUNNING, heard=silent, attempts=settings.JOB_ATTEMPTS)
        take_up_lost_jobs()
        self.assertEqual(self.state()["state"], "failed")
        self.assertIn("interrupted", self.state()["message"])

    def test_a_worker_that_was_overtaken_stores_nothing(self) -> None:
        stale = str(Capture.objects.get().attempt)
        Capture.objects.update(attempt=uuid.uuid4())
        measure_capture.call(self.capture["id"], stale)
        self.assertFalse(self.state()["measured"])


class Demo(OwnDataFolder, TestCase):
    def test_the_scenario_is_large_enough_invented_and_loaded_once(self) -> None:
        self.assertEqual(load_demo(), 7)
        self.assertEqual(load_demo(), 0)
        self.assertGreaterEqual(Paint.objects.count(), 12)
        self.assertEqual(Paint.objects.values("maker").distinct().count(), 3)
        self.assertEqual(Capture.objects.filter(state=CaptureState.QUEUED).count(), 7)
        self.client.get("/")
        self.assertEqual(self.client.get("/api/overview").json()["counts"]["capture"], 7)
        self.assertEqual({d["state"] for d in self.client.get("/api/calendar").json()}, {"done", "coming"})
        target = ReferenceTarget.objects.get().name
        cards = [c for s in self.client.get("/api/overview").json()["sessions"] for c in s["cards"]]
        self.assertEqual({c["target"] for c in cards if c["has_reference"]}, {target})


class Settings(TestCase):
    def test_an_address_that_others_could_use_is_refused_at_start(self) -> None:
        from gelvet.site.checks import loopback_only

        self.assertEqual(loopback_only(None), [])
        with self.settings(ALLOWED_HOSTS=["127.0.0.1", "studio.example"]):
            self.assertEqual([e.id for e in loopback_only(None)], ["gelvet.E001"])

    def test_migrations_are_complete(self) -> None:
        from django.core.management import call_command

        call_command("makemigrations", check=True, dry_run=True, stdout=io.StringIO())
