"""The inbox: files find their card; what each card lacks; replicates and papers against their records."""

import copy
import io
from datetime import timedelta
from typing import Any

import numpy as np
import tifffile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from gelvet.site.bench.book import bench_of, do_step, mishap
from gelvet.site.bench.models import Card, Timer
from gelvet.site.bench.services import create_session
from gelvet.site.captures.models import Arrival, Capture
from gelvet.site.library.models import Paper
from gelvet.site.library.papers import paper_notes, paper_records
from gelvet.site.results.colours import keep_colours
from gelvet.site.results.models import Measurement
from tests import simulated
from tests.site.interface import Interface
from tests.site.scene import OwnDataFolder, paints, plan, session_with_simulated_card


class Inbox(OwnDataFolder, Interface):
    def drop(self, name: str, data: bytes, state: str = "dry") -> Any:
        body = {"file": SimpleUploadedFile(name, data), "state": state}
        return self.client.post("/api/inbox", body, headers={"X-CSRFToken": self.token})

    def stage(self) -> list[tuple[str, list[str]]]:
        return [(w["stage"], w["lacks"]) for w in self.send("get", "/api/inbox").json()["waiting"]]

    def test_a_scan_finds_its_card_whichever_way_up_and_only_once(self) -> None:
        _, card = session_with_simulated_card()
        image = tifffile.imread(simulated.bench().image)
        turned = io.BytesIO()
        tifffile.imwrite(turned, np.rot90(image), photometric="rgb", compression="zlib")
        arrived = self.drop("a.tif", turned.getvalue())
        self.assertEqual((arrived.status_code, arrived.json()[0]["card_id"]), (201, card.card_id))
        [(stage, lacks)] = self.stage()
        self.assertEqual(stage, "being measured")
        self.assertFalse(any("flat shot" in lack for lack in lacks), lacks)
        [again] = self.drop("b.tif", turned.getvalue()).json()
        self.assertIn("has it already", again["outcome"])
        self.assertEqual(Capture.objects.count(), 1)

    def test_each_other_file_gets_its_line(self) -> None:
        plain = io.BytesIO()
        tifffile.imwrite(plain, np.full((200, 300, 3), 220, np.uint8), photometric="rgb")
        foreign = simulated.bench().image.read_bytes()  # a card that this bench does not know
        for name, data, words in (("plain.tif", plain.getvalue(), "no card code"), ("notes.txt", b"masstone first", "notes.txt"),
                                  ("empty.tif", b"", "empty"), ("half.tif", foreign[: len(foreign) // 3], "half.tif"),
                                  ("foreign.tif", foreign, "does not know")):  # fmt: skip
            with self.subTest(name=name):
                [reply] = self.drop(name, data).json()
                self.assertIn(words, reply["outcome"])
                self.assertIsNone(reply["card_id"])
        self.assertEqual(Arrival.objects.count(), 5)
        self.assertEqual(Capture.objects.count(), 0)
        self.assert_problem(self.drop("x.tif", b"x", state="damp"), 400, "unknown-state")

    def test_a_card_goes_from_painting_over_drying_to_due(self) -> None:
        card = create_session(plan(paints=[p.pk for p in paints()])).cards.get()
        self.assertEqual(self.stage()[0][0], "to paint")
        for step in bench_of(card.card_id).steps:
            do_step(card.card_id, step.id)
            if step.kind == "paint":
                self.assertEqual(self.stage()[0][0], "being painted")
            if step.kind == "dry":
                break
        self.assertEqual(self.stage()[0][0], "drying")
        Timer.objects.update(started=timezone.now() - timedelta(hours=2))
        self.assertEqual(self.stage()[0][0], "dry and due")
        self.assertIn("a flat shot in even light, dry", self.stage()[0][1])
        self.assertIn("the values of its reference target", self.stage()[0][1])

    def test_sparkle_asks_for_low_lamps(self) -> None:
        create_session(plan(question="sparkle", paints=[p.pk for p in paints()]))
        self.assertTrue(any("low lamp" in lack for lack in self.stage()[0][1]))


class Records(Interface):
    """Measurements as a worker would have stored them, copied to other cards."""

    def setUp(self) -> None:
        super().setUp()
        self.stock = [p.pk for p in paints()]
        self.papers = [Paper.objects.create(name=name) for name in ("block", "pad")]
        self.cards = [
            create_session(plan(name=f"Session {i}", paper=self.papers[paper].pk, paints=self.stock, practice=practice)).cards.get()
            for i, (paper, practice) in enumerate([(0, {}), (0, {}), (1, {}), (0, {"woken": "fresh"}), (0, {"woken": "re-wetted"})])
        ]

    def measured(self, card: Card, whiter: float = 0.0, state: str = "dry") -> Measurement:
        document = copy.deepcopy(simulated.measured().document)
        for name, zone in document["zones"].items():
            if name.endswith(".paper"):
                zone["lab"][0] += whiter
        capture = Capture.objects.create(card=card, state="done", paint_state=state)
        measurement = Measurement.objects.create(capture=capture, document=document, inputs={}, algorithm="test", pictures="none")
        keep_colours(measurement)
        return measurement

    def test_replicates_are_told_from_swatches_that_differ_in_something(self) -> None:
        for index in (1, 2, 3, 4):
            self.measured(self.cards[index])
        others = {o["card_id"]: o for o in self.send("get", f"/api/paints/{self.stock[0]}/profile").json()["others"]}
        same_paper = others[self.cards[1].card_id]
        self.assertTrue(same_paper["replicate"])
        self.assertEqual((same_paper["masstone_de00"], same_paper["real"]), (0.0, False))
        # A card that is not lifted yet is as dry as the finished one; a wet one is not.
        for state, replicate in (("before_lifting", True), ("wet", False)):
            Capture.objects.filter(card=self.cards[1]).update(paint_state=state)
            found = self.send("get", f"/api/paints/{self.stock[0]}/profile").json()["others"]
            self.assertEqual([o["replicate"] for o in found if o["card_id"] == self.cards[1].card_id], [replicate])
        pad = others[self.cards[2].card_id]
        self.assertFalse(pad["replicate"])
        self.assertIn("block and pad", " ".join(o["sentence"] for o in pad["obstacles"]))
        fresh = others[self.cards[3].card_id]
        self.assertIn("fresh or re-wetted paint", fresh["obstacles"][0]["sentence"])

    def test_a_thin_masstone_is_told_against_the_deepest_on_record(self) -> None:
        address = f"/api/paints/{self.stock[0]}/profile"

        def said() -> list[str]:
            return [s["text"] for s in self.send("get", address).json()["sentences"] if "Its masstone is" in s["text"]]

        self.measured(self.cards[1])
        self.assertEqual(said(), [])
        self.measured(self.cards[4])
        self.assertIn("Its masstone is reached", said()[0])
        for state, expected in (("wet", "is reached"), ("dry", "not reached")):
            deeper = self.measured(self.cards[2], state=state)
            for swatch in deeper.document["swatches"].values():
                swatch["masstone"]["depth"] *= 1.4
            deeper.save()
            self.measured(self.cards[4])
            self.assertEqual(len(said()), 1)
            self.assertIn(expected, said()[0])
        self.assertIn(f"where card {self.cards[2].card_id} has", said()[0])
        deepest = self.measured(self.cards[4])
        for swatch in deepest.document["swatches"].values():
            swatch["masstone"]["depth"] *= 2
        deepest.save()
        self.assertIn("the deepest measured so far", said()[0])

    def test_a_mishap_stands_beside_the_swatch_that_it_befell(self) -> None:
        mishap(self.cards[0].card_id, "crawled", "S1")
        for index in (1, 0):
            self.measured(self.cards[index])
        first = self.send("get", f"/api/paints/{self.stock[0]}/profile").json()["others"][0]
        self.assertFalse(first["replicate"])
        self.assertIn("S1, the wash crawled", first["obstacles"][0]["sentence"])
        second = self.send("get", f"/api/paints/{self.stock[1]}/profile").json()["others"][0]
        self.assertTrue(second["replicate"])

    def test_comparing_names_the_paper_between_two_paints(self) -> None:
        self.measured(self.cards[2])
        only = Card.objects.get(pk=self.cards[0].pk)
        only.paints = {"S1": self.stock[0]}
        only.save()
        self.measured(only)
        pair = self.send("get", f"/api/compare?paints={self.stock[0]},{self.stock[1]}").json()["pairs"][0]
        self.assertEqual([(o["field"], o["weight"]) for o in pair["obstacles"]], [("paper", "warns")])

    def test_a_papers_white_is_gathered_and_a_strange_sheet_asked_about(self) -> None:
        for whiter in (0.0, 0.3, -0.2):
            self.measured(self.cards[0], whiter)
        known = paper_records()[self.papers[0].pk]
        self.assertEqual(known.captures, 3)
        self.assertLess(known.spread, 0.5)
        self.assertEqual(paper_notes(self.cards[1], self.measured(self.cards[1], 0.4)), [])
        strange = paper_notes(self.cards[1], self.measured(self.cards[1], -6.0))
        self.assertIn("another paper, its other side", strange[0])
        self.measured(self.cards[2], 0.0, state="wet")
        self.assertNotIn(self.papers[1].pk, paper_records())

    def test_a_papers_relief_is_gathered_and_a_flatter_one_asked_about(self) -> None:
        def with_slope(card: Card, slope: float | None) -> Measurement:
            found = self.measured(card)
            found.document["paper"] = {"relief": {"slope": slope, "u": 0.004, "absent": None if slope else "relief needs a low lamp"}}
            found.save()
            return found

        for slope in (0.03, 0.031, None):
            with_slope(self.cards[0], slope)
        self.assertEqual(paper_records()[self.papers[0].pk].slope, 0.0305)
        self.assertEqual(paper_notes(self.cards[1], with_slope(self.cards[1], 0.033)), [])
        self.assertEqual(paper_notes(self.cards[1], with_slope(self.cards[1], None)), [])
        self.assertIn("0.5 times as steep", paper_notes(self.cards[1], with_slope(self.cards[1], 0.016))[0])
        shown = {p["id"]: p for p in self.send("get", "/api/library").json()["papers"]}
        self.assertAlmostEqual(shown[self.papers[0].pk]["slope"], 0.03, delta=0.002)
        self.assertIsNone(shown[self.papers[1].pk]["slope"])

    def test_the_answer_counts_only_dry_cards_that_are_not_in_the_bin(self) -> None:
        session = self.cards[0].session
        self.assertIn("Nothing of this session", self.send("get", f"/api/sessions/{session.pk}/answer").json()["sentences"][0])
        self.measured(self.cards[0], state="wet")
        self.assertIn("Nothing of this session", self.send("get", f"/api/sessions/{session.pk}/answer").json()["sentences"][0])
        self.measured(self.cards[0])
        found = self.send("get", f"/api/sessions/{session.pk}/answer").json()
        self.assertIn("Nearest are", found["sentences"][0])
        self.assertEqual((found["measured"], found["cards"]), (1, 1))
