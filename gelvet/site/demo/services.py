"""Loads the Marram Coast scenario: invented makers and paints, three planned sessions, their cards sent to the
simulated flatbed. What is there already is left alone."""

import json
from pathlib import Path

from gelvet.site.bench.models import Session
from gelvet.site.bench.services import Plan, create_session
from gelvet.site.captures.services import take_with_flatbed
from gelvet.site.library.models import Maker, Paint, Paper

_SCENARIO = Path(__file__).with_name("scenario.json")


def load_demo() -> int:
    """Returns how many sessions were added; their captures are queued, not measured here."""
    scenario = json.loads(_SCENARIO.read_text("utf-8"))
    papers = [Paper.objects.get_or_create(name=p["name"], defaults=p)[0] for p in scenario["papers"]]
    paints: dict[tuple[str, str], Paint] = {}
    for item in scenario["paints"]:
        maker, _ = Maker.objects.get_or_create(name=item["maker"])
        rest = {k: v for k, v in item.items() if k not in {"maker", "name"}}
        paints[item["maker"], item["name"]], _ = Paint.objects.get_or_create(maker=maker, name=item["name"], defaults=rest)
    added = 0
    for item in scenario["sessions"]:
        if Session.objects.filter(name=item["name"]).exists():
            continue
        chosen = [paints[maker, name].pk for maker, name in item["paints"]]
        session = create_session(
            Plan(name=item["name"], question=item["question"], paper=papers[0].pk, sheet=item["sheet"], note=item["note"], paints=chosen)
        )
        for card in session.cards.all():
            take_with_flatbed(card, item["scanner"])
        added += 1
    return added
