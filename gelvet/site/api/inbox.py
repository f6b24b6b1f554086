"""The capture inbox, and the calendar of long tests."""

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from gelvet.site.api import fetch, present
from gelvet.site.api.schemas.bench import ExposureIn
from gelvet.site.api.schemas.captures import ArrivalOut, LightIn
from gelvet.site.api.schemas.inbox import DueOut, InboxOut, WaitingOut
from gelvet.site.bench import calendar
from gelvet.site.captures import inbox

router = Router()


@router.get("/inbox", response=InboxOut, operation_id="getInbox")
def get_inbox(request: HttpRequest) -> InboxOut:
    cards = fetch.cards().prefetch_related("entries", "timers")
    found = inbox.waiting(cards, timezone.now())
    return InboxOut(waiting=[_waiting(w) for w in found], arrivals=[present.arrival(a) for a in inbox.arrivals()])


def _waiting(row: inbox.Waiting) -> WaitingOut:
    captures = list(row.card.captures.all())
    return WaitingOut(
        card_id=row.card.card_id, session=row.card.session.name, number=row.card.number, stage=row.stage, lacks=list(row.lacks),
        dry_at=row.dry_at, capture=present.capture(captures[-1]) if captures else None,
    )  # fmt: skip


@router.post("/inbox", response={201: list[ArrivalOut]}, operation_id="addToInbox")
def post_inbox(request: HttpRequest, file: File[UploadedFile], light: Form[LightIn]) -> Status[list[ArrivalOut]]:
    arrivals = inbox.receive(file.chunks(), file.name or "unnamed", light.checked())
    return Status(201, [present.arrival(a) for a in arrivals])


def _dues() -> list[calendar.Due]:
    return calendar.due_list(calendar.open_exposures(), timezone.localdate())


@router.get("/calendar", response=list[DueOut], operation_id="getCalendar")
def get_calendar(request: HttpRequest) -> list[DueOut]:
    return [DueOut(card_id=d.card.card_id, session=d.card.session.name, on=d.on, what=d.what, state=d.state) for d in _dues()]


@router.get("/calendar.ics", include_in_schema=False)
def download_calendar(request: HttpRequest) -> HttpResponse:
    response = HttpResponse(calendar.as_icalendar(_dues()), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="gelvet.ics"'
    return response


@router.put("/cards/{card_id}/exposure", response=list[DueOut], operation_id="beginExposure")
def put_exposure(request: HttpRequest, card_id: str, payload: ExposureIn) -> list[DueOut]:
    calendar.begin_exposure(card_id, **payload.dict())
    return [d for d in get_calendar(request) if d.card_id == card_id]
