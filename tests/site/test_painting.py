"""The bench book: steps, waits, notes, mishaps; clocks that change; the calendar of long tests."""

from datetime import date, timedelta

from django.utils import timezone
from icalendar import Calendar

from gelvet.site.bench.book import do_step, remaining_s
from gelvet.site.bench.calendar import begin_exposure, due_list, hours_in_light, open_exposures
from gelvet.site.bench.models import BenchEntry, Timer
from gelvet.site.bench.services import create_session
from gelvet.site.captures.models import Capture
from gelvet.site.captures.tasks import layout_at
from tests.site.interface import Interface
from tests.site.scene import paints, plan


class BenchPage(Interface):
    def setUp(self) -> None:
        super().setUp()
        self.card = create_session(plan(paints=[p.pk for p in paints()])).cards.get().card_id

    def post(self, path: str, body: object = None) -> dict[str, object]:
        response = self.send("post", f"/api/cards/{self.card}/{path}", body)
        self.assertEqual(response.status_code, 200, response.content)
        found: dict[str, object] = response.json()
        return found

    def test_steps_follow_each_other_and_waits_begin(self) -> None:
        first = self.send("get", f"/api/cards/{self.card}/bench").json()
        self.assertEqual(first["next"], "ink")
        after = self.post("bench/ink/done")
        self.assertNotEqual(after["next"], "ink")
        self.assertEqual([(t["title"], t["step"]) for t in after["timers"]], [("Ink drying", "ink")])  # type: ignore[attr-defined]
        back = self.post("bench/ink/back")
        self.assertEqual((back["next"], back["timers"]), ("ink", []))
        self.assertEqual([e.kind for e in BenchEntry.objects.all()], ["step", "undone"])

    def test_doing_a_step_twice_counts_once(self) -> None:
        self.post("bench/ink/done")
        self.post("bench/ink/done")
        self.assertEqual((BenchEntry.objects.count(), Timer.objects.count()), (1, 1))

    def test_a_drying_card_waits_for_nothing_else(self) -> None:
        for step in self.send("get", f"/api/cards/{self.card}/bench").json()["steps"]:
            after = self.post(f"bench/{step['id']}/done")
            if step["kind"] == "dry":
                break
        self.assertEqual([t["title"] for t in after["timers"]], ["Card drying"])  # type: ignore[attr-defined]

    def test_notes_and_mishaps_are_stamped(self) -> None:
        self.post("notes", {"text": "re-wets slowly", "swatch": "S1"})
        after = self.post("mishaps", {"kind": "crawled", "swatch": "S2"})
        self.assertEqual([e["text"] for e in after["entries"]], ["re-wets slowly", "the wash crawled"])  # type: ignore[attr-defined]
        for path, body, code in (
            ("notes", {"text": " "}, "incomplete"), ("mishaps", {"kind": "bored"}, "unknown-mishap"),
            ("notes", {"text": "x", "swatch": "S99"}, "unknown-swatch"), ("timers", {"title": "x", "seconds": 0}, "unknown-time"),
        ):  # fmt: skip
            self.assert_problem(self.send("post", f"/api/cards/{self.card}/{path}", body), 400, code)
        self.assert_problem(self.send("post", f"/api/cards/{self.card}/bench/none/done"), 409, "unknown-step")

    def test_a_timer_rings_everywhere_until_it_is_heard(self) -> None:
        self.post("timers", {"title": "Soaking", "seconds": 60})
        timer = Timer.objects.get()
        Timer.objects.update(started=timer.started - timedelta(seconds=61))
        ringing = self.send("get", "/api/timers").json()
        self.assertEqual([(t["title"], t["remaining"]) for t in ringing], [("Soaking", 0)])
        self.send("post", f"/api/timers/{timer.pk}/end")
        self.assertEqual(self.send("get", "/api/timers").json(), [])
        self.assert_problem(self.send("post", "/api/timers/999/end"), 404, "not-found")

    def test_a_clock_that_is_set_back_never_lengthens_a_wait(self) -> None:
        do_step(self.card, "ink")
        timer = Timer.objects.get()
        self.assertEqual(remaining_s(timer, timer.started - timedelta(hours=5)), timer.seconds)
        self.assertEqual(remaining_s(timer, timer.started + timedelta(hours=5)), 0)


class LongTests(Interface):
    def setUp(self) -> None:
        super().setUp()
        self.card = create_session(plan(question="lasting", tests=["exposure"], paints=[p.pk for p in paints()])).cards.get()
        self.today = timezone.localdate()

    def test_dates_come_up_when_due_and_are_done_by_a_capture(self) -> None:
        begin_exposure(self.card.card_id, self.today - timedelta(weeks=9), 10, 4, 12, 2)
        states = [(d.week, d.state) for d in due_list(open_exposures(), self.today)]
        self.assertEqual(states, [(4, "due"), (8, "due"), (12, "coming"), (14, "coming")])
        Capture.objects.create(card=self.card)
        self.assertEqual([d.state for d in due_list(open_exposures(), self.today)], ["due", "done", "coming", "coming"])

    def test_hours_stop_in_the_dark(self) -> None:
        exposure = begin_exposure(self.card.card_id, date(2026, 1, 1), 10, 2, 2, 3)
        self.assertEqual(hours_in_light(exposure, date(2026, 1, 8)), 70)
        self.assertEqual(hours_in_light(exposure, date(2027, 1, 1)), 140)
        self.assertEqual(hours_in_light(exposure, date(2025, 1, 1)), 0)

    def test_a_capture_knows_how_long_its_strips_were_in_the_light(self) -> None:
        begin_exposure(self.card.card_id, self.today - timedelta(days=50), 8, 4, 24, 4)
        capture = Capture.objects.create(card=self.card)
        hours = {z["hours"] for z in layout_at(capture)["zones"] if z["kind"] == "exposed"}
        self.assertEqual(hours, {400})
        self.assertEqual({z["hours"] for z in self.card.layout["zones"] if z["kind"] == "exposed"}, {0})

    def test_the_calendar_file_can_be_read_again(self) -> None:
        body = {"began": "2026-03-02", "hours_a_day": 8, "every_weeks": 4, "weeks": 12, "dark_weeks": 4}
        self.assertEqual(self.send("put", f"/api/cards/{self.card.card_id}/exposure", body).status_code, 200)
        calendar = Calendar.from_ical(self.client.get("/api/calendar.ics").content)
        events = list(calendar.walk("VEVENT"))
        self.assertEqual(events[0].decoded("dtstart"), date(2026, 3, 30))
        self.assertEqual(len({str(e["uid"]) for e in events}), 4)
        self.assertEqual(self.send("get", f"/api/cards/{self.card.card_id}").json()["exposure"], body)

    def test_impossible_tests_are_refused(self) -> None:
        other = create_session(plan(name="Other", paints=[], blank_rows=1)).cards.get()
        body = {"began": "2026-03-02"}
        self.assert_problem(self.send("put", f"/api/cards/{other.card_id}/exposure", body), 400, "no-strip")
        for wrong in ({"hours_a_day": 30}, {"every_weeks": 9, "weeks": 4}, {"dark_weeks": 90}):
            self.assert_problem(self.send("put", f"/api/cards/{self.card.card_id}/exposure", body | wrong), 400, "unknown-time")
