"""What a capture does to fine detail, and what undoes it."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats

MAXIMUM_GAIN = 3.0  # measurement.md 4


@dataclass(frozen=True, slots=True)
class Blur:
    """A Gaussian of standard deviation `sd_mm`; and, where the device sharpens, what it adds: `halo` times the difference between
    the picture and the picture blurred by a Gaussian of `halo_mm`."""

    sd_mm: float
    halo: float = 0.0
    halo_mm: float = 0.0

    def response(self, frequency: Floats) -> Floats:
        """What is left of a wave of `frequency` (cycles/mm): below 1 where it is blurred, above 1 where it is sharpened."""
        return np.asarray(_gaussian(self.sd_mm, frequency) * (1 + self.halo * (1 - _gaussian(self.halo_mm, frequency))))

    def gain(self, frequency: Floats) -> Floats:
        """What undoes it, at most 3."""
        return np.asarray(1 / np.maximum(self.response(frequency), 1 / MAXIMUM_GAIN))

    def softened(self, sd_mm: float) -> "Blur":
        """With another Gaussian blur after it."""
        return replace(self, sd_mm=float(np.hypot(self.sd_mm, sd_mm)))


def _gaussian(sd_mm: float, frequency: Floats) -> Floats:
    return np.asarray(np.exp(-2 * (np.pi * sd_mm * frequency) ** 2))
