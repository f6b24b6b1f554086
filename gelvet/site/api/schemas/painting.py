"""The bench page: steps, notes, timers."""

from datetime import datetime

from ninja import Schema

from gelvet.site.api.schemas.bench import CardOut
from gelvet.site.api.schemas.library import ChoiceOut


class StepOut(Schema):
    id: str
    kind: str
    text: str
    zones: list[str]
    swatch: str | None
    seconds: int
    reminder: str
    done: bool


class EntryOut(Schema):
    at: datetime
    kind: str
    step: str
    swatch: str
    text: str
    person: str


class TimerOut(Schema):
    """`remaining` seconds by the server's clock when asked."""

    id: int
    card_id: str
    step: str
    title: str
    seconds: int
    remaining: int


class BenchOut(Schema):
    card: CardOut
    steps: list[StepOut]
    next: str | None
    entries: list[EntryOut]
    timers: list[TimerOut]
    mishaps: list[ChoiceOut]


class NoteIn(Schema):
    text: str
    swatch: str = ""


class MishapIn(Schema):
    kind: str
    swatch: str = ""


class TimerIn(Schema):
    step: str = "own"
    title: str
    seconds: int
