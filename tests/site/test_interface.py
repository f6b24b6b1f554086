"""What goes over the wire agrees with what services take, and is documented as it is sent."""

import json
from dataclasses import fields
from typing import Any

from django.test import SimpleTestCase

from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.api.schemas.captures import DeviceIn, LightIn
from gelvet.site.api.schemas.library import LibraryOut, PaintLabel, PaintOut
from gelvet.site.api.schemas.plans import PlanIn, PreviewOut
from gelvet.site.bench.plans import Plan
from gelvet.site.captures.devices import DeviceSettings
from gelvet.site.captures.services import ShotLight
from gelvet.site.library import services
from gelvet.site.library.models import Paper
from tests.site.interface import Interface
from tests.site.scene import paints


class Agreement(SimpleTestCase):
    def test_values_have_the_same_fields_on_both_sides(self) -> None:
        for schema, value in ((PlanIn, Plan), (PaintLabel, services.PaintLabel), (DeviceIn, DeviceSettings)):
            with self.subTest(value=value.__name__):
                self.assertEqual(set(schema.model_fields), {f.name for f in fields(value)})

    def test_what_is_left_out_means_the_same_on_both_sides(self) -> None:
        plan, sent = Plan(name="x", question="paper"), PlanIn(name="x", question="paper").dict()
        self.assertEqual(sent, {f.name: getattr(plan, f.name) for f in fields(plan)})
        self.assertEqual(DeviceIn().settings(), DeviceSettings())
        self.assertEqual(LightIn().checked(), ShotLight())
        label, sent = services.PaintLabel(maker="m", name="n"), PaintLabel(maker="m", name="n").dict()
        self.assertEqual(sent, {f.name: getattr(label, f.name) for f in fields(label)})


class SentAsPromised(Interface):
    """Large answers are made into JSON without a second validation, so it is done here."""

    def test_the_library(self) -> None:
        paints()
        Paper.objects.create(name="block")
        found = json.loads(self.client.get("/api/library").content)
        self.assertEqual(LibraryOut.model_validate(found).model_dump(mode="json"), found)
        self.assertEqual(set(found["paints"][0]), set(PaintOut.model_fields))
        self.assertEqual([q["id"] for q in found["questions"]], list(QUESTIONS))

    def test_the_planner(self) -> None:
        stock = [p.pk for p in paints()]
        for changes in ({}, {"sheet": "A9"}, {"question": "in-mixes", "partners": stock[1:], "paints": stock[:1]}):
            body: dict[str, Any] = {"name": "x", "question": "which-maker", "paints": stock} | changes
            found = self.send("post", "/api/plans/preview", body).json()
            self.assertEqual(PreviewOut.model_validate(found).model_dump(mode="json"), found)

    def test_what_cannot_be_read_at_all_is_a_sentence(self) -> None:
        wrong = {"name": "x", "question": "paper", "replicates": None}
        self.assert_problem(self.send("post", "/api/plans/preview", wrong), 422, "invalid", "replicates")
        self.assert_problem(self.client.get("/api/search"), 422, "invalid", "words")
