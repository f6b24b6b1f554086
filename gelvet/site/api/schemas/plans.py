"""Plans before they are kept."""

from typing import Any

from ninja import Schema


class PlanIn(Schema):
    name: str
    question: str
    paper: int | None = None
    sheet: str = "A5"
    note: str = ""
    paints: list[int] = []
    partners: list[int] = []
    papers: list[int] = []
    tests: list[str] = ["hiding", "lifting"]
    application: str = "stroke"
    replicates: int = 1
    arrangement: str = "hand"
    per_card: int | None = None
    blank_rows: int = 0
    framed: bool = False
    strength_reference: int | None = None
    practice: dict[str, str] = {}


class ProposeIn(Schema):
    question: str
    subject: str


class ProposedOut(Schema):
    paint: int
    reason: str


class ProposalOut(Schema):
    paints: list[ProposedOut]
    partners: list[ProposedOut]


class PreviewCardOut(Schema):
    number: int
    paper: int | None
    layout: dict[str, Any]
    paints: dict[str, int]


class EffortOut(Schema):
    cards: int
    swatches: int
    minutes: int
    waiting: int
    paint_ml: float
    paper_m2: float


class PreviewOut(Schema):
    """What a plan would come to; `problem` says why it cannot be laid out."""

    cards: list[PreviewCardOut]
    effort: EffortOut
    paints: list[int]
    partners: list[int]
    painting_order: list[int]
    cautions: list[str]
    problem: str | None


class ChangeIn(Schema):
    revision: int
    plan: PlanIn
