"""Each capture's errors on its reference target, kept with its measurement: what a drift shows against."""

import hashlib
from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import QuerySet
from django.db.models.fields.json import KeyTransform

from gelvet.core.capture.judging.drift import PatchErrors
from gelvet.site.captures.models import Capture
from gelvet.site.results.gates import any_failed
from gelvet.site.results.models import Measurement

_REMEMBERED = 60


@dataclass(frozen=True, slots=True)
class TargetPoint:
    """One capture on the control chart: mean of the patches' left-out CIEDE2000, and what the drift gate said."""

    capture: Capture
    made: datetime
    device: str
    mean_de00: float
    drift: dict[str, Any] | None


def _of_target(reference: str) -> QuerySet[Measurement]:
    """Measurements with this reference file, the newest first, without their large documents."""
    calibration = KeyTransform("calibration", "document")
    return (
        Measurement.objects.filter(inputs__reference=hashlib.sha256(reference.encode()).hexdigest())
        .select_related("capture__card")
        .defer("document")
        .annotate(
            errors=KeyTransform("patch_errors", calibration),
            mean=KeyTransform("mean", KeyTransform("cross_validated_de00", calibration)),
            gates=KeyTransform("gates", calibration),
            seen_by=KeyTransform("device", "document"),
        )
    )


def device_of(capture: Capture, seen_by: dict[str, Any] | None) -> str:
    """What is told of the device: errors of one are not another's."""
    if capture.source != "file":
        return f"simulated {capture.source}, {capture.settings.get('kind', '')}"
    return str((seen_by or {}).get("camera") or "files without a device's name")


def earlier_errors(capture: Capture, reference: str) -> dict[str, list[PatchErrors]]:
    """The patches' errors in earlier captures of the same target, by the camera's name ("" for none), each capture once.
    Captures that failed a gate do not say what is usual. Those of a simulated device count only for itself."""
    found: dict[str, list[PatchErrors]] = defaultdict(list)
    known: set[int] = set()
    own = (capture.source, capture.settings.get("kind"))
    for row in _of_target(reference).exclude(capture_id__gte=capture.pk)[:_REMEMBERED]:
        errors, other = row.errors, row.capture  # type: ignore[attr-defined]
        spoilt = any_failed(row.gates)  # type: ignore[attr-defined]
        if not errors or spoilt or other.pk in known or (other.source, other.settings.get("kind")) != own:
            continue
        known.add(other.pk)
        found[str((row.seen_by or {}).get("camera", ""))].append(errors)  # type: ignore[attr-defined]
    return found


def history_of(reference: str) -> list[TargetPoint]:
    """The control chart of a target: each capture's newest measurement, in the order of the captures."""
    newest: dict[int, TargetPoint] = {}
    for row in _of_target(reference):
        mean = row.mean  # type: ignore[attr-defined]
        if mean is None or row.capture_id in newest:
            continue
        drifts = [g for g in row.gates or [] if g["id"] == "drift"]  # type: ignore[attr-defined]
        device = device_of(row.capture, row.seen_by)  # type: ignore[attr-defined]
        newest[row.capture_id] = TargetPoint(row.capture, row.made, device, float(mean), drifts[0] if drifts else None)
    return [newest[pk] for pk in sorted(newest)]
