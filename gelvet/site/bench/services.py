"""Changes to sessions: plan, lay out, undo. Each change is kept with what was there before."""

import re
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction

from gelvet.core.card.builder import SHEETS_MM, SwatchLabel, build_card, capacity
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.formats.cgats import parse_reference
from gelvet.site.bench.models import Card, Question, Session, SessionChange, SessionPaint
from gelvet.site.library.models import Paint, Paper
from gelvet.site.problems import Problem, not_found

# On an A5 card more rows would leave too little height for the grain statistics.
_COMFORTABLE = {"A5": 5, "A4": 12}


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """All that a person decides about a session."""

    name: str
    question: str
    paper: int | None
    sheet: str
    note: str
    paints: list[int]


def plan_of(session: Session) -> Plan:
    return Plan(
        name=session.name,
        question=session.question,
        paper=session.paper_id,
        sheet=session.sheet,
        note=session.note,
        paints=list(session.places.values_list("paint_id", flat=True)),
    )


@transaction.atomic
def create_session(plan: Plan) -> Session:
    _check(plan)
    session = Session.objects.create(name=plan.name.strip(), question=plan.question, paper_id=plan.paper, sheet=plan.sheet, note=plan.note)
    _place_paints(session, plan)
    _lay_out(session)
    return session


@transaction.atomic
def change_session(session_id: int, revision: int, plan: Plan) -> Session:
    """Raises Problem 409 where somebody else changed the session since `revision`."""
    session = _locked(session_id)
    if session.revision != revision:
        raise Problem(
            "changed-elsewhere",
            f"“{session.name}” was changed in another window meanwhile; look at that version, then make your change again. "
            "Yours is still in this window.",
            409,
        )
    _check(plan)
    before = plan_of(session)
    if before != plan:
        session.changes.filter(undone=True).delete()
        SessionChange.objects.create(session=session, action=_describe(before, plan), before=asdict(before), after=asdict(plan))
        _apply(session, plan)
    return session


@transaction.atomic
def undo(session_id: int) -> Session:
    session = _locked(session_id)
    change = session.changes.filter(undone=False).last()
    if change is None:
        raise Problem("nothing-to-undo", "There is nothing to undo in this session.", 409)
    _restore(session, change.before)
    change.undone = True
    change.save(update_fields=["undone"])
    return session


@transaction.atomic
def redo(session_id: int) -> Session:
    session = _locked(session_id)
    change = session.changes.filter(undone=True).first()
    if change is None:
        raise Problem("nothing-to-redo", "There is nothing to redo in this session.", 409)
    _restore(session, change.after)
    change.undone = False
    change.save(update_fields=["undone"])
    return session


@transaction.atomic
def set_reference(card_id: str, text: str) -> Card:
    """Attaches a target's CGATS file to a card; raises Problem or ReferenceTargetError."""
    card = find_card(card_id)
    target = parse_reference(text, "The reference file")
    wanted = {p["id"] for p in card.layout["reference"]["patches"]}
    if not wanted & set(target.ids):
        raise Problem(
            "other-target",
            f"None of the patches in the file ({', '.join(target.ids[:3])}, …) are on card {card_id}; "
            "choose the file of this card's target.",
        )
    session = _locked(card.session_id)
    if card.reference != text:
        session.changes.filter(undone=True).delete()
        SessionChange.objects.create(
            session=session,
            action=f"reference of card {card.number} {'replaced' if card.reference else 'added'}",
            before={"card": card_id, "reference": card.reference},
            after={"card": card_id, "reference": text},
        )
        Card.objects.filter(pk=card.pk).update(reference=text)
        card.reference = text
    return card


def find_card(card_id: str) -> Card:
    try:
        return Card.objects.select_related("session").get(card_id=card_id)
    except Card.DoesNotExist as problem:
        raise not_found(f"Card {card_id}") from problem


def _locked(session_id: int) -> Session:
    try:
        return Session.objects.select_for_update().get(pk=session_id)
    except Session.DoesNotExist as problem:
        raise not_found("The session") from problem


def _check(plan: Plan) -> None:
    if not plan.name.strip():
        raise Problem("incomplete", "Give the session a name, so that it can be found again.")
    if plan.question not in Question.values:
        raise Problem("unknown-question", "Choose one of the listed questions.")
    if plan.sheet not in SHEETS_MM:
        raise Problem("unknown-sheet", f"Choose a sheet: {', '.join(SHEETS_MM)}.")
    if len(set(plan.paints)) != len(plan.paints):
        raise Problem("duplicate-paint", "A paint stands twice in the session; keep it once.")
    if Paint.objects.filter(pk__in=plan.paints).count() != len(plan.paints):
        raise Problem("unknown-paint", "A paint of the session is no longer in the library; choose it again.")
    if plan.paper is not None and not Paper.objects.filter(pk=plan.paper).exists():
        raise Problem("unknown-paper", "That paper is no longer in the library; choose another.")


def _describe(before: Plan, after: Plan) -> str:
    if before.paints != after.paints:
        return "paints reordered" if sorted(before.paints) == sorted(after.paints) else "paints chosen"
    if before.sheet != after.sheet:
        return "sheet changed"
    return "particulars changed"


def _restore(session: Session, kept: dict[str, Any]) -> None:
    """Puts back one side of a change: a card's reference, or the whole plan."""
    if "reference" in kept:
        session.cards.filter(card_id=kept["card"]).update(reference=kept["reference"])
    else:
        _apply(session, Plan(**kept))


def _apply(session: Session, plan: Plan) -> None:
    laid_out_anew = plan_of(session).paints != plan.paints or session.sheet != plan.sheet
    if laid_out_anew and session.cards.filter(captures__isnull=False).exists():
        raise Problem(
            "already-captured",
            "A card of this session was captured already, so its places are fixed; plan a new session for another order.",
            409,
        )
    session.name, session.question, session.paper_id = plan.name.strip(), plan.question, plan.paper
    session.sheet, session.note = plan.sheet, plan.note
    session.revision += 1
    session.save()
    if laid_out_anew:
        _place_paints(session, plan)
        _lay_out(session)


def _place_paints(session: Session, plan: Plan) -> None:
    session.places.all().delete()
    SessionPaint.objects.bulk_create(SessionPaint(session=session, paint_id=p, position=i) for i, p in enumerate(plan.paints))


def _lay_out(session: Session) -> None:
    """Cards for the session's paints, in order, as many to a card as the sheet bears well."""
    kept = {c.number: c for c in session.cards.all()}
    paints = [place.paint for place in session.places.select_related("paint__maker")]
    per_card = min(_COMFORTABLE[session.sheet], capacity(session.sheet))
    groups = [paints[i : i + per_card] for i in range(0, len(paints), per_card)]
    for number, group in enumerate(groups, start=1):
        card = kept.pop(number, None) or Card(session=session, number=number, card_id=_card_id(session, number))
        layout = build_card(card.card_id, session.sheet, [_label(p) for p in group])
        card.layout = layout_to_document(layout)
        card.paints = {f"S{i + 1}": p.pk for i, p in enumerate(group)}
        card.save()
    for left_over in kept.values():
        left_over.delete()


def _card_id(session: Session, number: int) -> str:
    word = re.sub(r"[^A-Z0-9]+", "-", session.name.upper().encode("ascii", "ignore").decode()).strip("-")[:16].strip("-") or "CARD"
    return f"{word}-{session.pk}-{number:02d}"


def _label(paint: Paint) -> SwatchLabel:
    return SwatchLabel(paint.name, paint.maker.name, tuple(paint.pigments))


def plan_from(values: dict[str, Any]) -> Plan:
    return Plan(**values)
