"""The capture inbox: what is dry and due, and files that find their own card."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from gelvet.core.capture.placing.card_code import codes_in
from gelvet.core.capture.reading import read_picture
from gelvet.core.errors import GelvetError
from gelvet.site.bench.book import remaining_s, rings_at, steps_done
from gelvet.site.bench.models import Card
from gelvet.site.captures.lacking import captures_of, lacks_of
from gelvet.site.captures.models import BEING_MEASURED, Arrival, CaptureState, Original
from gelvet.site.captures.parcels import is_parcel, unpack
from gelvet.site.captures.services import FLAT_DRY, ShotLight, take_in_original
from gelvet.site.captures.storage import original_path, spooled, store_original
from gelvet.site.problems import Problem

KEPT_ARRIVALS = 200


@dataclass(frozen=True, slots=True)
class Waiting:
    """Where a card stands: to paint, being painted, drying, due, being measured, to be taken again, measured."""

    card: Card
    stage: str
    lacks: tuple[str, ...]
    dry_at: datetime | None = None


def receive(chunks: Iterable[bytes], name: str, light: ShotLight = FLAT_DRY) -> list[Arrival]:
    """Sorts a file, or each file of a zip, to the cards whose codes it shows. Whatever happens, each file's outcome is a
    line that stays."""
    light.checked()
    try:
        with spooled(chunks, name) as path:
            if is_parcel(path):
                return [arrival for part in unpack(path, name) for arrival in _receive_part(part.name, part.problem, part.chunks, light)]
            with path.open("rb") as file:
                return _receive_part(name, "", iter(lambda: file.read(1 << 20), b""), light)
    except Problem as problem:
        return [Arrival.objects.create(name=name[:255], outcome=str(problem))]


def _receive_part(name: str, problem: str, chunks: Iterable[bytes], light: ShotLight) -> list[Arrival]:
    """One file: a line for each card that it shows, or one for why it goes nowhere."""
    if problem:
        return [Arrival.objects.create(name=name[:255], outcome=problem)]
    try:
        original, _ = store_original(chunks, name)
        return [_hand_on(original, card_id, light) for card_id in _cards_on(original)]
    except (Problem, GelvetError) as refusal:
        return [Arrival.objects.create(name=name[:255], outcome=str(refusal))]


def _cards_on(original: Original) -> list[str]:
    path = original_path(original.sha256)
    try:
        ids = codes_in(read_picture(path))
    except GelvetError as problem:
        raise Problem("unreadable", str(problem).replace(str(path), original.name), 422) from problem
    if not ids:
        raise Problem("no-code", f"{original.name} shows no card code that can be read; drop it on its own card instead.", 422)
    return ids


def _hand_on(original: Original, card_id: str, light: ShotLight) -> Arrival:
    card = Card.objects.filter(card_id=card_id, binned=None).first()
    if card is None:
        return Arrival.objects.create(name=original.name, outcome=f"{original.name} shows card {card_id}, which this bench does not know.")
    try:
        taken = take_in_original(card, original, light)
    except Problem as problem:
        return Arrival.objects.create(name=original.name, outcome=str(problem))
    outcome = f"went to card {card_id}" + (", which has it already" if taken.known else "")
    return Arrival.objects.create(name=original.name, capture=taken.capture, outcome=outcome)


def arrivals() -> list[Arrival]:
    return list(Arrival.objects.select_related("capture__card")[:KEPT_ARRIVALS])


def waiting(cards: Iterable[Card], now: datetime) -> list[Waiting]:
    """`cards` with entries, timers and captures (and these with gates, shots and how those lay) at hand."""
    return [_waiting(card, now) for card in cards]


def _waiting(card: Card, now: datetime) -> Waiting:
    captures, good = captures_of(card)
    lacks = lacks_of(card)
    if any(c.state in BEING_MEASURED for c in captures):
        return Waiting(card, "being measured", lacks)
    if good:
        return Waiting(card, "measured", lacks)
    if any(c.state != CaptureState.INCOMPLETE for c in captures):
        return Waiting(card, "to be taken again", lacks)
    entries = list(card.entries.all())
    if not entries:
        return Waiting(card, "to paint", lacks)
    if "dry" not in steps_done(entries):
        return Waiting(card, "being painted", lacks)
    running = [t for t in card.timers.all() if t.ended is None and remaining_s(t, now) > 0]
    if running:
        return Waiting(card, "drying", lacks, max(rings_at(t) for t in running))
    return Waiting(card, "dry and due", lacks)
