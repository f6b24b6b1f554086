"""What the device made of the reference patches, beside what is known of them."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.tone_curve import ToneCurve


@dataclass(frozen=True, slots=True, kw_only=True)
class PatchReadings:
    """Mean code values (n, 3) 0 to 1, known XYZ (n, 3), and the light (n, 3) that falls on each patch, about 1.

    `around` (n, places, 3) are departures from the mean that stand for a patch's pixels: a print of dots sends back the mean of their
    light, which is not the light of their mean code."""

    code: Floats
    xyz: Floats
    light: Floats
    around: Floats | None = None
    wavelengths_nm: Floats | None = None
    spectra: Floats | None = None  # (n, m) reflectance 0 to 1
    guessed: bool = False  # the spectra are those that the colours make likely

    def only(self, kept: Mask) -> "PatchReadings":
        """Those where `kept` (n,) is True."""
        spectra = None if self.spectra is None else self.spectra[kept]
        around = None if self.around is None else self.around[kept]
        return replace(self, code=self.code[kept], xyz=self.xyz[kept], light=self.light[kept], around=around, spectra=spectra)


def light_of(readings: PatchReadings, tone: ToneCurve) -> Floats:
    """Linear device light (n, 3) of the patches in even light; (..., n, 3) where many curves are tried."""
    if readings.around is None:
        light = tone.linearise(readings.code)
    else:
        light = tone.linearise(readings.code[:, None] + readings.around).mean(axis=-2)
    return np.maximum(light, 1e-5) / readings.light
