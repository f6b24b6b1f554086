"""A calibrated picture: what turns its pixels into XYZ on card coordinates, and how far to trust that."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.colour_fit import ColourFit
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.wet_film import WetFilm
from gelvet.core.capture.colour.white_paper import ASSUMED_PAPER_LAB, WHITE_PAPER
from gelvet.core.capture.detail.pixel_noise import PixelNoise
from gelvet.core.capture.detail.sharpening import Sharpening
from gelvet.core.capture.device import linear_part
from gelvet.core.capture.judging.drift import PatchErrors
from gelvet.core.capture.judging.gates import Gate
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.colour.density import greatest_density

# With greys alone lightness is known and hue is not: at grey, and for each unit of chroma, what display primaries leave of
# simulated paints under scanners and cameras (`tests/core/test_calibration.py`).
GREY_ONLY_DE00 = (1.5, 0.35)
GREY_ONLY_LAB = (np.array([0.4, 1.2, 0.8]), np.array([0.1, 0.5, 0.35]))
# The paper taken for white and the file's curve believed: for paper, and for each ΔE*ab away from it, what simulated
# cameras with curves and sensitivities of their own leave (`tests/core/test_loose_sheet.py`).
WHITE_PAPER_DE00 = (1.0, 0.22)
WHITE_PAPER_LAB = (np.array([1.0, 0.8, 1.2]), np.array([0.18, 0.28, 0.25]))
_GREY_TO_CHROMA = 45.0
_DEPTH_STEPS = 512
Tier = Literal["target", "profile", "grey", "none"]
Progress = Callable[[str, float], None]
# With a profile alone nothing in the picture tells how wrong the colours are. Assumed, and shown with the tier: what a
# scanner's generic profile leaves on paints in the simulator (`tests/core/test_calibration.py` holds it to this).
PROFILE_ONLY_DE00 = 5.0
PROFILE_ONLY_LAB = np.array([2.0, 4.0, 4.0])


@dataclass(frozen=True, slots=True)
class DarkLight:
    """What shots in other light showed to be `missing` (n,) from the curve at its own `light` (n,), shares of white."""

    light: Floats
    missing: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """Everything that turns stored pixels into XYZ on card coordinates."""

    geometry: Geometry
    lookup: Floats  # (levels, 3) float32 linear light of each stored value
    light: FlatField
    model: ColourModel
    tier: Tier
    gates: tuple[Gate, ...]
    blur_px: float | None  # SD of the Gaussian that blurred the light, before any sharpening
    noise_l: Floats  # (n, 2): lightness of a flat patch and the SD of its pixels in L*
    sharpening: Sharpening | None = None
    undone_lookup: Floats | None = None  # (65536, 3) the same of values whose sharpening was undone
    pixel_noise: PixelNoise | None = None
    fit: ColourFit | None = None
    patch_ids: tuple[str, ...] = ()  # of the patches that the fit rests on
    dark_light: DarkLight | None = None  # set right already in the lookups

    @property
    def patch_errors(self) -> PatchErrors:
        """What each patch is off by when the others are fitted without it, in L*, a*, b*."""
        if self.fit is None:
            return {}
        rows = zip(self.patch_ids, self.fit.at_patches.error_lab.tolist(), strict=True)
        return {patch: (error[0], error[1], error[2]) for patch, error in rows}

    @property
    def bent_in_the_dark(self) -> float:
        """How much flatter than straight the curve of stored values is near black: 0 for linear ones, about 0.9 for a display's."""
        dark = self.lookup[: max(len(self.lookup) // 25, 2)].mean(axis=1, dtype=float)
        slope = (dark[-1] - dark[0]) / (len(dark) - 1) * (len(self.lookup) - 1)
        return float(np.clip(1 - slope / float(self.lookup[-1].mean() - dark[0]), 0, 1))

    @property
    def ratios_hold(self) -> bool:
        """Whether shares of light inside the capture mean something: False where the file's encoding is unknown."""
        return self.tier != "none" or self.model.origin == WHITE_PAPER

    @property
    def blur_mm(self) -> float | None:
        return None if self.blur_px is None else self.blur_px / self.geometry.pixels_per_mm

    def beyond_gamut(self, lab: Floats) -> float:
        """How far, in ΔE*ab, `lab` (3,) lies outside the colours of the reference patches; 0 inside, or without patches."""
        return 0.0 if self.fit is None or self.fit.gamut is None else self.fit.gamut.beyond(lab)

    def colour_uncertainty(self, lab: Floats) -> tuple[float, Floats]:
        """Standard uncertainty near `lab` (3,): CIEDE2000, and (3,) in L*, a*, b*."""
        if self.model.origin == WHITE_PAPER:
            away = float(np.linalg.norm(lab - ASSUMED_PAPER_LAB))
            return WHITE_PAPER_DE00[0] + WHITE_PAPER_DE00[1] * away, WHITE_PAPER_LAB[0] + WHITE_PAPER_LAB[1] * away
        if self.fit is None:
            return PROFILE_ONLY_DE00, PROFILE_ONLY_LAB
        if self.tier == "grey":
            chroma = min(float(np.hypot(lab[1], lab[2])), _GREY_TO_CHROMA)
            return GREY_ONLY_DE00[0] + GREY_ONLY_DE00[1] * chroma, GREY_ONLY_LAB[0] + GREY_ONLY_LAB[1] * chroma
        de, parts = self.fit.uncertainty(lab)
        return de, np.maximum(parts, 0.05)


@dataclass(frozen=True, slots=True, kw_only=True)
class PaintCorrection:
    """One paint's colours set right: logarithm (n, 3) of the factor on XYZ at rising tint `depth` (n,) over `paper` (3,)."""

    paper: Floats
    depth: Floats
    log_factor: Floats

    def apply(self, xyz: Floats) -> Floats:
        """Corrected XYZ (..., 3), by a table of a few hundred depths."""
        steps = np.linspace(0, self.depth[-1], _DEPTH_STEPS)
        factors = np.exp(np.stack([np.interp(steps, self.depth, self.log_factor[:, c]) for c in range(3)], axis=-1))
        place = np.maximum(greatest_density(xyz, self.paper, 1e-4), 0) * ((_DEPTH_STEPS - 1) / self.depth[-1])
        return np.asarray(xyz * factors.astype(xyz.dtype).take(np.minimum(place, _DEPTH_STEPS - 1).astype(np.int32), axis=0))


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibratedCapture:
    """A picture with its calibration: gives the linear colour of any part of the card; `paint` where all of it is one
    paint whose way is known, `film` where the paint was still wet."""

    picture: Picture
    layout: Layout
    calibration: Calibration
    paint: PaintCorrection | None = None
    film: WetFilm | None = None

    def linear(self, rect: Rect, pixels_per_mm: float | None = None) -> tuple[Floats, Mask]:
        """Device light (h, w, 3) float32 of `rect`, rectified and evenly lit, and a mask (h, w) of what may be measured."""
        cal = self.calibration
        scale = pixels_per_mm or cal.geometry.pixels_per_mm
        lookup = cal.lookup if cal.undone_lookup is None else cal.undone_lookup
        linear, good = linear_part(self.picture, cal.geometry, rect, scale, lookup, cal.sharpening)
        linear /= cal.light.over(rect, linear.shape[:2])
        return linear, good

    def xyz(self, rect: Rect, pixels_per_mm: float | None = None) -> tuple[Floats, Mask]:
        """XYZ (h, w, 3) float32 of `rect`, rectified, and a mask (h, w) of what may be measured."""
        linear, good = self.linear(rect, pixels_per_mm)
        return self.colours(linear), good

    def as_dry(self, linear: Floats) -> Floats:
        """Device light (..., 3) as the colour model knows it, which has seen dry paint alone."""
        return linear if self.film is None else self.film.dried(linear)

    def colours(self, linear: Floats) -> Floats:
        """XYZ (..., 3) of device light (..., 3)."""
        xyz = np.asarray(self.calibration.model.to_xyz(self.as_dry(linear)), dtype=linear.dtype)
        if self.paint is not None:
            xyz = self.paint.apply(xyz)
        return xyz if self.film is None else self.film.wetted(xyz)
