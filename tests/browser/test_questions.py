"""Every question from asking to its answer, by the keyboard alone, painted and scanned by the simulated bench."""

import re
from datetime import timedelta
from typing import Any

from django.utils import timezone
from playwright.sync_api import expect

from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.bench.models import Card, Session
from gelvet.site.library.models import Paint, Paper
from gelvet.site.library.services import add_paint
from tests.browser.page import BrowserTest
from tests.site.scene import work

_BOX: tuple[tuple[str, str, list[str], dict[str, Any]], ...] = (
    ("Tern & Tidewrack", "Slack-water Blue", ["PB29"], {"range": "Shore box", "place": 1, "claims": {"transparency": "transparent"}}),
    ("Saltings Colour Works", "Slack-water Blue", ["PB29", "PV23"], {}),
    ("Tern & Tidewrack", "Kelp Gold", ["PY150"], {"range": "Shore box", "place": 2}),
    ("Saltings Colour Works", "Thrift", ["PV19"], {"claims": {"lightfastness": "III"}}),
    ("Saltings Colour Works", "Marram Green", ["PG18"], {"sparkles": True}),
    ("Tern & Tidewrack", "Samphire Green", ["PG7", "PY150"], {}),
    ("Tern & Tidewrack", "Sea Lettuce", ["PG7"], {}),
)
# What is chosen first, and what the answer must say.
_SUBJECTS: dict[str, tuple[str, str, str]] = {
    "one-paint": ("The paint in question", "Kelp Gold", "Spans .* L\\*"),
    "which-maker": ("The colour's name", "Slack-water Blue", "^Nearest are Slack-water Blue \\("),
    "one-pigment": ("The pigment", "PB29", "^Nearest are"),
    "set-worth": ("The set or range", "Tern & Tidewrack · Shore box", "^Nearest are"),
    "replacement": ("The paint in question", "Slack-water Blue", "^The nearest to Slack-water Blue"),
    "in-mixes": ("The paint in question", "Thrift", "darkest dark"),
    "make-myself": ("The paint in question", "Samphire Green", "(nearest to|told from) Samphire Green"),
    "buy-again": ("", "", "^Nearest are"),
    "sparkle": ("", "", "^Sparkle itself is not measured"),
    "lasting": ("", "", "after 160 hours|^Steadiest is Thrift"),
    "paper": ("The paint in question", "Kelp Gold", "pad against block"),
}


class ElevenQuestions(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for maker, name, codes, more in _BOX:
            add_paint(maker=maker, name=name, pigments=codes, form="tube", **more)
        Paint.objects.filter(name="Thrift").update(simulation={"codes": ["PV19"], "fading": 0.5})
        for name in ("block", "pad"):
            Paper.objects.create(name=name)

    def test_each_is_planned_painted_captured_and_answered(self) -> None:
        self.assertEqual(set(_SUBJECTS), set(QUESTIONS))
        for question in QUESTIONS.values():
            with self.subTest(question=question.id):
                session = self.plan(question.id)
                for card in Card.objects.filter(session=session, binned=None).order_by("number"):
                    self.paint(card)
                    self.capture(card)
                self.answered(session, question.id)

    def choose(self, label: str, words: str) -> None:
        self.page.get_by_role("combobox", name=label).press("Enter")
        self.page.keyboard.type(words.split(maxsplit=1)[0])
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("listbox")).to_have_count(0)

    def plan(self, question: str) -> Session:
        page, (label, subject, _) = self.page, _SUBJECTS[question]
        self.go("/")
        page.keyboard.press("1")
        page.get_by_role("link", name=re.compile("^" + re.escape(QUESTIONS[question].text))).press("Enter")
        if label:
            self.choose(label, subject)
        expect(page.get_by_text(re.compile("proposed; change"))).to_be_visible()
        if question == "paper":
            for paper in ("block", "pad"):
                expect(page.get_by_role("checkbox", name=paper)).to_be_checked()
        expect(page.get_by_label("Cards", exact=True).locator("li").first).to_be_visible()
        lay_out = page.get_by_role("button", name="Lay out the cards")
        expect(lay_out).to_be_enabled()  # once its plan has been tried
        lay_out.press("Enter")
        page.wait_for_url("**/card/*")
        return Session.objects.latest("id")

    def paint(self, card: Card) -> None:
        page = self.page
        self.go(f"/card/{card.card_id}")
        page.get_by_role("link", name="Paint it").press("Enter")
        page.wait_for_url("**/paint/*")
        expect(page.get_by_text(re.compile(r"step 1 of \d+"))).to_be_visible()
        if page.get_by_role("heading", name="Before you start").is_visible():
            page.keyboard.press("d")
        total = int(re.search(r"of (\d+)", page.get_by_text(re.compile(r"step 1 of \d+")).inner_text())[1])  # type: ignore[index]
        for step in range(1, total + 1):
            page.keyboard.press("d")
            if step < total:
                expect(page.get_by_text(f"step {step + 1} of {total}")).to_be_visible()
        expect(page.get_by_test_id("step")).to_have_text("Everything on this card is done.")
        page.get_by_role("link", name="Capture it").press("Enter")
        page.wait_for_url("**/capture/*")

    def capture(self, card: Card) -> None:
        page = self.page
        if card.session.question == "lasting":
            self.expose(card)
        self.choose("Resolution", "150")
        page.get_by_role("button", name="Take the shot").press("Enter")
        expect(page.get_by_text("waiting for its turn")).to_be_visible()
        work()

    def expose(self, card: Card) -> None:
        page = self.page
        self.go(f"/card/{card.card_id}")
        since = timezone.localdate() - timedelta(days=20)
        page.get_by_label("In the light since").fill(since.isoformat())
        page.get_by_role("button", name="It lies in the light").press("Enter")
        expect(page.get_by_label("Dates of this card").locator("li").first).to_contain_text("week 4")
        self.go(f"/capture/{card.card_id}")

    def answered(self, session: Session, question: str) -> None:
        page = self.page
        self.go("/")
        page.get_by_label(session.name, exact=True).get_by_role("link", name=re.compile("^The answer")).press("Enter")
        page.wait_for_url(f"**/compare/{session.pk}")
        expect(page.get_by_role("region", name="The answer")).to_contain_text(re.compile(_SUBJECTS[question][2], re.MULTILINE))
