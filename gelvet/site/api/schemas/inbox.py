"""The capture inbox and the calendar of long tests."""

from datetime import date, datetime

from ninja import Schema

from gelvet.site.api.schemas.captures import ArrivalOut, CaptureOut


class WaitingOut(Schema):
    card_id: str
    session: str
    number: int
    stage: str
    lacks: list[str]
    dry_at: datetime | None
    capture: CaptureOut | None


class InboxOut(Schema):
    waiting: list[WaitingOut]
    arrivals: list[ArrivalOut]


class DueOut(Schema):
    card_id: str
    session: str
    on: date
    what: str
    state: str
