"""Sessions and cards."""

import json

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status

from gelvet.core.card.printing import card_pdf, cards_pdf
from gelvet.core.formats.card_layout import layout_from_document
from gelvet.site.api import fetch, present
from gelvet.site.api.schemas.bench import (
    AnswerOut,
    CardOut,
    DeclareIn,
    HistoryLineOut,
    MapIn,
    OverviewOut,
    ReferenceIn,
    SessionOut,
    SwapIn,
    ZonesIn,
)
from gelvet.site.api.schemas.plans import ChangeIn, PlanIn
from gelvet.site.bench import services
from gelvet.site.bench.models import BenchEntry, Card, Question, Session
from gelvet.site.bench.plans import plan_from
from gelvet.site.captures.models import BEING_MEASURED, CaptureState
from gelvet.site.captures.services import run_card_again
from gelvet.site.history.services import lines
from gelvet.site.library.models import Paint
from gelvet.site.library.services import find_target
from gelvet.site.problems import not_found
from gelvet.site.results.answers import answer_of, newest_of

router = Router()


def _shown(row: Session) -> SessionOut:
    return present.session(fetch.sessions().get(pk=row.pk))


def shown_card(row: Card) -> CardOut:
    return present.card(fetch.cards().get(pk=row.pk))


@router.get("/overview", response=OverviewOut, operation_id="getOverview")
def get_overview(request: HttpRequest) -> OverviewOut:
    paints = {p.pk: p for p in Paint.objects.select_related("maker", "range")}
    changes = fetch.change_ends()
    sessions = [present.session(s, paints, changes) for s in fetch.sessions().filter(binned=None)]
    cards = [c for s in sessions for c in s.cards]
    looked_at = [c for c in cards if any(x.measured for x in c.captures)]
    begun = set(BenchEntry.objects.values_list("card__card_id", flat=True).distinct())
    unfinished = BEING_MEASURED | {CaptureState.FAILED}
    return OverviewOut(
        sessions=sessions,
        counts={
            "ask": sum(1 for s in sessions if not s.cards),
            "card": sum(1 for c in cards if not c.captures and c.card_id not in begun),
            "paint": sum(1 for c in cards if not c.captures and c.card_id in begun),
            "capture": sum(1 for c in cards for x in c.captures if x.state in unfinished),
            "look": len(looked_at),
        },
    )


@router.post("/sessions", response={201: SessionOut}, operation_id="addSession")
def post_session(request: HttpRequest, payload: PlanIn) -> Status[SessionOut]:
    return Status(201, _shown(services.create_session(plan_from(payload.dict()))))


@router.get("/sessions/{int:session_id}", response=SessionOut, operation_id="getSession")
def get_session(request: HttpRequest, session_id: int) -> SessionOut:
    row = fetch.sessions().filter(pk=session_id).first()
    if row is None:
        raise not_found("The session")
    return present.session(row)


@router.put("/sessions/{int:session_id}", response=SessionOut, operation_id="changeSession")
def put_session(request: HttpRequest, session_id: int, payload: ChangeIn) -> SessionOut:
    return _shown(services.change_session(session_id, payload.revision, plan_from(payload.plan.dict())))


@router.post("/sessions/{int:session_id}/undo", response=SessionOut, operation_id="undoSession")
def undo_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.undo(session_id))


@router.post("/sessions/{int:session_id}/redo", response=SessionOut, operation_id="redoSession")
def redo_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.redo(session_id))


@router.post("/sessions/{int:session_id}/bin", response=SessionOut, operation_id="binSession")
def bin_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.bin_session(session_id))


@router.post("/sessions/{int:session_id}/restore", response=SessionOut, operation_id="restoreSession")
def restore_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.restore_session(session_id))


@router.get("/sessions/{int:session_id}/history", response=list[HistoryLineOut], operation_id="sessionHistory")
def get_history(request: HttpRequest, session_id: int) -> list[HistoryLineOut]:
    return [present.history_line(line) for line in lines(services.session_root(session_id))]


@router.get("/sessions/{int:session_id}/answer", response=AnswerOut, operation_id="getAnswer")
def get_answer(request: HttpRequest, session_id: int) -> AnswerOut:
    row = Session.objects.filter(pk=session_id).first()
    if row is None:
        raise not_found("The session")
    found = answer_of(row)
    cards = list(row.cards.filter(binned=None))
    return AnswerOut(
        question=str(Question(row.question).label), sentences=list(found.sentences), table=[list(line) for line in found.table],
        measured=sum(newest_of(c) is not None for c in cards), cards=len(cards),
    )  # fmt: skip


@router.get("/sessions/{int:session_id}/cards.pdf", include_in_schema=False)
def get_all_cards_pdf(request: HttpRequest, session_id: int) -> HttpResponse:
    row = fetch.sessions().filter(pk=session_id).first()
    cards = list(row.cards.all()) if row else []
    if row is None or not cards:
        raise not_found("A card to print")
    layouts = [layout_from_document(c.layout, c.card_id) for c in cards]
    response = HttpResponse(cards_pdf(layouts, f"Swatch cards: {row.name}"), content_type="application/pdf")
    name = cards[0].card_id.rsplit("-", 1)[0]
    response["Content-Disposition"] = f'attachment; filename="{name}-cards.pdf"'
    return response


@router.post("/cards", response={201: SessionOut}, operation_id="declareCard")
def post_card(request: HttpRequest, payload: DeclareIn) -> Status[SessionOut]:
    return Status(201, _shown(services.declare_card(payload.name, payload.question, payload.layout)))


@router.put("/cards/{card_id}/swap", response=CardOut, operation_id="swapSwatches")
def put_swap(request: HttpRequest, card_id: str, payload: SwapIn) -> CardOut:
    return shown_card(services.swap_swatches(card_id, payload.revision, payload.one, payload.two))


@router.put("/cards/{card_id}/swatch", response=CardOut, operation_id="mapSwatch")
def put_swatch(request: HttpRequest, card_id: str, payload: MapIn) -> CardOut:
    return shown_card(services.map_swatch(card_id, payload.revision, payload.swatch, payload.paint))


@router.put("/cards/{card_id}/zones", response=CardOut, operation_id="changeZones")
def put_zones(request: HttpRequest, card_id: str, payload: ZonesIn) -> CardOut:
    """What was captured is measured again with the zones where they are now."""
    card = services.change_zones(card_id, payload.revision, payload.zones)
    run_card_again(card)
    return shown_card(card)


@router.get("/cards/{card_id}", response=CardOut, operation_id="getCard")
def get_card(request: HttpRequest, card_id: str) -> CardOut:
    return shown_card(services.find_card(card_id))


@router.get("/cards/{card_id}/card.pdf", include_in_schema=False)
def get_card_pdf(request: HttpRequest, card_id: str) -> HttpResponse:
    card = services.find_card(card_id)
    response = HttpResponse(card_pdf(layout_from_document(card.layout, card_id)), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="{card.card_id}.pdf"'
    return response


@router.get("/cards/{card_id}/card.json", include_in_schema=False)
def get_card_layout(request: HttpRequest, card_id: str) -> HttpResponse:
    card = services.find_card(card_id)
    response = HttpResponse(json.dumps(card.layout, indent=1, ensure_ascii=False), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{card.card_id}.card.json"'
    return response


@router.put("/cards/{card_id}/reference", response=CardOut, operation_id="setReference")
def put_reference(request: HttpRequest, card_id: str, payload: ReferenceIn) -> CardOut:
    text = payload.text if payload.target is None else find_target(payload.target).text
    return shown_card(services.set_reference(card_id, text))
