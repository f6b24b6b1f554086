"""Loads the Marram Coast scenario: invented makers and paints, sessions at every stage of the work, some of whose cards
are sent to the simulated flatbed. What is there already is left alone."""

import json
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from django.utils import timezone

from gelvet.site.bench.calendar import begin_exposure
from gelvet.site.bench.models import Card, Session
from gelvet.site.bench.plans import Plan
from gelvet.site.bench.services import create_session, set_reference
from gelvet.site.captures.devices import bench_target, settings_of
from gelvet.site.captures.services import take_with_device
from gelvet.site.library.models import Brush, Paint, Paper, ReferenceTarget
from gelvet.site.library.services import add_brush, add_paint, add_paper, add_target

_SCENARIO = Path(__file__).with_name("scenario.json")


def load_demo() -> int:
    """Returns how many sessions were added; their captures are queued, not measured here."""
    scenario = json.loads(_SCENARIO.read_text("utf-8"))
    papers = [Paper.objects.filter(name=p["name"]).first() or add_paper(**p) for p in scenario["papers"]]
    for brush in scenario["brushes"]:
        if not Brush.objects.filter(name=brush["name"]).exists():
            add_brush(**brush)
    paints = {(item["maker"], item["name"]): _paint(item) for item in scenario["paints"]}
    wanted = [item for item in scenario["sessions"] if not Session.objects.filter(name=item["name"]).exists()]
    for item in wanted:
        _session(item, papers[0], paints, scenario["target"])
    return len(wanted)


def _paint(item: dict[str, Any]) -> Paint:
    label = {k: v for k, v in item.items() if k != "simulation"}
    paint = Paint.objects.filter(maker__name=item["maker"], name=item["name"]).first() or add_paint(**label)
    Paint.objects.filter(pk=paint.pk).update(simulation=item["simulation"])
    return paint


def _target_on(card: Card, target: dict[str, str]) -> None:
    """The bench's one printed target, which its captures make a control chart of."""
    text = bench_target(card.layout)
    if not ReferenceTarget.objects.filter(name=target["name"]).exists():
        add_target(target["name"], text, date.fromisoformat(target["measured_on"]), target["note"])
    set_reference(card.card_id, text)


def _session(item: dict[str, Any], paper: Paper, paints: dict[tuple[str, str], Paint], target: dict[str, str]) -> None:
    def ids(key: str) -> list[int]:
        return [paints[maker, name].pk for maker, name in item.get(key, [])]

    own = {k: item[k] for k in ("name", "question", "sheet", "note", "tests", "arrangement", "practice") if k in item}
    reference = paints[*item["strength_reference"]].pk if "strength_reference" in item else None
    session = create_session(Plan(**own, paper=paper.pk, paints=ids("paints"), partners=ids("partners"), strength_reference=reference))
    for card in session.cards.all():
        if "weeks_in_light" in item:
            began = timezone.localdate() - timedelta(weeks=item["weeks_in_light"])
            begin_exposure(card.card_id, began, 8, 4, 24, 4)
        shots = item.get("shots", [])
        if shots:
            _target_on(card, target)
        for shot in shots:
            take_with_device(card, settings_of(shot))
