"""A session's plan as a value: everything that a person decides, and what follows from it before anything is kept."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any

from gelvet.core.card.builder import Design, SwatchLabel, build_card, capacity
from gelvet.core.card.layout import Layout
from gelvet.core.card.mix_grid import build_mix_card, grid_columns, grid_rows
from gelvet.core.planning.arrange import ARRANGEMENTS, arrange
from gelvet.core.planning.facts import PaintFacts
from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.bench.models import Session
from gelvet.site.library.models import Paint, Paper
from gelvet.site.problems import Problem

MAXIMUM_CARDS = 60
MAXIMUM_REPLICATES = 10
# The schools of practice that a session can follow, by what they decide.
PRACTICES: dict[str, tuple[str, ...]] = {
    "woken": ("fresh", "re-wetted"),
    "wetness": ("wet on dry", "dropped into wet"),
    "mixing": ("on the palette", "on the paper"),
    "side": ("front", "back"),
}
_FREE_PRACTICES = ("painter", "brush")


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """`partners` only for mixes, `papers` only where several are compared; `blank_rows` are painted freehand and named
    afterwards; `practice` says how it is painted, for what may be compared later; the tinting strength of `strength_reference`, one
    of the paints, counts as 100 % on the cards that hold it."""

    name: str
    question: str
    paper: int | None = None
    sheet: str = "A5"
    note: str = ""
    paints: list[int] = field(default_factory=list)
    partners: list[int] = field(default_factory=list)
    papers: list[int] = field(default_factory=list)
    tests: list[str] = field(default_factory=lambda: ["hiding", "lifting"])
    application: str = "stroke"
    replicates: int = 1
    arrangement: str = "hand"
    per_card: int | None = None
    blank_rows: int = 0
    framed: bool = False
    strength_reference: int | None = None
    practice: dict[str, str] = field(default_factory=dict)


_OPTIONS = tuple(f.name for f in fields(Plan) if f.name not in {"name", "question", "paper", "sheet", "note", "paints"})


def plan_from(values: dict[str, Any]) -> Plan:
    return Plan(**values)


def options_of(plan: Plan) -> dict[str, Any]:
    """What a session keeps of the plan beside its own fields."""
    return {name: value for name, value in asdict(plan).items() if name in _OPTIONS}


def plan_of(session: Session) -> Plan:
    known = {name: value for name, value in session.options.items() if name in _OPTIONS}
    return Plan(
        name=session.name, question=session.question, paper=session.paper_id, sheet=session.sheet, note=session.note,
        paints=list(session.paints), **known,
    )  # fmt: skip


def mixes(plan: Plan) -> bool:
    return QUESTIONS[plan.question].layout == "mixes"


def check(plan: Plan) -> None:
    """Raises Problem, or LayoutError for what no sheet can hold."""
    if not plan.name.strip():
        raise Problem("incomplete", "Give the session a name, so that it can be found again.")
    if plan.question not in QUESTIONS:
        raise Problem("unknown-question", "Choose one of the listed questions.")
    if plan.arrangement not in ARRANGEMENTS:
        raise Problem("unknown-arrangement", f"Choose an order: {', '.join(ARRANGEMENTS)}.")
    if not 1 <= plan.replicates <= MAXIMUM_REPLICATES:
        raise Problem("too-many-replicates", f"A paint can be laid 1 to {MAXIMUM_REPLICATES} times in a session.")
    for paints in (plan.paints, plan.partners):
        if len(set(paints)) != len(paints):
            raise Problem("duplicate-paint", "A paint stands twice in the session; keep it once, and use replicates to lay it again.")
    wanted = set(plan.paints) | set(plan.partners)
    if Paint.objects.filter(pk__in=wanted).count() != len(wanted):
        raise Problem("unknown-paint", "A paint of the session is no longer in the library; choose it again.")
    if plan.strength_reference is not None and plan.strength_reference not in plan.paints:
        raise Problem("unknown-reference", "The paint whose strength counts as 100 % is not in the session; choose one of its paints.")
    papers = {*plan.papers, *([plan.paper] if plan.paper is not None else [])}
    if Paper.objects.filter(pk__in=papers).count() != len(papers):
        raise Problem("unknown-paper", "That paper is no longer in the library; choose another.")
    for name, value in plan.practice.items():
        if name not in PRACTICES and name not in _FREE_PRACTICES:
            raise Problem("unknown-practice", f"{name!r} is nothing that a session records.")
        if value and name in PRACTICES and value not in PRACTICES[name]:
            raise Problem("unknown-practice", f"Choose one of {', '.join(PRACTICES[name])}.")
    capacity(plan.sheet, _design(plan))


def arranged(plan: Plan, facts: dict[int, PaintFacts]) -> Plan:
    """The plan with its paints (or, for mixes, its partners) in the order that it asks for. What a question starts from
    keeps its place: the paint to be replaced stays first, the one to be matched last."""
    if plan.arrangement == "hand":
        return plan

    def ordered(paints: list[int]) -> list[int]:
        return arrange([facts[p] for p in paints if p in facts], plan.arrangement)

    if plan.question == "make-myself":
        return replace(plan, partners=[*ordered(plan.partners[:-1]), *plan.partners[-1:]])
    if mixes(plan):
        return replace(plan, partners=ordered(plan.partners))
    if QUESTIONS[plan.question].start == "paint":
        return replace(plan, paints=[*plan.paints[:1], *ordered(plan.paints[1:])])
    return replace(plan, paints=ordered(plan.paints))


@dataclass(frozen=True, slots=True)
class CardPlan:
    """One card before it has a row of its own: which paint each swatch has (None where still blank), on which paper."""

    number: int
    paper: int | None
    rows: tuple[int | None, ...]
    partners: tuple[int, ...] = ()

    @property
    def paints(self) -> dict[str, int]:
        """Paint by swatch id."""
        return {f"S{i}": paint for i, paint in enumerate((*self.rows, *self.partners), start=1) if paint is not None}


def card_plans(plan: Plan) -> list[CardPlan]:
    """The session's cards in order; raises LayoutError, and Problem where they are too many."""
    papers: Sequence[int | None] = plan.papers or [plan.paper]
    found: list[CardPlan] = []
    for paper in papers:
        groups = _mix_groups(plan) if mixes(plan) else _row_groups(plan)
        for rows, partners in groups:
            found.append(CardPlan(len(found) + 1, paper, rows, partners))
            if len(found) > MAXIMUM_CARDS:
                raise Problem("too-many-cards", f"That would be more than {MAXIMUM_CARDS} cards; part it into several sessions.")
    return found


def _row_groups(plan: Plan) -> Iterable[tuple[tuple[int | None, ...], tuple[int, ...]]]:
    # A paint's replicates lie apart, so that a fault of one place or moment does not hit them all.
    rows: list[int | None] = [*plan.paints * plan.replicates, *[None] * plan.blank_rows]
    bears = capacity(plan.sheet, _design(plan))
    usual = max(1, capacity(plan.sheet, _design(plan), comfortable=True))
    size = min(plan.per_card or usual, bears)
    return [(tuple(rows[i : i + size]), ()) for i in range(0, len(rows), size)]


def _mix_groups(plan: Plan) -> Iterable[tuple[tuple[int | None, ...], tuple[int, ...]]]:
    if not plan.paints or not plan.partners:
        return []
    size = grid_columns(plan.sheet, len(grid_rows(len(plan.paints))))
    return [
        (tuple(plan.paints), tuple(plan.partners[i : i + size])) for _ in range(plan.replicates) for i in range(0, len(plan.partners), size)
    ]


def build(plan: Plan, card: CardPlan, card_id: str, paints: dict[int, Paint]) -> Layout:
    """The card's layout; raises LayoutError."""
    labels = [SwatchLabel("") if p is None else label(paints[p]) for p in card.rows]
    if mixes(plan):
        return build_mix_card(card_id, plan.sheet, labels, [label(paints[p]) for p in card.partners])
    layout = build_card(card_id, plan.sheet, labels, _design(plan))
    if plan.strength_reference not in card.rows:
        return layout
    named = f"S{card.rows.index(plan.strength_reference) + 1}"
    return replace(layout, extra={**layout.extra, "strength_reference": named})


def _design(plan: Plan) -> Design:
    return Design(plan.application, tuple(plan.tests), plan.framed)


def label(paint: Paint) -> SwatchLabel:
    return SwatchLabel(paint.name, paint.maker.name, tuple(paint.pigments))
