"""Sessions and cards, their answers and their history."""

from datetime import date, datetime
from typing import Any

from ninja import Schema

from gelvet.site.api.schemas import ALL_THERE
from gelvet.site.api.schemas.captures import CaptureOut
from gelvet.site.api.schemas.library import PaintOut
from gelvet.site.api.schemas.plans import PlanIn


class ExposureIn(Schema):
    began: date
    hours_a_day: float = 8
    every_weeks: int = 4
    weeks: int = 24
    dark_weeks: int = 4


class ExposureOut(ExposureIn):
    model_config = ALL_THERE


class CardOut(Schema):
    card_id: str
    number: int
    session: int
    session_name: str
    revision: int
    paper: int | None
    has_reference: bool
    target: str | None
    paintable: bool
    layout: dict[str, Any]
    paints: dict[str, PaintOut]
    cautions: list[str]
    exposure: ExposureOut | None
    captures: list[CaptureOut]
    lacks: list[str]
    would_tell: list[str]


class SessionOut(PlanIn):
    model_config = ALL_THERE
    id: int
    question_text: str
    revision: int
    cards: list[CardOut]
    binned: bool
    can_undo: str | None
    can_redo: str | None


class OverviewOut(Schema):
    sessions: list[SessionOut]
    counts: dict[str, int]


class DeclareIn(Schema):
    name: str = ""
    question: str = "one-paint"
    layout: dict[str, Any]


class SwapIn(Schema):
    revision: int
    one: str
    two: str


class MapIn(Schema):
    revision: int
    swatch: str
    paint: int | None


class ZonesIn(Schema):
    revision: int
    zones: list[dict[str, Any]]


class ReferenceIn(Schema):
    """A CGATS text, or the library's target of that number."""

    text: str = ""
    target: int | None = None


class AnswerOut(Schema):
    question: str
    sentences: list[str]
    table: list[list[str]]
    measured: int
    cards: int


class FieldChangeOut(Schema):
    thing: str
    field: str
    before: str
    after: str


class HistoryLineOut(Schema):
    id: int
    at: datetime
    person: str
    action: str
    undone: bool
    changes: list[FieldChangeOut]
