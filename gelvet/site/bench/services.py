"""Changes to sessions and cards: plan, lay out, swap, map, take back. Each is kept with what was there before."""

import re
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
from gelvet.core.formats.cgats import parse_reference
from gelvet.site.bench.facts import paint_facts
from gelvet.site.bench.models import Card, Session
from gelvet.site.bench.plans import Plan, arranged, build, card_plans, check, label, options_of, plan_of
from gelvet.site.history import services as history
from gelvet.site.history.services import recording, root_of
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem, not_found


def create_session(plan: Plan) -> Session:
    check(plan)
    plan = arranged(plan, _facts(plan))
    session = Session(question=plan.question)
    with recording(lambda: session_root(session.pk), "planned", undoable=False):
        _write(session, plan)
        _lay_out(session)
    return session


def declare_card(name: str, question: str, document: Any) -> Session:
    """A session for a card that exists already, by its layout file; its swatches are named afterwards. Raises Problem or
    LayoutError."""
    layout = layout_from_document(document, "The layout file")
    if not re.fullmatch(r"[\w.-]{1,40}", layout.card_id):
        raise Problem("unusable-id", f"The card's id {layout.card_id!r} cannot be kept; use letters, digits, dots and hyphens.")
    if Card.objects.filter(card_id=layout.card_id).exists():
        raise Problem("duplicate", f"This bench has a card {layout.card_id} already.", 409)
    plan = Plan(name=name or layout.card_id, question=question)
    check(plan)
    session = Session(question=question, options={"declared": True})
    with recording(lambda: session_root(session.pk), "declared", undoable=False):
        _write(session, plan)
        Card(session=session, number=1, card_id=layout.card_id, layout=layout_to_document(layout)).save()
    return session


def change_session(session_id: int, revision: int, plan: Plan) -> Session:
    """Raises Problem 409 where somebody else changed the session since `revision`."""
    check(plan)
    with transaction.atomic():
        session = _locked(session_id)
        _refuse_stale(session.name, session.revision, revision)
        before = plan_of(session)
        wanted = arranged(plan, _facts(plan))
        if before == wanted:
            return session
        with recording(session_root(session.pk), _describe(before, wanted), of=[session, *session.cards.all()]):
            laid_out_anew = _places(before) != _places(wanted)
            if laid_out_anew:
                _refuse_declared(session)
                _refuse_captured(session)
            session.revision += 1
            _write(session, wanted)
            if laid_out_anew:
                _lay_out(session)
    return session


def undo(session_id: int) -> Session:
    with transaction.atomic():
        _locked(session_id)
        history.undo(session_root(session_id), _guard)
    return _locked(session_id)


def redo(session_id: int) -> Session:
    with transaction.atomic():
        _locked(session_id)
        history.redo(session_root(session_id), _guard)
    return _locked(session_id)


def bin_session(session_id: int) -> Session:
    """Puts the session and its cards away; nothing is erased."""
    return _put_away(session_id, "put into the bin", timezone.now())


def restore_session(session_id: int) -> Session:
    return _put_away(session_id, "taken out of the bin", None)


def _put_away(session_id: int, action: str, when: Any) -> Session:
    with transaction.atomic():
        session = _locked(session_id)
        with recording(session_root(session.pk), action, undoable=False):
            since = session.binned
            session.binned = when
            session.revision += 1
            session.save()
            for card in session.cards.filter(binned=None) if when else session.cards.filter(binned=since):
                card.binned = when
                card.save()
    return session


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
    if card.reference == text:
        return card
    action = f"reference of card {card.number} {'replaced' if card.reference else 'added'}"
    return _change_card(card_id, None, action, reference=text)


def swap_swatches(card_id: str, revision: int, one: str, two: str) -> Card:
    """The paints of two swatches change places: for what was painted in the wrong cell."""
    card = find_card(card_id)
    known = {s["id"] for s in card.layout["swatches"]}
    if one not in known or two not in known or one == two:
        raise Problem("unknown-swatch", f"Choose two different swatches of card {card_id}.")
    first, second = card.paints.get(one), card.paints.get(two)
    paints = {k: v for k, v in card.paints.items() if k not in {one, two}}
    paints |= {k: v for k, v in ((one, second), (two, first)) if v is not None}
    action = f"{one} and {two} of card {card.number} swapped"
    return _change_card(card_id, revision, action, paints=_in_order(card, paints), layout=_relabelled(card, paints))


def map_swatch(card_id: str, revision: int, swatch: str, paint_id: int | None) -> Card:
    """Says which paint a swatch is, after the fact; None leaves it unnamed."""
    card = find_card(card_id)
    if swatch not in {s["id"] for s in card.layout["swatches"]}:
        raise Problem("unknown-swatch", f"Card {card_id} has no swatch {swatch}.")
    if paint_id is not None and not Paint.objects.filter(pk=paint_id, binned=None).exists():
        raise Problem("unknown-paint", "That paint is no longer in the library; choose another.")
    paints = {k: v for k, v in card.paints.items() if k != swatch} | ({swatch: paint_id} if paint_id is not None else {})
    action = f"{swatch} of card {card.number} {'named' if paint_id is not None else 'left unnamed'}"
    return _change_card(card_id, revision, action, paints=_in_order(card, paints), layout=_relabelled(card, paints))


def change_zones(card_id: str, revision: int, zones: list[dict[str, Any]]) -> Card:
    """Moves, adds or takes away zones: for what was painted beside its place. Raises LayoutError."""
    card = find_card(card_id)
    wanted = {**card.layout, "zones": zones}
    layout = layout_to_document(layout_from_document(wanted, f"Card {card_id}"))
    if layout == card.layout:
        return card
    return _change_card(card_id, revision, f"zones of card {card.number} moved", layout=layout)


def change_sheet(card_id: str, revision: int, document: dict[str, Any], paints: dict[str, int]) -> Card:
    """Corners, size, zones and names of a sheet without a printed card, all at once. Raises Problem or LayoutError."""
    layout = layout_to_document(layout_from_document({**document, "card_id": card_id}, f"Sheet {card_id}"))
    swatches = [s["id"] for s in layout["swatches"]]
    kept = {s: paints[s] for s in swatches if s in paints}
    stock = set(Paint.objects.filter(pk__in=kept.values(), binned=None).values_list("pk", flat=True))
    if not set(kept.values()) <= stock:
        raise Problem("unknown-paint", "A paint that was named is no longer in the library; choose another.")
    named = Card(card_id=card_id, layout=layout)
    return _change_card(card_id, revision, f"sheet {card_id} corrected", paints=kept, layout=_relabelled(named, kept))


def find_card(card_id: str) -> Card:
    try:
        return Card.objects.select_related("session").get(card_id=card_id)
    except Card.DoesNotExist as problem:
        raise not_found(f"Card {card_id}") from problem


def session_root(session_id: int | None) -> str:
    return root_of("session", session_id or 0)


def _facts(plan: Plan) -> dict[int, Any]:
    if plan.arrangement == "hand":
        return {}
    wanted = [*plan.paints, *plan.partners]
    return paint_facts(Paint.objects.filter(pk__in=wanted).select_related("maker", "range"))


def _change_card(card_id: str, revision: int | None, action: str, **values: Any) -> Card:
    """`revision` None where the change cannot clash with another."""
    with transaction.atomic():
        card = Card.objects.select_for_update().select_related("session").get(card_id=card_id)
        if revision is not None:
            _refuse_stale(f"card {card_id}", card.revision, revision)
        with recording(session_root(card.session_id), action, of=[card]):
            for name, value in values.items():
                setattr(card, name, value)
            card.revision += 1
            card.save()
    return card


def _in_order(card: Card, paints: dict[str, int]) -> dict[str, int]:
    return {s["id"]: paints[s["id"]] for s in card.layout["swatches"] if s["id"] in paints}


def _relabelled(card: Card, paints: dict[str, int]) -> dict[str, Any]:
    stock = Paint.objects.select_related("maker").in_bulk(paints.values())
    texts = {swatch: label(stock[pk]).text for swatch, pk in paints.items() if pk in stock}
    swatches = [{**s, "label": texts.get(s["id"], "")} for s in card.layout["swatches"]]
    return {**card.layout, "swatches": swatches}


def _locked(session_id: int) -> Session:
    try:
        return Session.objects.select_for_update().get(pk=session_id)
    except Session.DoesNotExist as problem:
        raise not_found("The session") from problem


def _refuse_stale(name: str, current: int, known: int) -> None:
    if current != known:
        raise Problem(
            "changed-elsewhere",
            f"“{name}” was changed in another window meanwhile; look at that version, then make your change again. "
            "Yours is still in this window.",
            409,
        )


_FIXED = "A card of this session was captured already, so its places are fixed; plan a new session for another order."


def _refuse_captured(session: Session) -> None:
    if session.cards.filter(captures__isnull=False, binned=None).exists():
        raise Problem("already-captured", _FIXED, 409)


def _refuse_declared(session: Session) -> None:
    if session.options.get("declared"):
        raise Problem("declared", "This session's card was painted as it is; name its swatches and move its zones on the card.", 409)


def _guard(row: models.Model, fields: dict[str, Any]) -> None:
    """What is captured keeps its places whatever is taken back; names and zones, which were mended after it, may change."""
    if isinstance(row, Session):
        kept = ("name", "question", "paper_id", "sheet", "paints", "options")
        wanted = Session(**{name: fields.get(name, getattr(row, name)) for name in kept})
        if _places(plan_of(wanted)) != _places(plan_of(row)):
            _refuse_captured(row)
    if isinstance(row, Card) and fields.get("binned") and row.captures.exists():
        raise Problem("already-captured", _FIXED, 409)


def _places(plan: Plan) -> tuple[Any, ...]:
    """What decides where anything lies."""
    return (
        plan.question in {"in-mixes", "make-myself"}, plan.paints, plan.partners, plan.papers, plan.paper if not plan.papers else None,
        plan.sheet, plan.tests, plan.application, plan.replicates, plan.per_card, plan.blank_rows, plan.framed, plan.strength_reference,
    )  # fmt: skip


def _describe(before: Plan, after: Plan) -> str:
    if before.paints != after.paints:
        return "paints reordered" if sorted(before.paints) == sorted(after.paints) else "paints chosen"
    if before.partners != after.partners:
        return "partners chosen"
    if before.sheet != after.sheet:
        return "sheet changed"
    return "tests changed" if _places(before) != _places(after) else "particulars changed"


def _write(session: Session, plan: Plan) -> None:
    session.name, session.question, session.paper_id = plan.name.strip(), plan.question, plan.paper
    session.sheet, session.note, session.paints = plan.sheet, plan.note, plan.paints
    session.options = {**options_of(plan), **({"declared": True} if session.options.get("declared") else {})}
    session.save()


def _lay_out(session: Session) -> None:
    """The session's cards anew; a card that is no longer needed goes to the bin, and comes back when it is."""
    plan = plan_of(session)
    kept = {c.number: c for c in session.cards.all()}
    paints = Paint.objects.select_related("maker").in_bulk([*plan.paints, *plan.partners])
    for planned in card_plans(plan):
        card = kept.pop(planned.number, None) or Card(session=session, number=planned.number, card_id=_card_id(session, planned.number))
        card.layout = layout_to_document(build(plan, planned, card.card_id, paints))
        card.paints, card.paper_id, card.binned = planned.paints, planned.paper, None
        card.revision += 1 if card.pk else 0
        card.save()
    for left_over in kept.values():
        if left_over.binned is None:
            left_over.binned = timezone.now()
            left_over.save()


def _card_id(session: Session, number: int) -> str:
    word = re.sub(r"[^A-Z0-9]+", "-", session.name.upper().encode("ascii", "ignore").decode()).strip("-")[:16].strip("-") or "CARD"
    return f"{word}-{session.pk}-{number:02d}"
