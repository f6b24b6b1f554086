"""A calibrated picture: what turns its pixels into XYZ on card coordinates, and how far to trust that."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.fit import ColourFit
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.device import linear_part
from gelvet.core.capture.flat_field import FlatField
from gelvet.core.capture.gates import Gate
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading import Picture
from gelvet.core.card.layout import Layout, Rect

Tier = Literal["target", "profile", "grey", "none"]
Progress = Callable[[str, float], None]
# With a profile alone nothing in the picture tells how wrong the colours are. Assumed, and shown with the tier: what a
# scanner's generic profile leaves on paints in the simulator (`tests/core/test_calibration.py` holds it to this).
PROFILE_ONLY_DE00 = 5.0
PROFILE_ONLY_LAB = np.array([2.0, 4.0, 4.0])


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """Everything that turns stored pixels into XYZ on card coordinates."""

    geometry: Geometry
    lookup: Floats  # (levels, 3) float32 linear light of each stored value
    light: FlatField
    model: ColourModel
    tier: Tier
    gates: tuple[Gate, ...]
    blur_px: float | None
    noise_l: Floats  # (n, 2): lightness of a flat patch and the SD of its pixels in L*
    fit: ColourFit | None = None

    @property
    def blur_mm(self) -> float | None:
        return None if self.blur_px is None else self.blur_px / self.geometry.pixels_per_mm

    def colour_uncertainty(self, lab: Floats) -> tuple[float, Floats]:
        """Standard uncertainty near `lab` (3,): CIEDE2000, and (3,) in L*, a*, b*."""
        if self.fit is None:
            return PROFILE_ONLY_DE00, PROFILE_ONLY_LAB
        de, parts = self.fit.uncertainty(lab)
        return de, np.maximum(parts, 0.05)


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibratedCapture:
    """A picture with its calibration: gives the linear colour of any part of the card."""

    picture: Picture
    layout: Layout
    calibration: Calibration

    def xyz(self, rect: Rect, pixels_per_mm: float | None = None) -> tuple[Floats, Mask]:
        """XYZ (h, w, 3) float32 of `rect`, rectified, and a mask (h, w) of what may be measured."""
        cal = self.calibration
        scale = pixels_per_mm or cal.geometry.pixels_per_mm
        linear, good = linear_part(self.picture, cal.geometry, rect, scale, cal.lookup)
        linear /= cal.light.over(rect, linear.shape[:2])
        return cal.model.to_xyz(linear).astype(np.float32), good
