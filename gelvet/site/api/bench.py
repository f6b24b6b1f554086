"""Sessions and cards."""

import json

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status

from gelvet.core.card.printing import card_pdf
from gelvet.core.formats.card_layout import layout_from_document
from gelvet.site.api import fetch, present
from gelvet.site.api.schemas import CardOut, ChangeIn, OverviewOut, PlanIn, ReferenceIn, SessionOut
from gelvet.site.bench import services
from gelvet.site.bench.models import Card, Session
from gelvet.site.captures.models import CaptureState
from gelvet.site.library.models import Paint
from gelvet.site.problems import not_found

router = Router()


def _shown(row: Session) -> SessionOut:
    return present.session(fetch.sessions().get(pk=row.pk))


def _shown_card(row: Card) -> CardOut:
    return present.card(fetch.cards().get(pk=row.pk))


@router.get("/overview", response=OverviewOut, operation_id="getOverview")
def get_overview(request: HttpRequest) -> OverviewOut:
    paints = {p.pk: p for p in Paint.objects.select_related("maker")}
    sessions = [present.session(s, paints) for s in fetch.sessions()]
    cards = [c for s in sessions for c in s.cards]
    looked_at = [c for c in cards if any(x.measured for x in c.captures)]
    unfinished = {CaptureState.QUEUED, CaptureState.RUNNING, CaptureState.FAILED}
    return OverviewOut(
        sessions=sessions,
        counts={
            "ask": sum(1 for s in sessions if not s.paints),
            "card": sum(1 for c in cards if not c.captures),
            "capture": sum(1 for c in cards for x in c.captures if x.state in unfinished),
            "look": len(looked_at),
            "paint": len({p.id for c in looked_at for p in c.paints.values()}),
        },
    )


@router.post("/sessions", response={201: SessionOut}, operation_id="addSession")
def post_session(request: HttpRequest, payload: PlanIn) -> Status[SessionOut]:
    return Status(201, _shown(services.create_session(services.plan_from(payload.dict()))))


@router.get("/sessions/{int:session_id}", response=SessionOut, operation_id="getSession")
def get_session(request: HttpRequest, session_id: int) -> SessionOut:
    row = fetch.sessions().filter(pk=session_id).first()
    if row is None:
        raise not_found("The session")
    return present.session(row)


@router.put("/sessions/{int:session_id}", response=SessionOut, operation_id="changeSession")
def put_session(request: HttpRequest, session_id: int, payload: ChangeIn) -> SessionOut:
    return _shown(services.change_session(session_id, payload.revision, services.plan_from(payload.plan.dict())))


@router.post("/sessions/{int:session_id}/undo", response=SessionOut, operation_id="undoSession")
def undo_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.undo(session_id))


@router.post("/sessions/{int:session_id}/redo", response=SessionOut, operation_id="redoSession")
def redo_session(request: HttpRequest, session_id: int) -> SessionOut:
    return _shown(services.redo(session_id))


@router.get("/cards/{card_id}", response=CardOut, operation_id="getCard")
def get_card(request: HttpRequest, card_id: str) -> CardOut:
    return _shown_card(services.find_card(card_id))


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
    return _shown_card(services.set_reference(card_id, payload.text))
