"""History: who changed what from what to what; the bin; search over everything that was written."""

import random
from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User

from gelvet.site.bench.book import mishap, note
from gelvet.site.bench.models import Session
from gelvet.site.bench.plans import plan_of
from gelvet.site.bench.services import change_session, change_zones, create_session, redo, swap_swatches, undo
from gelvet.site.history.services import lines
from gelvet.site.library.models import Maker, Paint
from gelvet.site.library.services import add_paint, change_paint
from gelvet.site.people.person import PersonMiddleware
from gelvet.site.problems import Problem
from gelvet.site.search.services import rebuild, search
from tests import simulated
from tests.site.interface import Interface
from tests.site.scene import paints, plan


class History(Interface):
    def test_each_change_of_a_session_is_told_with_before_and_after(self) -> None:
        stock = [p.pk for p in paints()]
        session = self.send("post", "/api/sessions", {"name": "Shore blues", "question": "which-maker", "paints": stock}).json()
        body = {"revision": 1, "plan": {"name": "Shore greens", "question": "which-maker", "paints": stock}}
        self.send("put", f"/api/sessions/{session['id']}", body)
        self.send("post", f"/api/sessions/{session['id']}/undo")
        told = self.send("get", f"/api/sessions/{session['id']}/history").json()
        self.assertEqual([t["action"] for t in told], ["taken back: particulars changed", "particulars changed", "planned"])
        renamed = next(c for c in told[1]["changes"] if c["field"] == "name")
        self.assertEqual((renamed["before"], renamed["after"]), ("Shore blues", "Shore greens"))
        self.assertTrue(told[1]["undone"])
        self.assertEqual(Session.objects.get().name, "Shore blues")

    def test_any_run_of_changes_taken_back_is_the_beginning_and_made_again_the_end(self) -> None:
        stock = [p.pk for p in paints()]
        for seed in range(6):
            chance = random.Random(seed)
            session = create_session(plan(name=f"Run {seed}", paints=stock))
            states = [self.state(session)]
            for _ in range(8):
                self.change(session, chance)
                if self.state(session) != states[-1]:
                    states.append(self.state(session))
            with self.subTest(seed=seed, changes=len(states) - 1):
                for earlier in reversed(states[:-1]):
                    undo(session.pk)
                    self.assertEqual(self.state(session), earlier)
                with self.assertRaisesMessage(Problem, "nothing to take back"):
                    undo(session.pk)
                for later in states[1:]:
                    redo(session.pk)
                    self.assertEqual(self.state(session), later)

    def change(self, session: Session, chance: random.Random) -> None:
        """One of the things that people do to a session."""
        session.refresh_from_db()
        now = plan_of(session)
        card = session.cards.filter(binned=None).order_by("number").first()
        assert card is not None
        swatches = [s["id"] for s in card.layout["swatches"]]
        match chance.choice(["name", "order", "tests", "per card", "swap", "zones"]):
            case "name":
                change_session(session.pk, session.revision, replace(now, name=f"Name {chance.random()}"))
            case "order":
                change_session(session.pk, session.revision, replace(now, paints=chance.sample(now.paints, len(now.paints))))
            case "tests":
                change_session(session.pk, session.revision, replace(now, tests=chance.choice([[], ["hiding"], ["lifting", "layers"]])))
            case "per card":
                change_session(session.pk, session.revision, replace(now, per_card=chance.choice([1, 2, None])))
            case "swap" if len(swatches) > 1:
                swap_swatches(card.card_id, card.revision, *chance.sample(swatches, 2))
            case _:
                zones = [{**z, "rect_mm": [z["rect_mm"][0] + 0.5, *z["rect_mm"][1:]]} for z in card.layout["zones"]]
                change_zones(card.card_id, card.revision, zones)

    def state(self, session: Session) -> list[Any]:
        session.refresh_from_db()
        cards = session.cards.filter(binned=None).order_by("number").values_list("card_id", "layout", "paints")
        return [plan_of(session), *cards]

    def test_changes_of_one_session_leave_another_alone(self) -> None:
        stock = [p.pk for p in paints()]
        one, two = (create_session(plan(name=name, paints=stock)) for name in ("One", "Two"))
        for session in (one, two):
            change_session(session.pk, 1, plan(name=f"{session.name} renamed", paints=stock))
        undo(one.pk)
        self.assertEqual(list(Session.objects.order_by("pk").values_list("name", flat=True)), ["One", "Two renamed"])

    def test_a_window_that_missed_an_undo_is_told(self) -> None:
        stock = [p.pk for p in paints()]
        session = self.send("post", "/api/sessions", {"name": "A", "question": "which-maker", "paints": stock}).json()
        address = f"/api/sessions/{session['id']}"
        self.send("put", address, {"revision": 1, "plan": {"name": "B", "question": "which-maker", "paints": stock}})
        self.send("post", f"{address}/undo")
        late = self.send("put", address, {"revision": 2, "plan": {"name": "C", "question": "which-maker", "paints": stock}})
        self.assert_problem(late, 409, "changed-elsewhere")

    def test_a_paint_that_was_added_can_be_taken_back_and_made_again(self) -> None:
        paint = add_paint(maker="Saltings Colour Works", name="Thrift", pigments=["PV19"])
        self.send("post", f"/api/paints/{paint.pk}/undo")
        self.assertEqual(self.send("get", "/api/library").json()["paints"], [])
        self.assertEqual([p["id"] for p in self.send("get", "/api/bin").json()["paints"]], [str(paint.pk)])
        self.send("post", f"/api/paints/{paint.pk}/redo")
        self.assertEqual(len(self.send("get", "/api/library").json()["paints"]), 1)

    def test_a_label_is_corrected_and_a_second_window_told(self) -> None:
        paint = add_paint(
            maker="Saltings Colour Works", name="Thrift", pigments=["PV19"], price="4,5", currency="eur", range="Shore box", place=3
        )
        self.assertEqual((str(paint.price), paint.currency, str(paint.range)), ("4.50", "EUR", "Saltings Colour Works · Shore box"))
        label = {"maker": "Saltings Colour Works", "name": "Thrift", "pigments": ["PV19", "PR122"], "batch": "L7"}
        changed = self.send("put", f"/api/paints/{paint.pk}", {"revision": 1, "label": label})
        self.assertEqual(changed.json()["pigments"], ["PV19", "PR122"])
        self.assert_problem(self.send("put", f"/api/paints/{paint.pk}", {"revision": 1, "label": label}), 409, "changed-elsewhere")
        told = self.send("get", f"/api/paints/{paint.pk}/history").json()
        self.assertIn({"thing": "Thrift (Saltings Colour Works)", "field": "batch", "before": "–", "after": "L7"}, told[0]["changes"])

    def test_a_paint_from_before_the_history_keeps_what_it_was(self) -> None:
        old = Paint.objects.create(maker=Maker.objects.create(name="Tern & Tidewrack"), name="Mist", pigments=["PG18"])
        change_paint(old.pk, 1, maker="Tern & Tidewrack", name="Fog", pigments=["PG18"])
        self.send("post", f"/api/paints/{old.pk}/undo")
        old.refresh_from_db()
        self.assertEqual((old.name, old.binned), ("Mist", None))

    def test_who_did_it(self) -> None:
        user = User.objects.create(username="second bench")

        def view(request: object) -> object:
            add_paint(maker="Saltings Colour Works", name="Thrift", pigments=["PV19"])
            return None

        request = type("Request", (), {"user": user})()
        PersonMiddleware(view)(request)  # type: ignore[arg-type]
        self.assertEqual(lines(f"paint:{Paint.objects.get().pk}")[0].person, "second bench")

    def test_sessions_go_to_the_bin_and_come_back_whole(self) -> None:
        session = create_session(plan(paints=[p.pk for p in paints()]))
        self.send("post", f"/api/sessions/{session.pk}/bin")
        self.assertEqual(self.send("get", "/api/overview").json()["sessions"], [])
        self.assertEqual(len(self.send("get", "/api/bin").json()["sessions"]), 1)
        back = self.send("post", f"/api/sessions/{session.pk}/restore").json()
        self.assertEqual(len(back["cards"]), 1)

    def test_papers_brushes_and_targets_go_to_the_bin_and_back(self) -> None:
        made = {
            "papers": self.send("post", "/api/papers", {"name": "block"}).json()["id"],
            "brushes": self.send("post", "/api/brushes", {"name": "mop"}).json()["id"],
            "targets": self.send("post", "/api/targets", {"name": "spring", "text": simulated.bench().reference_path.read_text()}).json()[
                "id"
            ],
        }
        for kind, row in made.items():
            self.assertEqual(self.send("post", f"/api/library/{kind}/{row}/bin").json()[kind], [])
            self.assertEqual([r["id"] for r in self.send("get", "/api/bin").json()["parts"][kind]], [str(row)])
            self.assertEqual(len(self.send("post", f"/api/library/{kind}/{row}/restore").json()[kind]), 1)
        self.assert_problem(self.send("post", "/api/library/shelves/1/bin"), 404, "not-found")

    def test_a_binned_name_says_where_it_lies(self) -> None:
        paint = add_paint(maker="Saltings Colour Works", name="Thrift", pigments=[])
        self.send("post", f"/api/paints/{paint.pk}/bin")
        again = self.send("post", "/api/paints", {"maker": "Saltings Colour Works", "name": "Thrift"})
        self.assert_problem(again, 409, "duplicate", "in the bin")


class Search(Interface):
    def test_everything_written_is_found_by_the_beginning_of_its_words(self) -> None:
        session = create_session(plan(name="Dune greys", note="for the winter box", paints=[p.pk for p in paints()]))
        card = session.cards.get().card_id
        note(card, "re-wets slowly", "S1")
        mishap(card, "crawled", "S2")
        for words, kind in (("dune", "session"), ("winter bo", "session"), ("slowl", "note"), ("crawl", "mishap"), ("PB29 tern", "card"),
                            ("samph", "paint"), ("aluminosil", "paint"), (card.lower(), "card")):  # fmt: skip
            with self.subTest(words=words):
                self.assertIn(kind, [h.kind for h in search(words)])

    def test_signs_and_empty_words_break_nothing(self) -> None:
        paints()
        for words in ("", "  ", '"', "a* OR b*", "NEAR(", "col:x", "’; DROP TABLE", "*"):
            self.assertEqual(self.client.get("/api/search", {"words": words}).status_code, 200)
            self.assertIsInstance(search(words), list)
        self.assertEqual(self.client.get("/api/search", {"words": "squall"}).json()[0]["url"][:9], "/library/")

    def test_what_lies_in_the_bin_is_not_found_and_a_rebuilt_index_is_the_same(self) -> None:
        stock = paints()
        before = [h.title for h in search("squall")]
        rebuild()
        self.assertEqual([h.title for h in search("squall")], before)
        self.send("post", f"/api/paints/{stock[2].pk}/bin")
        self.assertEqual([h.kind for h in search("squall")], [])
