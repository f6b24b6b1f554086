"""Library, sessions and cards through the interface: plans, conflicts, undo, refusals."""

import json
from typing import Any

from django.test import TestCase

from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.bench.models import Question, Session
from gelvet.site.bench.services import create_session, undo
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem
from tests import simulated
from tests.site.interface import Interface
from tests.site.scene import paints, plan


class Access(Interface):
    def test_changes_need_the_pages_own_token(self) -> None:
        response = self.client.post("/api/sessions", "{}", content_type="application/json")
        self.assertEqual(response.status_code, 403)

    def test_strangers_are_turned_away(self) -> None:
        self.assert_problem(self.client.get("/api/overview", REMOTE_ADDR="10.0.0.7"), 401, "not-local")

    def test_every_other_address_is_the_application(self) -> None:
        for path in ("/", "/look/3", "/no/such/room"):
            self.assertContains(self.client.get(path), 'id="application"')
        for path in ("/api/none", "/api/captures/a-word", "/api/sessions/a-word"):
            self.assert_problem(self.client.get(path), 404, "not-found", "mistyped")


class Library(Interface):
    def test_a_paint_is_added_and_found(self) -> None:
        body = {"maker": "Saltings Colour Works", "name": "Thrift", "pigments": ["PV19"], "form": "pan"}
        response = self.send("post", "/api/paints", body)
        self.assertEqual(response.status_code, 201)
        found = self.send("get", "/api/library").json()["paints"]
        self.assertEqual(
            [(p["name"], p["maker"], p["measured"], p["paintable"]) for p in found], [("Thrift", "Saltings Colour Works", False, True)]
        )

    def test_refusals(self) -> None:
        good = {"maker": "Saltings Colour Works", "name": "Thrift", "pigments": ["PV19"], "form": "pan"}
        self.send("post", "/api/paints", good)
        cases: tuple[tuple[dict[str, Any], int, str], ...] = (
            ({}, 409, "duplicate"), ({"name": "thrift", "maker": "SALTINGS colour works"}, 409, "duplicate"),
            ({"name": " "}, 400, "incomplete"), ({"name": "B", "pigments": ["ultramarine"]}, 400, "unknown-code"),
            ({"name": "B", "form": "spray"}, 400, "unknown-form"),
        )  # fmt: skip
        for changes, status, code in cases:
            with self.subTest(code=code):
                self.assert_problem(self.send("post", "/api/paints", good | changes), status, code)
        self.assertEqual(Paint.objects.count(), 1)

    def test_codes_are_tidied_and_cautions_come_with_the_card(self) -> None:
        body = {"maker": "Tern & Tidewrack", "name": "Far Horizon", "pigments": ["pb 35", "PB35"], "form": "pan"}
        paint = self.send("post", "/api/paints", body).json()
        self.assertEqual(paint["pigments"], ["PB35"])
        plan_body = {"name": "Skies", "question": "one-paint", "paints": [paint["id"]]}
        card = self.send("post", "/api/sessions", plan_body).json()["cards"][0]
        self.assertIn("cobalt", card["cautions"][0])

    def test_all_eleven_questions_can_be_asked(self) -> None:
        self.assertEqual(len(self.send("get", "/api/library").json()["questions"]), 11)
        self.assertEqual({str(q.value): str(q.label) for q in Question}, {q.id: q.text for q in QUESTIONS.values()})


class Sessions(Interface):
    def setUp(self) -> None:
        super().setUp()
        self.stock = [p.pk for p in paints()]
        body = {"name": "Shore blues", "question": "which-maker", "paints": self.stock}
        self.session = self.send("post", "/api/sessions", body).json()

    def change(self, revision: int | None = None, **changes: Any) -> Any:
        plan_now = {k: self.session[k] for k in ("name", "question", "paper", "sheet", "note", "paints")}
        body = {"revision": revision or self.session["revision"], "plan": plan_now | changes}
        return self.send("put", f"/api/sessions/{self.session['id']}", body)

    def test_a_session_ends_in_laid_out_cards(self) -> None:
        card = self.session["cards"][0]
        self.assertEqual(card["card_id"], f"SHORE-BLUES-{self.session['id']}-01")
        self.assertEqual([p["id"] for p in card["paints"].values()], self.stock)
        labels = [s["label"] for s in card["layout"]["swatches"]]
        self.assertEqual(labels[0], "Slack-water Blue · Tern & Tidewrack · PB29")

    def test_more_paints_than_a_sheet_holds_go_onto_more_cards(self) -> None:
        more = [Paint.objects.create(maker_id=Paint.objects.get(pk=self.stock[0]).maker_id, name=f"Paint {i}").pk for i in range(9)]
        cards = self.change(paints=self.stock + more).json()["cards"]
        self.assertEqual([len(c["paints"]) for c in cards], [5, 5, 2])
        self.assertEqual(len(self.send("get", f"/api/sessions/{self.session['id']}").json()["cards"]), 3)

    def test_order_can_be_changed_taken_back_and_made_again(self) -> None:
        reordered = list(reversed(self.stock))
        changed = self.change(paints=reordered).json()
        self.assertEqual((changed["paints"], changed["can_undo"], changed["can_redo"]), (reordered, "paints reordered", None))
        back = self.send("post", f"/api/sessions/{self.session['id']}/undo").json()
        self.assertEqual((back["paints"], back["can_redo"]), (self.stock, "paints reordered"))
        again = self.send("post", f"/api/sessions/{self.session['id']}/redo").json()
        self.assertEqual(again["paints"], reordered)
        self.assertEqual([p["id"] for p in again["cards"][0]["paints"].values()], reordered)

    def test_nothing_to_take_back_is_said(self) -> None:
        self.assert_problem(self.send("post", f"/api/sessions/{self.session['id']}/undo"), 409, "nothing-to-undo")
        self.assert_problem(self.send("post", f"/api/sessions/{self.session['id']}/redo"), 409, "nothing-to-redo")

    def test_a_second_window_is_told_and_nothing_is_lost(self) -> None:
        self.assertEqual(self.change(name="Shore blues, first window").status_code, 200)
        self.assert_problem(self.change(name="Second window"), 409, "changed-elsewhere", "changed in another window")
        self.assertEqual(Session.objects.get().name, "Shore blues, first window")

    def test_refusals(self) -> None:
        cases = (
            ({"name": "  "}, "incomplete"), ({"question": "why"}, "unknown-question"), ({"arrangement": "moon"}, "unknown-arrangement"),
            ({"paints": [self.stock[0]] * 2}, "duplicate-paint"), ({"paints": [99_999]}, "unknown-paint"),
            ({"paper": 99_999}, "unknown-paper"),
        )  # fmt: skip
        for changes, code in cases:
            with self.subTest(code=code):
                self.assert_problem(self.change(**changes), 400, code)
        self.assert_problem(self.change(sheet="A0"), 422, "unreadable-layout", "no sheet named A0")
        self.assert_problem(self.send("put", f"/api/sessions/{self.session['id']}", {"revision": "x"}), 422, "invalid")
        self.assert_problem(self.send("get", "/api/sessions/99999"), 404, "not-found")
        self.assert_problem(self.send("get", "/api/cards/NO-CARD"), 404, "not-found", "NO-CARD")

    def test_card_files_come_as_downloads(self) -> None:
        card = self.session["cards"][0]["card_id"]
        pdf = self.client.get(f"/api/cards/{card}/card.pdf")
        self.assertTrue(pdf.content.startswith(b"%PDF"))
        layout = self.client.get(f"/api/cards/{card}/card.json")
        self.assertEqual(json.loads(layout.content)["card_id"], card)
        self.assertIn("attachment", layout["Content-Disposition"])

    def test_reference_files_are_checked_before_they_are_taken(self) -> None:
        card = self.session["cards"][0]["card_id"]
        address = f"/api/cards/{card}/reference"
        self.assert_problem(self.send("put", address, {"text": "hello"}), 422, "unreadable-reference", "BEGIN_DATA")
        strangers = simulated.bench().reference_path.read_text().replace("\nA", "\nQ").replace("\nB", "\nR").replace("\nREGIN", "\nBEGIN")
        self.assert_problem(self.send("put", address, {"text": strangers}), 400, "other-target")
        taken = self.send("put", address, {"text": simulated.bench().reference_path.read_text()})
        self.assertTrue(taken.json()["has_reference"])
        session = f"/api/sessions/{self.session['id']}"
        back = self.send("post", f"{session}/undo").json()
        self.assertEqual((back["cards"][0]["has_reference"], back["can_redo"]), (False, "reference of card 1 added"))
        self.assertTrue(self.send("post", f"{session}/redo").json()["cards"][0]["has_reference"])


class Services(TestCase):
    def test_a_captured_card_keeps_its_places(self) -> None:
        from gelvet.site.bench.services import change_session
        from gelvet.site.captures.models import Capture

        session = create_session(plan(paints=[p.pk for p in paints()]))
        change_session(session.pk, 1, plan(paints=[p.pk for p in Paint.objects.order_by("-pk")]))
        Capture.objects.create(card=session.cards.get())
        with self.assertRaisesMessage(Problem, "its places are fixed"):
            undo(session.pk)
        self.assertEqual(
            change_session(session.pk, 2, plan(name="Renamed", paints=[p.pk for p in Paint.objects.order_by("-pk")])).name, "Renamed"
        )

    def test_the_bench_costs_the_same_queries_however_many_cards(self) -> None:
        stock = [p.pk for p in paints()]
        self.client.get("/")
        for count in (1, 3):
            for number in range(count):
                create_session(plan(name=f"Session {count}{number}", paints=stock))
            with self.subTest(count=count), self.assertNumQueries(7):
                self.client.get("/api/overview")
