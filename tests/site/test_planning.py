"""Plans through the interface: proposals, previews, cards for every question, freehand cards, mended cards."""

from typing import Any

from gelvet.core.card.blocks import TESTS
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.bench.models import Card, Session
from gelvet.site.bench.services import create_session, find_card
from gelvet.site.captures.models import Capture
from gelvet.site.library.models import Paint, Paper
from gelvet.site.library.services import add_paint
from tests.site.interface import Interface
from tests.site.scene import paints, plan


class Proposals(Interface):
    def test_a_question_proposes_with_reasons(self) -> None:
        stock = paints()
        add_paint(maker="Saltings Colour Works", name="Slack-water Blue", pigments=["PB29", "PV23"])
        found = self.send("post", "/api/plans/propose", {"question": "which-maker", "subject": "slack-water blue"}).json()
        self.assertEqual(len(found["paints"]), 2)
        self.assertIn("Tern & Tidewrack's version", [p["reason"] for p in found["paints"]])
        ring = self.send("post", "/api/plans/propose", {"question": "in-mixes", "subject": str(stock[0].pk)}).json()
        self.assertEqual(ring["paints"][0]["paint"], stock[0].pk)
        self.assertGreaterEqual(len(ring["partners"]), 1)

    def test_an_unknown_question_is_refused(self) -> None:
        self.assert_problem(self.send("post", "/api/plans/propose", {"question": "why", "subject": ""}), 400, "unknown-question")


class Previews(Interface):
    def setUp(self) -> None:
        super().setUp()
        self.stock = [p.pk for p in paints()]

    def preview(self, **changes: Any) -> Any:
        body = {"name": "x", "question": "which-maker", "paints": self.stock} | changes
        return self.send("post", "/api/plans/preview", body).json()

    def test_nothing_is_kept_and_everything_is_told(self) -> None:
        found = self.preview(replicates=3)
        self.assertEqual(Session.objects.count(), 0)
        self.assertEqual([len(c["paints"]) for c in found["cards"]], [5, 4])
        self.assertEqual(found["effort"]["swatches"], 9)
        self.assertEqual(sorted(found["painting_order"]), sorted(self.stock))
        self.assertIsNone(found["problem"])

    def test_the_order_follows_the_arrangement(self) -> None:
        lightness = self.preview(arrangement="lightness")["paints"]
        self.assertEqual(lightness[-1], self.stock[2])  # the black

    def test_what_is_laid_out_is_what_was_shown(self) -> None:
        for arrangement in ("lightness", "hue", "pigment", "likeness", "hand"):
            shown = self.preview(arrangement=arrangement)
            body = {"name": arrangement, "question": "which-maker", "paints": self.stock, "arrangement": arrangement}
            kept = self.send("post", "/api/sessions", body).json()
            self.assertEqual(kept["paints"], shown["paints"])
            self.assertEqual([p["id"] for p in kept["cards"][0]["paints"].values()], list(shown["cards"][0]["paints"].values()))

    def test_what_the_question_starts_from_keeps_its_place(self) -> None:
        blue, green, black = self.stock
        replaced = self.preview(question="replacement", arrangement="lightness", paints=[black, blue, green])["paints"]
        self.assertEqual(replaced[0], black)
        made = self.preview(question="make-myself", arrangement="lightness", paints=[blue], partners=[black, green])["partners"]
        self.assertEqual(made[-1], green)

    def test_each_paper_has_its_own_cards(self) -> None:
        papers = [Paper.objects.create(name=n).pk for n in ("block", "pad")]
        found = self.preview(question="paper", papers=papers, paints=self.stock[:1], replicates=2)
        self.assertEqual([(c["paper"], len(c["paints"])) for c in found["cards"]], [(papers[0], 2), (papers[1], 2)])

    def test_what_cannot_be_laid_out_says_why(self) -> None:
        self.assertIn("larger sheet or fewer tests", self.preview(sheet="130x90", tests=list(TESTS))["problem"])
        self.assertEqual(len(self.preview(sheet="A6", tests=["hiding", "lifting", "layers", "exposure"])["cards"]), len(self.stock))
        self.assertIn("no sheet", self.preview(sheet="tablecloth")["problem"])
        self.assertIn("1 to 10 times", self.preview(replicates=99)["problem"])
        self.assertIn("more than 60 cards", self.preview(replicates=10, per_card=1, paints=self.stock, blank_rows=60)["problem"])

    def test_strengths_count_against_a_paint_of_the_session_on_the_cards_that_hold_it(self) -> None:
        chosen = {"strength_reference": self.stock[1], "tests": ["dilution"], "per_card": 2}
        cards = [c["layout"] for c in self.preview(**chosen)["cards"]]
        self.assertEqual([c.get("strength_reference") for c in cards], ["S2", None])
        self.assertIn("is not in the session", self.preview(**chosen, paints=self.stock[:1])["problem"])
        self.assertIn("over the ink line", self.preview(tests=["layers-hiding"], sheet="A3")["problem"])

    def test_sixty_paints_lie_on_twelve_cards(self) -> None:
        maker = Paint.objects.get(pk=self.stock[0]).maker
        many = [Paint.objects.create(maker=maker, name=f"Paint {i}", pigments=["PB29"]).pk for i in range(60)]
        found = self.preview(paints=many, arrangement="hue")
        self.assertEqual([len(c["paints"]) for c in found["cards"]], [5] * 12)


class Cards(Interface):
    def setUp(self) -> None:
        super().setUp()
        self.stock = [p.pk for p in paints()]

    def test_every_question_ends_in_printable_cards(self) -> None:
        for question in QUESTIONS.values():
            with self.subTest(question=question.id):
                body: dict[str, Any] = {
                    "name": f"Try {question.id}", "question": question.id, "tests": list(question.tests),
                    "application": question.application, "paints": self.stock[:1] if question.layout == "mixes" else self.stock,
                    "partners": self.stock[1:] if question.layout == "mixes" else [],
                }  # fmt: skip
                session = self.send("post", "/api/sessions", body).json()
                self.assertGreaterEqual(len(session["cards"]), 1)
                pdf = self.client.get(f"/api/sessions/{session['id']}/cards.pdf")
                self.assertTrue(pdf.content.startswith(b"%PDF"))
                self.assertEqual(pdf.content.count(b"/Type /Page\n"), len(session["cards"]))

    def test_a_freehand_card_is_named_afterwards(self) -> None:
        session = create_session(plan(paints=[], blank_rows=3))
        card = session.cards.get()
        self.assertEqual((card.paints, len(card.layout["swatches"])), ({}, 3))
        address = f"/api/cards/{card.card_id}/swatch"
        named = self.send("put", address, {"revision": card.revision, "swatch": "S2", "paint": self.stock[0]}).json()
        self.assertEqual(list(named["paints"]), ["S2"])
        self.assertIn("Slack-water Blue", named["layout"]["swatches"][1]["label"])
        self.assert_problem(self.send("put", address, {"revision": 1, "swatch": "S2", "paint": None}), 409, "changed-elsewhere")
        fresh = {"revision": named["revision"]}
        self.assert_problem(self.send("put", address, fresh | {"swatch": "S9", "paint": self.stock[0]}), 400, "unknown-swatch")
        self.assert_problem(self.send("put", address, fresh | {"swatch": "S1", "paint": 999}), 400, "unknown-paint")

    def test_a_card_that_exists_already_is_declared_by_its_layout_file(self) -> None:
        layout = layout_to_document(build_card("STUDIO-7", "A5", [SwatchLabel("first"), SwatchLabel("second")]))
        declared = self.send("post", "/api/cards", {"name": "Studio card", "layout": layout}).json()
        card = declared["cards"][0]
        self.assertEqual((card["card_id"], card["paints"]), ("STUDIO-7", {}))
        address = f"/api/cards/{card['card_id']}/swatch"
        named = self.send("put", address, {"revision": 1, "swatch": "S2", "paint": self.stock[1]}).json()
        self.assertEqual(named["paints"]["S2"]["name"], "Samphire Green")
        body = {"revision": 1, "plan": {"name": "Studio card", "question": "one-paint", "paints": self.stock}}
        self.assert_problem(self.send("put", f"/api/sessions/{declared['id']}", body), 409, "declared", "painted as it is")
        renamed = {"revision": 1, "plan": {"name": "Old studio card", "question": "one-paint"}}
        self.assertEqual(self.send("put", f"/api/sessions/{declared['id']}", renamed).json()["name"], "Old studio card")
        self.assert_problem(self.send("post", "/api/cards", {"layout": layout}), 409, "duplicate")
        self.assert_problem(self.send("post", "/api/cards", {"layout": {"card_id": 3}}), 422, "unreadable-layout")
        self.assert_problem(self.send("post", "/api/cards", {"layout": layout | {"card_id": "a/../b"}}), 400, "unusable-id")

    def test_swatches_painted_in_each_others_place_are_swapped_even_after_the_capture_and_back(self) -> None:
        session = create_session(plan(paints=self.stock))
        card = session.cards.get()
        Capture.objects.create(card=card)
        swapped = self.send("put", f"/api/cards/{card.card_id}/swap", {"revision": card.revision, "one": "S1", "two": "S3"}).json()
        self.assertEqual([p["id"] for p in swapped["paints"].values()], [self.stock[2], self.stock[1], self.stock[0]])
        self.send("post", f"/api/sessions/{session.pk}/undo")
        self.assertEqual(list(find_card(card.card_id).paints.values()), self.stock)
        wrong = {"revision": find_card(card.card_id).revision, "one": "S1", "two": "S1"}
        self.assert_problem(self.send("put", f"/api/cards/{card.card_id}/swap", wrong), 400, "unknown-swatch")

    def test_zones_move_and_impossible_ones_are_refused(self) -> None:
        card = create_session(plan(paints=self.stock)).cards.get()
        zones = card.layout["zones"]
        zones[1]["rect_mm"][0] += 1.5
        address = f"/api/cards/{card.card_id}/zones"
        moved = self.send("put", address, {"revision": card.revision, "zones": zones}).json()
        self.assertEqual(moved["layout"]["zones"][1]["rect_mm"][0], zones[1]["rect_mm"][0])
        zones[1]["rect_mm"][0] = 900
        outside = self.send("put", address, {"revision": moved["revision"], "zones": zones})
        self.assert_problem(outside, 422, "unreadable-layout", "outside the card")
        self.assert_problem(self.send("put", address, {"revision": moved["revision"], "zones": [{"id": 3}]}), 422, "unreadable-layout")

    def test_a_card_that_is_no_longer_needed_comes_back_with_the_paints(self) -> None:
        session = create_session(plan(paints=self.stock, per_card=1))
        ids = [c.card_id for c in session.cards.all()]
        body = {"revision": 1, "plan": {"name": "Shore blues", "question": "which-maker", "per_card": 1, "paints": self.stock[:1]}}
        fewer = self.send("put", f"/api/sessions/{session.pk}", body).json()
        self.assertEqual(len(fewer["cards"]), 1)
        self.assertEqual(Card.objects.count(), 3)
        back = self.send("post", f"/api/sessions/{session.pk}/undo").json()
        self.assertEqual([c["card_id"] for c in back["cards"]], ids)

    def test_practice_is_recorded_and_nonsense_refused(self) -> None:
        body = {"name": "x", "question": "one-paint", "paints": self.stock[:1], "practice": {"woken": "fresh", "painter": "second bench"}}
        self.assertEqual(self.send("post", "/api/sessions", body).json()["practice"]["woken"], "fresh")
        self.assert_problem(self.send("post", "/api/sessions", body | {"practice": {"woken": "boiled"}}), 400, "unknown-practice")
        self.assert_problem(self.send("post", "/api/sessions", body | {"practice": {"moon": "full"}}), 400, "unknown-practice")
