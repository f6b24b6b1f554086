"""From rows to what goes over the wire."""

from typing import Any
from urllib.parse import quote

from gelvet.core.compare.distance import Comparison
from gelvet.core.compare.wording import phrases as difference_phrases
from gelvet.core.pigments.pigment_list import cautions
from gelvet.core.simulate.spectra import PIGMENTS
from gelvet.site.api import schemas as s
from gelvet.site.bench.models import Card, Question, Session
from gelvet.site.captures.models import Capture, CaptureState
from gelvet.site.library.models import Paint
from gelvet.site.results.pictures import CROP_INSET_MM
from gelvet.site.results.services import MeasuredSwatch


def paint(row: Paint, measured: bool = False) -> s.PaintOut:
    codes = (row.simulation or {}).get("codes") or row.pigments
    return s.PaintOut(
        id=row.pk, maker=row.maker.name, name=row.name, pigments=row.pigments, form=row.form, claims=row.claims, note=row.note,
        paintable=1 <= len(codes) <= 2 and all(c in PIGMENTS for c in codes), measured=measured,
    )  # fmt: skip


def capture(row: Capture) -> s.CaptureOut:
    """`row` as `fetch.captures` gives it."""
    measurements = list(row.measurements.all())
    gates = measurements[0].gates if measurements and row.state == CaptureState.DONE else []  # type: ignore[attr-defined]
    return s.CaptureOut(
        id=row.pk, card_id=row.card.card_id, source=row.source, file=row.original.name if row.original else None,
        sha256=row.original.sha256 if row.original else None, state=row.state, stage=row.stage, share=row.share, message=row.message,
        made=row.made, measured=bool(measurements), gates=[s.GateOut(**g) for g in gates],
    )  # fmt: skip


def card(row: Card, paints: dict[int, Paint] | None = None) -> s.CardOut:
    """`row` as `fetch.cards` gives it; `paints` where they are at hand already."""
    stock = paints if paints is not None else {p.pk: p for p in Paint.objects.select_related("maker").filter(pk__in=row.paints.values())}
    shown = {swatch: paint(stock[pk]) for swatch, pk in row.paints.items() if pk in stock}
    return s.CardOut(
        card_id=row.card_id, number=row.number, session=row.session_id, session_name=row.session.name, has_reference=bool(row.reference),
        paintable=all(p.paintable for p in shown.values()), layout=row.layout, paints=shown,
        cautions=cautions(code for p in shown.values() for code in p.pigments),
        captures=[capture(c) for c in row.captures.all()],
    )  # fmt: skip


def session(row: Session, paints: dict[int, Paint] | None = None) -> s.SessionOut:
    """`row` as `fetch.sessions` gives it."""
    stock = paints if paints is not None else {p.pk: p for p in Paint.objects.select_related("maker")}
    changes = list(row.changes.all())
    done, undone = [c for c in changes if not c.undone], [c for c in changes if c.undone]
    return s.SessionOut(
        id=row.pk, name=row.name, question=row.question, question_text=Question(row.question).label, paper=row.paper_id, sheet=row.sheet,
        note=row.note, revision=row.revision, paints=[p.paint_id for p in row.places.all()],
        cards=[card(c, stock) for c in row.cards.all()],
        can_undo=done[-1].action if done else None, can_redo=undone[0].action if undone else None,
    )  # fmt: skip


def swatch(row: MeasuredSwatch) -> s.SwatchOut:
    crops: dict[str, s.CropOut] = {}
    for zone in row.card.layout["zones"]:
        if zone.get("swatch") == row.swatch or zone["id"].startswith(f"{row.swatch}."):
            crops.setdefault(zone["kind"], _crop(row, zone))
    return s.SwatchOut(
        paint=paint(row.paint, measured=True),
        card_id=row.card.card_id,
        swatch=row.swatch,
        capture=row.capture.pk,
        tier=row.measurement.document["calibration"]["tier"],
        figures=row.figures,
        crops=crops,
        made=row.measurement.made,
    )


def _crop(row: MeasuredSwatch, zone: dict[str, Any]) -> s.CropOut:
    _, _, width, height = zone["rect_mm"]
    url = f"/api/captures/{row.capture.pk}/crops/{quote(zone['id'])}?v={row.measurement.pictures}"
    return s.CropOut(zone=zone["id"], url=url, width_mm=width - 2 * CROP_INSET_MM, height_mm=height - 2 * CROP_INSET_MM)


def pair(first: MeasuredSwatch, second: MeasuredSwatch, comparison: Comparison) -> s.PairOut:
    return s.PairOut(
        first=first.paint.pk,
        second=second.paint.pk,
        distances=[s.DistanceOut(place=d.place, de00=d.de00, u=d.u, real=d.real) for d in comparison.distances],
        differences=[
            s.DifferenceOut(
                key=d.key, title=d.title, unit=d.unit, first=d.first, second=d.second, difference=d.difference, u=d.u, real=d.real
            )
            for d in comparison.properties
        ],
        phrases=[s.PhraseOut(key=p.key, text=p.text) for p in difference_phrases(comparison)],
    )
