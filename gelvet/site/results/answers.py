"""A session's measured swatches and mixes, gathered for its answer, and the record of how each swatch came to be."""

from collections.abc import Iterable
from typing import Any

from gelvet.core.compare.answers import Answer, AnsweredMix, AnsweredSwatch, answer
from gelvet.core.compare.comparability import SwatchRecord
from gelvet.core.measure.classes import classed
from gelvet.site.bench.models import Card, EntryKind, Session
from gelvet.site.captures.models import Capture
from gelvet.site.library.models import Paint
from gelvet.site.results.classes import bench_limits
from gelvet.site.results.models import Measurement
from gelvet.site.results.services import MeasuredSwatch


def answer_of(session: Session) -> Answer:
    """From the newest dry measurement of each card."""
    swatches: list[AnsweredSwatch] = []
    mixes: list[AnsweredMix] = []
    cards = list(session.cards.filter(binned=None).select_related("paper"))
    stock = Paint.objects.select_related("maker").in_bulk({pk for card in cards for pk in card.paints.values()})
    names = _names(stock.values())
    for card in cards:
        measurement = newest_of(card)
        if measurement is not None:
            swatches += _swatches(card, measurement, stock, names)
            mixes += _mixes(card, measurement, names)
    order = {paint: i for i, paint in enumerate([*session.paints, *session.options.get("partners", [])])}
    swatches.sort(key=lambda s: order.get(s.paint, len(order)))
    return answer(session.question, swatches, mixes)


def newest_of(card: Card) -> Measurement | None:
    return Measurement.objects.filter(capture__card=card, capture__paint_state="dry").order_by("-id").first()


def _names(paints: Iterable[Paint]) -> dict[int, str]:
    """Names alone where they are enough, with the maker where two paints share one."""
    rows = list(paints)
    taken = [p.name for p in rows]
    return {p.pk: p.name if taken.count(p.name) == 1 else f"{p.name} ({p.maker.name})" for p in rows}


def _swatches(card: Card, measurement: Measurement, stock: dict[int, Paint], names: dict[int, str]) -> list[AnsweredSwatch]:
    limits = bench_limits()
    figures = {name: classed(swatch, limits) for name, swatch in measurement.document["swatches"].items()}
    return [
        AnsweredSwatch(
            paint=paint, name=names[paint], paper=card.paper.name if card.paper else "", figures=figures[swatch], claims=stock[paint].claims
        )
        for swatch, paint in card.paints.items()
        if swatch in figures and paint in stock
    ]


def _mixes(card: Card, measurement: Measurement, names: dict[int, str]) -> list[AnsweredMix]:
    found = []
    zones: dict[str, Any] = measurement.document["zones"]
    for zone in card.layout["zones"]:
        colour = zones.get(zone["id"], {})
        if zone["kind"] == "mix" and colour.get("lab") is not None:
            parts = tuple(
                (names.get(card.paints.get(swatch, 0), swatch), float(share), zones.get(f"{swatch}.masstone", {}).get("lab"))
                for swatch, share in zone["parts"]
            )
            found.append(AnsweredMix(parts=parts, lab=colour["lab"], u=colour["u"], glints=_glints(colour.get("glints"))))
    return found


def _glints(found: dict[str, Any] | None) -> tuple[float, float] | None:
    """Number per cm² and its uncertainty, where low lamps told."""
    return None if found is None or found["absent"] else (found["density"], found["u"])


def record_of(found: MeasuredSwatch) -> SwatchRecord:
    """How a swatch came to be, as far as it was written down."""
    options = found.card.session.options
    practice = options.get("practice") or {}
    entries = [e for e in found.card.entries.all() if e.swatch == found.swatch]
    painted = next((e for e in reversed(entries) if e.kind == EntryKind.STEP), None)
    mishaps = tuple(f"{found.card.card_id} {e.swatch}, {e.text}" for e in entries if e.kind == EntryKind.MISHAP)
    return SwatchRecord(
        # A card before it is lifted is dry, too.
        state="wet" if found.capture.paint_state == "wet" else "dry",
        tier=found.measurement.document["calibration"]["tier"],
        paper=found.card.paper.name if found.card.paper else "",
        side=practice.get("side", ""),
        woken=practice.get("woken", ""),
        application=options.get("application", ""),
        mixing=practice.get("mixing", ""),
        wetness=practice.get("wetness", ""),
        painter=practice.get("painter", "") or (painted.person if painted else ""),
        batch=found.paint.batch,
        device=_device(found.capture),
        painted=painted.at.date().isoformat() if painted else "",
        mishaps=mishaps,
    )


def _device(capture: Capture) -> str:
    if capture.source != "file":
        return f"simulated {capture.source}, {capture.settings.get('kind', 'white-led')}"
    return ""
