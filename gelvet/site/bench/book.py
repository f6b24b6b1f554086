"""The bench book of a card: steps done, notes, mishaps and timers, each stamped when it happened."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from gelvet.core.formats.card_layout import layout_from_document
from gelvet.core.planning.steps import Step, bench_steps
from gelvet.site.bench.facts import paint_facts
from gelvet.site.bench.models import BenchEntry, Card, EntryKind, Timer
from gelvet.site.bench.services import find_card
from gelvet.site.library.models import Paint
from gelvet.site.people.person import acting_name
from gelvet.site.problems import Problem

# One touch each: what is said, and whether the swatch can still be judged.
MISHAPS: dict[str, str] = {
    "contaminated": "contaminated by another colour",
    "crawled": "the wash crawled",
    "wrong-cell": "painted in the wrong cell",
    "ran-out": "ran out of paint before a true masstone",
    "dirty-water": "dirty water",
    "no-ink": "the ink line is missing",
}
_LONGEST_TIMER_S = 48 * 3600


@dataclass(frozen=True, slots=True)
class Bench:
    """A card at the bench: its steps, those already done, its book and its timers."""

    card: Card
    steps: list[Step]
    done: frozenset[str]
    entries: list[BenchEntry]
    timers: list[Timer]

    @property
    def next(self) -> Step | None:
        return next((s for s in self.steps if s.id not in self.done), None)


def bench_of(card_id: str) -> Bench:
    card = find_card(card_id)
    stock = Paint.objects.select_related("maker", "range").in_bulk(card.paints.values())
    facts = paint_facts(stock.values())
    layout = layout_from_document(card.layout, f"Card {card_id}")
    steps = bench_steps(layout, {swatch: facts[pk] for swatch, pk in card.paints.items() if pk in facts})
    entries = list(card.entries.all())
    return Bench(card, steps, steps_done(entries), entries, list(card.timers.filter(ended=None)))


def steps_done(entries: Sequence[BenchEntry]) -> frozenset[str]:
    """A step counts as done until it is taken back."""
    done: set[str] = set()
    for entry in entries:
        if entry.kind == EntryKind.STEP:
            done.add(entry.step)
        elif entry.kind == EntryKind.UNDONE:
            done.discard(entry.step)
    return frozenset(done)


def do_step(card_id: str, step_id: str) -> Bench:
    """Marks a step as done; a wait that belongs to it begins."""
    bench = bench_of(card_id)
    step = _step(bench, step_id)
    if step_id not in bench.done:
        _write(bench.card, EntryKind.STEP, step=step_id, swatch=step.swatch or "", text=step.text)
        if step.kind in {"dry", "layer", "lift"}:
            # Whoever has come this far no longer waits for ink or soaking paints.
            bench.card.timers.filter(ended=None).update(ended=timezone.now())
        if step.seconds:
            start_timer(card_id, step_id, _wait_title(step), step.seconds)
    return bench_of(card_id)


def take_back_step(card_id: str, step_id: str) -> Bench:
    bench = bench_of(card_id)
    _step(bench, step_id)
    if step_id in bench.done:
        _write(bench.card, EntryKind.UNDONE, step=step_id)
        bench.card.timers.filter(step=step_id, ended=None).update(ended=timezone.now())
    return bench_of(card_id)


def note(card_id: str, text: str, swatch: str = "") -> Bench:
    if not text.strip():
        raise Problem("incomplete", "Write something first; an empty note says nothing later.")
    card = find_card(card_id)
    _known_swatch(card, swatch)
    _write(card, EntryKind.NOTE, swatch=swatch, text=text.strip())
    return bench_of(card_id)


def mishap(card_id: str, kind: str, swatch: str = "") -> Bench:
    if kind not in MISHAPS:
        raise Problem("unknown-mishap", f"Choose one of: {', '.join(MISHAPS.values())}.")
    card = find_card(card_id)
    _known_swatch(card, swatch)
    _write(card, EntryKind.MISHAP, step=kind, swatch=swatch, text=MISHAPS[kind])
    return bench_of(card_id)


def start_timer(card_id: str, step: str, title: str, seconds: int) -> Timer:
    if not 1 <= seconds <= _LONGEST_TIMER_S:
        raise Problem("unknown-time", "A timer runs from one second to two days.")
    card = find_card(card_id)
    card.timers.filter(step=step, ended=None).update(ended=timezone.now())
    return Timer.objects.create(card=card, step=step, title=title[:160], seconds=seconds, started=timezone.now())


def end_timer(timer_id: int) -> Timer:
    """Heard, or stopped before its time."""
    timer = Timer.objects.select_related("card").filter(pk=timer_id).first()
    if timer is None:
        raise Problem("not-found", "That timer is not there any more.", 404)
    if timer.ended is None:
        timer.ended = timezone.now()
        timer.save(update_fields=["ended"])
    return timer


def rings_at(timer: Timer) -> datetime:
    return timer.started + timedelta(seconds=timer.seconds)


def remaining_s(timer: Timer, now: datetime) -> int:
    """Seconds left, 0 when it rings. A clock that was set back must not make a wait longer than it ever was."""
    return max(0, min(timer.seconds, round((rings_at(timer) - now).total_seconds())))


def _step(bench: Bench, step_id: str) -> Step:
    found = next((s for s in bench.steps if s.id == step_id), None)
    if found is None:
        raise Problem("unknown-step", "The card was laid out anew meanwhile and has no such step; look at it again.", 409)
    return found


def _wait_title(step: Step) -> str:
    return {"ink": "Ink drying", "wake": "Paints soaking", "dry": "Card drying", "lift": "Lifted patches drying"}.get(
        step.kind, "Layer drying"
    )


def _known_swatch(card: Card, swatch: str) -> None:
    if swatch and swatch not in {s["id"] for s in card.layout["swatches"]}:
        raise Problem("unknown-swatch", f"Card {card.card_id} has no swatch {swatch}.")


def _write(card: Card, kind: EntryKind, *, step: str = "", swatch: str = "", text: str = "") -> None:
    BenchEntry.objects.create(card=card, kind=kind, step=step, swatch=swatch, text=text, person=acting_name())
