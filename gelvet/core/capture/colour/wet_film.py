"""Wet paint through a colour model that knows dry paint.

A dried, matte film sends a little white light back from its surface; in a wet one that surface is smooth and mirrors the lamp
elsewhere (J. Lekner, M. C. Dorf, Appl. Opt. 27 (1988) 1278-1280, on why wet things are darker). The model takes the loss
for a deeper absorption band and reads vivid masstones several L* too light. So the surface's light is added before the model is
asked, and taken off its answer.
"""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50

# Share of white light from a dried surface: between none, where the assumption would do harm, and the 1 % that is the prior's mean.
DRY_SURFACE = 0.006
_DARKEST = 1e-4


@dataclass(frozen=True, slots=True)
class WetFilm:
    """`white` (3,) is the device's light of a perfect diffuser."""

    white: Floats

    def dried(self, light: Floats) -> Floats:
        """Device light (..., 3) as if the surface had dried and nothing else had changed."""
        return np.asarray((1 - DRY_SURFACE) * light + (DRY_SURFACE * self.white).astype(light.dtype), dtype=light.dtype)

    def wetted(self, xyz: Floats) -> Floats:
        """XYZ (..., 3) of the wet film from that of the `dried` one."""
        wet = (xyz - (DRY_SURFACE * WHITE_D50).astype(xyz.dtype)) / (1 - DRY_SURFACE)
        return np.asarray(np.maximum(wet, _DARKEST), dtype=xyz.dtype)
