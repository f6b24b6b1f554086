"""From rows to what goes over the wire."""

import json
from dataclasses import asdict
from datetime import datetime
from decimal import Decimal
from pathlib import Path
from typing import Any
from urllib.parse import quote

from django.conf import settings

from gelvet.core.compare.comparability import obstacles
from gelvet.core.compare.distance import Comparison
from gelvet.core.compare.wording import phrases as difference_phrases
from gelvet.core.pigments.pigment_list import cautions
from gelvet.core.simulate.spectra import PIGMENTS
from gelvet.site.api import fetch
from gelvet.site.api.schemas.bench import CardOut, ExposureOut, FieldChangeOut, HistoryLineOut, SessionOut
from gelvet.site.api.schemas.captures import ArrivalOut, CaptureOut, GateOut, ShotOut
from gelvet.site.api.schemas.library import PaintOut
from gelvet.site.api.schemas.painting import TimerOut
from gelvet.site.api.schemas.results import CropOut, DifferenceOut, DistanceOut, ObstacleOut, PairOut, PhraseOut, ReplicateOut, SwatchOut
from gelvet.site.bench.book import remaining_s
from gelvet.site.bench.models import Card, Question, Session, Timer
from gelvet.site.bench.plans import plan_of
from gelvet.site.bench.services import session_root
from gelvet.site.captures.lacking import lacks_of, would_tell
from gelvet.site.captures.models import Arrival, Capture, CaptureState, Shot
from gelvet.site.history.services import HistoryLine
from gelvet.site.library.models import Paint
from gelvet.site.results.answers import record_of
from gelvet.site.results.pictures import CROP_INSET_MM, views_of
from gelvet.site.results.services import MeasuredSwatch


def paint(row: Paint, measured: bool = False) -> PaintOut:
    """`row` with its maker and range at hand. Not validated again: a row is what the models allow, and there are many."""
    codes = (row.simulation or {}).get("codes") or row.pigments
    return PaintOut.model_construct(
        id=row.pk, revision=row.revision, maker=row.maker.name, name=row.name, pigments=row.pigments, form=row.form,
        range=row.range.name if row.range else "", place=row.place, series=row.series, size_ml=_plain(row.size_ml), price=_plain(row.price),
        currency=row.currency, batch=row.batch, hazards=row.hazards, claims=row.claims, sparkles=row.sparkles, owned=row.owned,
        note=row.note, paintable=1 <= len(codes) <= 2 and all(c in PIGMENTS for c in codes), measured=measured,
        binned=row.binned is not None,
    )  # fmt: skip


def _plain(amount: Decimal | None) -> str:
    return "" if amount is None else f"{amount:f}".rstrip("0").rstrip(".") if "." in f"{amount:f}" else f"{amount:f}"


def capture(row: Capture) -> CaptureOut:
    """`row` as `fetch.captures` gives it."""
    measurements = list(row.measurements.all())
    newest: Any = measurements[0] if measurements and row.state == CaptureState.DONE else None
    return CaptureOut(
        id=row.pk, card_id=row.card.card_id, source=row.source, file=row.original.name if row.original else None,
        sha256=row.original.sha256 if row.original else None, state=row.state, stage=row.stage, share=row.share, message=row.message,
        paint_state=row.paint_state, made=row.made, measured=bool(measurements),
        gates=[GateOut(**g) for g in newest.gates] if newest else [], notes=(newest.warnings or []) if newest else [],
        shots=[_shot(shot) for shot in row.shots.all()],
    )  # fmt: skip


def _shot(row: Shot) -> ShotOut:
    file = row.original.name if row.original else None
    return ShotOut(id=row.pk, file=file, light=row.light, azimuth_deg=row.azimuth_deg, elevation_deg=row.elevation_deg)


def arrival(row: Arrival) -> ArrivalOut:
    card = row.capture.card.card_id if row.capture else None
    return ArrivalOut(at=row.at, name=row.name, outcome=row.outcome, card_id=card, capture=row.capture_id)


def card(row: Card, paints: dict[int, Paint] | None = None) -> CardOut:
    """`row` as `fetch.cards` gives it; `paints` where they are at hand already."""
    stock = (
        paints
        if paints is not None
        else {p.pk: p for p in Paint.objects.select_related("maker", "range").filter(pk__in=row.paints.values())}
    )
    shown = {swatch: paint(stock[pk]) for swatch, pk in row.paints.items() if pk in stock}
    lacks = lacks_of(row)
    return CardOut(
        card_id=row.card_id, number=row.number, session=row.session_id, session_name=row.session.name, revision=row.revision,
        paper=row.paper_id, has_reference=bool(row.reference), target=row.target_name,  # type: ignore[attr-defined]

        paintable=all(p.paintable for p in shown.values()), layout=row.layout, paints=shown,
        cautions=cautions(code for p in shown.values() for code in p.pigments),
        exposure=ExposureOut.from_orm(row.exposure) if hasattr(row, "exposure") else None,
        captures=[capture(c) for c in row.captures.all()], lacks=list(lacks), would_tell=[] if lacks else list(would_tell(row)),
    )  # fmt: skip


def session(row: Session, paints: dict[int, Paint] | None = None, changes: dict[str, fetch.Ends] | None = None) -> SessionOut:
    """`row` as `fetch.sessions` gives it; `paints` and `changes` where they are at hand already."""
    stock = paints if paints is not None else {p.pk: p for p in Paint.objects.select_related("maker", "range")}
    root = session_root(row.pk)
    ends = (changes if changes is not None else fetch.change_ends([root])).get(root, fetch.Ends())
    return SessionOut(
        **asdict(plan_of(row)), id=row.pk, question_text=Question(row.question).label, revision=row.revision,
        cards=[card(c, stock) for c in row.cards.all()], binned=row.binned is not None,
        can_undo=ends.done, can_redo=ends.undone,
    )  # fmt: skip


def history_line(row: HistoryLine) -> HistoryLineOut:
    return HistoryLineOut(
        id=row.id, at=row.at, person=row.person, action=row.action, undone=row.undone,
        changes=[FieldChangeOut(thing=c.thing, field=c.field.replace("_", " "), before=_short(c.before), after=_short(c.after))
                 for c in row.changes],
    )  # fmt: skip


def _short(value: Any) -> str:
    """A kept value for reading; long documents only by their size."""
    if value is None or value == "":
        return "–"
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= 160 else f"{text[:120]} … ({len(text)} characters)"


def timer(row: Timer, now: datetime) -> TimerOut:
    return TimerOut(
        id=row.pk, card_id=row.card.card_id, step=row.step, title=row.title, seconds=row.seconds, remaining=remaining_s(row, now)
    )


def swatch(row: MeasuredSwatch) -> SwatchOut:
    crops: dict[str, CropOut] = {}
    for zone in row.card.layout["zones"]:
        if zone.get("swatch") == row.swatch or zone["id"].startswith(f"{row.swatch}."):
            before = sum(name.partition(":")[0] == zone["kind"] for name in crops)
            crops[f"{zone['kind']}:{before + 1}" if before else zone["kind"]] = _crop(row, zone)
    return SwatchOut(
        paint=paint(row.paint, measured=True),
        card_id=row.card.card_id,
        swatch=row.swatch,
        capture=row.capture.pk,
        tier=row.measurement.document["calibration"]["tier"],
        figures=row.figures,
        crops=crops,
        views=_views(row),
        made=row.measurement.made,
    )


def _views(row: MeasuredSwatch) -> dict[str, str]:
    folder = Path(settings.DERIVED_DIR) / row.measurement.pictures
    address = f"/api/captures/{row.capture.pk}/views/{quote(row.swatch)}"
    return {name: f"{address}/{name}?v={row.measurement.pictures}" for name in views_of(folder, row.swatch)}


def _crop(row: MeasuredSwatch, zone: dict[str, Any]) -> CropOut:
    _, _, width, height = zone["rect_mm"]
    url = f"/api/captures/{row.capture.pk}/crops/{quote(zone['id'])}?v={row.measurement.pictures}"
    return CropOut(zone=zone["id"], url=url, width_mm=width - 2 * CROP_INSET_MM, height_mm=height - 2 * CROP_INSET_MM)


def _obstacles(first: MeasuredSwatch, second: MeasuredSwatch) -> list[ObstacleOut]:
    found = obstacles(record_of(first), record_of(second))
    return [ObstacleOut(field=o.field, weight=o.weight, sentence=o.sentence) for o in found]


def replicate(newest: MeasuredSwatch, other: MeasuredSwatch, comparison: Comparison) -> ReplicateOut:
    at = {d.place: d for d in comparison.distances}
    between = _obstacles(newest, other)
    return ReplicateOut(
        card_id=other.card.card_id, swatch=other.swatch, capture=other.capture.pk, made=other.measurement.made,
        masstone_de00=at["masstone"].de00, wash_de00=at["wash"].de00, real=at["masstone"].real or at["wash"].real,
        replicate=all(o.weight == "notes" for o in between), obstacles=between,
    )  # fmt: skip


def pair(first: MeasuredSwatch, second: MeasuredSwatch, comparison: Comparison) -> PairOut:
    return PairOut(
        obstacles=_obstacles(first, second),
        first=first.paint.pk,
        second=second.paint.pk,
        distances=[DistanceOut(place=d.place, de00=d.de00, u=d.u, real=d.real) for d in comparison.distances],
        differences=[
            DifferenceOut(
                key=d.of.key,
                title=d.of.title,
                unit=d.of.unit,
                chief=d.of.chief,
                first=d.first,
                second=d.second,
                difference=d.difference,
                u=d.u,
                times_u=d.times_u,
                real=d.real,
            )
            for d in comparison.properties
        ],
        phrases=[PhraseOut(key=p.key, text=p.text) for p in difference_phrases(comparison)],
    )
