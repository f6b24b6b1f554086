"""Taking captures in, queueing their measuring, cancelling and running again."""

import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from gelvet.core.capture.reading import sniff
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Capture, CaptureState, Original
from gelvet.site.captures.storage import original_path, store_original
from gelvet.site.problems import Problem, not_found

_OPEN = (CaptureState.QUEUED, CaptureState.RUNNING)


@dataclass(frozen=True, slots=True)
class TakenIn:
    """A capture, and whether the same file had been captured for this card before."""

    capture: Capture
    known: bool


def take_in_file(card: Card, chunks: Iterable[bytes], name: str, paint_state: str = "dry") -> TakenIn:
    """Stores the file and queues its measuring; the same file twice gives the earlier capture."""
    if not card.reference:
        raise Problem("no-reference", f"Card {card.card_id} has no reference file yet; add the target's measured CGATS file first.", 409)
    original, _ = store_original(chunks, name)
    with original_path(original.sha256).open("rb") as file:
        kind = sniff(file.read(32))
    if kind is None:
        raise Problem(
            "not-an-image", f"{original.name} is not an image that Gelvet reads (TIFF, PNG, JPEG, WebP); export it as a 16-bit TIFF.", 422
        )
    earlier = Capture.objects.filter(card=card, original=original, paint_state=paint_state).first()
    if earlier is not None:
        return TakenIn(earlier, known=True)
    return TakenIn(_queue_new(card, original=original, paint_state=paint_state), known=False)


def take_with_flatbed(card: Card, flatbed: dict[str, Any]) -> Capture:
    """Queues a scan by the simulated flatbed, and its measuring."""
    from gelvet.site.captures.flatbed import refuse_unpaintable

    refuse_unpaintable(card)
    return _queue_new(card, source="flatbed", settings=flatbed)


def _queue_new(
    card: Card, *, original: Original | None = None, paint_state: str = "dry", source: str = "file", settings: dict[str, Any] | None = None
) -> Capture:
    with transaction.atomic():
        capture = Capture.objects.create(
            card=card, original=original, paint_state=paint_state, source=source, settings=settings or {}, stage="waiting"
        )
        _enqueue(capture)
    return capture


def _enqueue(capture: Capture) -> None:
    from gelvet.site.captures.tasks import measure_capture

    measure_capture.enqueue(capture.pk, str(capture.attempt))


def find_capture(capture_id: int) -> Capture:
    try:
        return Capture.objects.select_related("card__session", "original").get(pk=capture_id)
    except Capture.DoesNotExist as problem:
        raise not_found("The capture") from problem


def cancel(capture_id: int) -> Capture:
    """Stops a waiting or running job; its worker notices within a second or two."""
    changed = Capture.objects.filter(pk=capture_id, state__in=_OPEN).update(
        state=CaptureState.CANCELLED, stage="", message="Cancelled by hand.", attempt=uuid.uuid4()
    )
    capture = find_capture(capture_id)
    if not changed:
        raise Problem("not-running", "This capture is not being measured, so there is nothing to cancel.", 409)
    return capture


def run_again(capture_id: int) -> Capture:
    """Queues a new measuring of the same original; earlier measurements stay."""
    with transaction.atomic():
        capture = find_capture(capture_id)
        if capture.state in _OPEN:
            raise Problem("running", "This capture is already being measured.", 409)
        _requeue(capture, attempts=0)
    return capture


def _requeue(capture: Capture, attempts: int) -> None:
    capture.state, capture.stage, capture.share, capture.message = CaptureState.QUEUED, "waiting", 0.0, ""
    capture.attempt, capture.attempts, capture.heard = uuid.uuid4(), attempts, None
    capture.save()
    _enqueue(capture)


def take_up_lost_jobs() -> int:
    """Jobs whose worker has gone silent go back to the queue; after three attempts they are given up. Returns how many."""
    limit = timezone.now() - timedelta(seconds=settings.JOB_LEASE_SECONDS)
    lost = 0
    for pk in Capture.objects.filter(state=CaptureState.RUNNING, heard__lt=limit).values_list("pk", flat=True):
        with transaction.atomic():
            capture = Capture.objects.select_for_update().get(pk=pk)
            if capture.state != CaptureState.RUNNING or capture.heard is None or capture.heard >= limit:
                continue
            lost += 1
            if capture.attempts >= settings.JOB_ATTEMPTS:
                capture.state, capture.stage, capture.attempt = CaptureState.FAILED, "", uuid.uuid4()
                capture.message = f"Measuring was interrupted {capture.attempts} times; run it again when the machine is free."
                capture.save()
            else:
                _requeue(capture, attempts=capture.attempts)
    return lost
