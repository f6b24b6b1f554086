"""A device described: its curve, its model of colour, and what they get wrong on patches and on paints."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.gamut import Gamut, gamut_of
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.paint_paths import PaintPaths
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import ToneCurve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab

_PATCH_REACH, _PAINT_REACH = 14.0, 5.0
# Greys, and colours of chroma 40 and more, that a model of patches alone sees as paints.
_GREY_STRETCH, _VIVID_STRETCH, _VIVID = 1.4, 3.0, 40.0
PATCH_PART = 0.7
# Of what the sample's paints make of the model, what is left once the paint's other depths have told of it (decision 0034).
_PAINT_PART = 0.75


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownErrors:
    """What a model gets wrong on colours whose truth is known: L*a*b* (n, 3), CIEDE2000 (n,), error vectors (n, 3)."""

    lab: Floats
    de00: Floats
    error_lab: Floats

    def near(self, lab: Floats, reach: float) -> tuple[float, Floats]:
        """RMS of CIEDE2000, and (3,) of the L*, a*, b* errors, of the colours around `lab` (3,).

        `reach` is the σ of the neighbourhood in ΔE*ab near grey; it widens with chroma as tolerances do. Beyond all known
        colours the errors are enlarged with the distance.
        """
        scale = 1 + 0.02 * np.hypot(self.lab[:, 1], self.lab[:, 2])
        distance = np.linalg.norm(self.lab - lab, axis=1) / scale
        weight = np.exp(-0.5 * (distance / reach) ** 2) + 1e-3 / len(self.lab)
        weight /= weight.sum()
        beyond = 1 + max(0.0, float(np.sort(distance)[:2].mean()) - 10) / 40
        return float(np.sqrt(weight @ self.de00**2)) * beyond, np.sqrt(weight @ self.error_lab**2) * beyond


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourFit:
    """A device described: `tone`, `model`, and what they leave at the patches (n,) in CIEDE2000.

    `on_paints` are the errors to be expected on paints, and `paths` those along whole paints, where spectra tell of them.
    `gamut` encloses the patches. `plain_at_patches` is what the best model that knows the patches alone gets wrong on them.
    """

    tone: ToneCurve
    model: ColourModel
    residual_de00: Floats
    cross_validated_de00: Floats
    cross_validated_lab: Floats  # (n, 3) error vectors, predicted less known
    reference_lab: Floats  # (n, 3)
    on_paints: KnownErrors | None = None
    paths: PaintPaths | None = None
    gamut: Gamut | None = None
    plain_at_patches: KnownErrors | None = None

    @property
    def at_patches(self) -> KnownErrors:
        """What is wrong with the capture at each patch when it is left out: of the two models the one that knows inks better.
        A model for paints cannot know a left-out ink as one of like inks does, and that is no fault of the capture."""
        own = KnownErrors(lab=self.reference_lab, de00=self.cross_validated_de00, error_lab=self.cross_validated_lab)
        plain = self.plain_at_patches
        return own if plain is None or own.de00.mean() <= plain.de00.mean() else plain

    def uncertainty(self, lab: Floats) -> tuple[float, Floats]:
        """Standard uncertainty near `lab` (3,): CIEDE2000, and (3,) in L*, a*, b*."""
        de, parts = self.at_patches.near(lab, _PATCH_REACH)
        if self.on_paints is None:
            # Paints are not the target's inks: in trials their errors are this much larger, growing from grey to vivid.
            stretch = float(np.interp(np.hypot(lab[1], lab[2]), [0, _VIVID], [_GREY_STRETCH, _VIVID_STRETCH]))
            return de * stretch, parts * stretch
        # What paints make of the model, and what the patches show to be wrong with it, come together; the second is
        # partly the first again. The shares are set so that twice the sum holds 95 % of the errors in trials.
        paint_de, paint_parts = self.on_paints.near(lab, _PAINT_REACH)
        return float(np.hypot(PATCH_PART * de, _PAINT_PART * paint_de)), np.hypot(PATCH_PART * parts, _PAINT_PART * paint_parts)


def described(readings: PatchReadings, tone: ToneCurve, model: ColourModel, left_out: Floats) -> ColourFit:
    """The fit with what it leaves at the patches; `left_out` XYZ (n, 3) of each patch by a fit without it."""
    reference_lab, left_out_lab = xyz_to_lab(readings.xyz), xyz_to_lab(left_out)
    fitted = xyz_to_lab(model.to_xyz(light_of(readings, tone)))
    return ColourFit(
        tone=tone,
        model=model,
        residual_de00=ciede2000(fitted, reference_lab),
        cross_validated_de00=ciede2000(left_out_lab, reference_lab),
        cross_validated_lab=left_out_lab - reference_lab,
        reference_lab=reference_lab,
        gamut=gamut_of(reference_lab),
    )
