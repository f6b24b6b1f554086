"""Taking shots in, queueing their measuring, cancelling and running again."""

import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from gelvet.core.capture.reading import is_picture
from gelvet.core.capture.reading.picture import READABLE
from gelvet.site.bench.models import Card
from gelvet.site.captures.devices import DeviceSettings, refuse_unpaintable
from gelvet.site.captures.models import BEING_MEASURED, Capture, CaptureState, Original, Shot
from gelvet.site.captures.storage import original_path, store_original
from gelvet.site.problems import Problem, not_found
from gelvet.site.results.gates import any_failed

# States of the paint whose shots are laid beside those of the dry, finished card.
OTHER_MOMENTS = ("wet", "before_lifting")


@dataclass(frozen=True, slots=True)
class TakenIn:
    """A capture, and whether the same file had been captured for this card before."""

    capture: Capture
    known: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotLight:
    """How a shot was lit and what state the paint was in. `low_lamp` shots go beside a flat one, and so do those in even light
    that say so (`beside`): of the card turned round, or exposed otherwise."""

    paint_state: str = "dry"
    low_lamp: bool = False
    beside: bool = False
    azimuth_deg: float | None = None
    elevation_deg: float | None = None

    def checked(self) -> "ShotLight":
        """Itself; raises Problem for what cannot be."""
        if self.paint_state not in {"dry", *OTHER_MOMENTS}:
            raise Problem("unknown-state", "A card is captured wet, dry, or dry before it is lifted.")
        if self.low_lamp and self.beside:
            raise Problem("two-lights", "A shot is lit by a low lamp or evenly, not both.")
        if self.azimuth_deg is not None and not 0 <= self.azimuth_deg < 360:
            raise Problem("azimuth", "The lamp's direction is an angle from 0 to 359°: 0 from the right, 90 from the foot.")
        if self.elevation_deg is not None and not 0 < self.elevation_deg <= 90:
            raise Problem("elevation", "The lamp's height is an angle above the paper, from 1 to 90°.")
        return self


FLAT_DRY = ShotLight()


def take_in_file(card: Card, chunks: Iterable[bytes], name: str, light: ShotLight = FLAT_DRY) -> TakenIn:
    """Stores the file and queues its measuring; the same file twice gives the earlier capture."""
    original, _ = store_original(chunks, name)
    return take_in_original(card, original, light)


def take_in_original(card: Card, original: Original, light: ShotLight = FLAT_DRY) -> TakenIn:
    """The same for a file that is stored already."""
    if not card.reference and not card.layout.get("placement"):
        raise Problem("no-reference", f"Card {card.card_id} has no reference file yet; add the target's measured CGATS file first.", 409)
    refuse_other_than_picture(original)
    if light.low_lamp or light.beside:
        if card.layout.get("placement"):
            raise Problem(
                "no-tags", f"Sheet {card.card_id} has no tags, so no shot can be laid over its image; keep it as a sheet of its own."
            )
        return _take_in_beside(card, original, light)
    earlier = Capture.objects.filter(card=card, original=original, paint_state=light.paint_state).first()
    if earlier is not None:
        return TakenIn(earlier, known=True)
    return TakenIn(_queue_flat(card, original=original, paint_state=light.paint_state), known=False)


def refuse_other_than_picture(original: Original) -> None:
    """Raises Problem where the file is kept but cannot be an image."""
    if not is_picture(original_path(original.sha256)):
        raise Problem("not-an-image", f"{original.name} is not an image that Gelvet reads ({READABLE}); export it as a 16-bit TIFF.", 422)


def _take_in_beside(card: Card, original: Original, light: ShotLight) -> TakenIn:
    earlier = Shot.objects.filter(capture__card=card, original=original).select_related("capture").first()
    if earlier is not None:
        return TakenIn(earlier.capture, known=True)
    return TakenIn(_add_shot(card, light, original=original), known=False)


def _add_shot(card: Card, light: ShotLight, *, original: Original | None = None, settings: dict[str, Any] | None = None) -> Capture:
    """Lays a shot beside the newest flat one of the same state, or keeps it until there is one."""
    with transaction.atomic():
        captures = Capture.objects.filter(card=card, paint_state=light.paint_state)
        capture = captures.exclude(state__in=(CaptureState.FAILED, CaptureState.CANCELLED)).order_by("-id").first()
        if capture is None:
            capture = Capture.objects.create(
                card=card, paint_state=light.paint_state, state=CaptureState.INCOMPLETE, message="It waits for its flat shot in even light."
            )
        Shot.objects.create(
            capture=capture, original=original, light="rake" if light.low_lamp else "diffuse", azimuth_deg=light.azimuth_deg,
            elevation_deg=light.elevation_deg, settings=settings or {},
        )  # fmt: skip
        if capture.state != CaptureState.INCOMPLETE:
            _requeue(capture, attempts=0)
    return capture


def remove_shot(shot_id: int) -> Capture:
    """Takes a shot out of its capture, which is measured again; the file stays among the originals."""
    with transaction.atomic():
        shot = Shot.objects.select_related("capture").filter(pk=shot_id).first()
        if shot is None:
            raise not_found("The shot")
        capture = shot.capture
        shot.delete()
        if capture.state != CaptureState.INCOMPLETE:
            _requeue(capture, attempts=0)
    return capture


def companions(capture: Capture) -> list[Capture]:
    """The measured captures of the same card while wet and before lifting which a dry one is compared with: of each moment the newest
    that no gate failed, first of all one taken as the dry one was. What does not serve tells its reason in the measurement."""
    if capture.paint_state != "dry" or capture.card.layout.get("placement"):
        return []
    measured = Capture.objects.filter(card=capture.card, state=CaptureState.DONE).select_related("original").exclude(original=None)
    of_moments = (list(measured.filter(paint_state=moment).order_by("-id")) for moment in OTHER_MOMENTS)
    return [max(found, key=lambda c: (not _failed_a_gate(c), _taken_alike(c, capture), c.pk)) for found in of_moments if found]


def _taken_alike(one: Capture, other: Capture) -> bool:
    """As far as can be known before the patches are compared."""
    return _way_of(one) == _way_of(other)


def _way_of(capture: Capture) -> tuple[str, str, str]:
    name = capture.original.name if capture.original else ""
    return capture.source, str(capture.settings.get("kind", "")), Path(name).suffix.lower()


def _failed_a_gate(capture: Capture) -> bool:
    newest = capture.measurements.first()
    return newest is not None and any_failed(newest.document["calibration"]["gates"])


def lay_beside_the_dry_one(capture: Capture) -> None:
    """A shot of another moment was measured: the newest dry capture of its card is measured again with it, or the newest that was
    taken as it was."""
    if capture.paint_state not in OTHER_MOMENTS:
        return
    taken = Capture.objects.filter(card=capture.card, paint_state="dry").select_related("original").exclude(original=None)
    dry = max(taken, key=lambda c: (_taken_alike(c, capture), c.pk), default=None)
    if dry is not None and dry.state in {CaptureState.DONE, CaptureState.RUNNING}:
        _requeue(dry, attempts=0)


def take_with_device(card: Card, device: DeviceSettings) -> Capture:
    """Queues a shot by a simulated device, and its measuring."""
    refuse_unpaintable(card)
    low = device.lamp_azimuth_deg is not None
    if not low and not device.beside:
        return _queue_flat(card, source=device.device, paint_state=device.paint_state, settings=device.as_json())
    light = ShotLight(
        paint_state=device.paint_state, low_lamp=low, beside=device.beside, azimuth_deg=device.lamp_azimuth_deg,
        elevation_deg=device.lamp_elevation_deg,
    ).checked()  # fmt: skip
    return _add_shot(card, light, settings=device.as_json())


def _queue_flat(
    card: Card, *, original: Original | None = None, paint_state: str = "dry", source: str = "file", settings: dict[str, Any] | None = None
) -> Capture:
    """Queues a flat shot: of the capture that waits for one, else of a new one."""
    with transaction.atomic():
        waiting = Capture.objects.filter(card=card, state=CaptureState.INCOMPLETE, paint_state=paint_state).first()
        capture = waiting or Capture(card=card, paint_state=paint_state)
        capture.original, capture.source, capture.settings = original, source, settings or {}
        _requeue(capture, attempts=0)
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
    changed = Capture.objects.filter(pk=capture_id, state__in=BEING_MEASURED).update(
        state=CaptureState.CANCELLED, stage="", message="Cancelled by hand.", attempt=uuid.uuid4()
    )
    capture = find_capture(capture_id)
    if not changed:
        raise Problem("not-running", "This capture is not being measured, so there is nothing to cancel.", 409)
    return capture


def run_card_again(card: Card) -> int:
    """Queues every finished capture of a card whose zones moved; returns how many."""
    again = [c.pk for c in card.captures.exclude(state__in=BEING_MEASURED).exclude(original=None)]
    for pk in again:
        run_again(pk)
    return len(again)


def run_again(capture_id: int) -> Capture:
    """Queues a new measuring of the same originals; earlier measurements stay."""
    with transaction.atomic():
        capture = find_capture(capture_id)
        if capture.state in BEING_MEASURED:
            raise Problem("running", "This capture is already being measured.", 409)
        if capture.state == CaptureState.INCOMPLETE:
            raise Problem("incomplete", "This capture waits for its flat shot; add that first.", 409)
        _requeue(capture, attempts=0)
    return capture


def _requeue(capture: Capture, attempts: int) -> None:
    """A new attempt: a job that still runs for an earlier one is dropped when it reports."""
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
