"""A zone's device light, read once: both the way of its paint and its colours are told by it."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.card.layout import Rect, Zone

_EDGE_MM = 0.6
# Kinds whose mean alone is wanted need no finer sampling than this.
MEAN_PIXELS_PER_MM = 8.0


@dataclass(frozen=True, slots=True)
class ZoneLight:
    """Rectified device light (h, w, 3) float32 of a zone with `good` (h, w) marking what may be measured."""

    linear: Floats
    good: Mask
    pixels_per_mm: float


def zone_light(capture: CalibratedCapture, zone: Zone, *, full_resolution: bool = False) -> ZoneLight:
    """Light of `zone`, a little inside its border."""
    native = capture.calibration.geometry.pixels_per_mm
    scale = native if full_resolution else min(native, MEAN_PIXELS_PER_MM)
    return ZoneLight(*capture.linear(zone.rect.inset(edge_of(zone.rect)), scale), scale)


def edge_of(rect: Rect) -> float:
    """How far inside its border a zone is measured, mm."""
    return min(_EDGE_MM, 0.12 * min(rect.width, rect.height))
