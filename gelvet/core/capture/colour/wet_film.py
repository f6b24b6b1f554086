"""Wet paint through a colour model that knows dry paint.

A dried, matte film sends a little white light back from its surface; in a wet one that surface is smooth and mirrors the lamp
elsewhere (J. Lekner, M. C. Dorf, Appl. Opt. 27 (1988) 1278-1280, on why wet things are darker). The model takes the loss
for a deeper absorption band and reads vivid masstones several L* too light. So the surface's light is added before the model is
asked, and taken off its answer.
"""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50

# Share of white light from a dried surface, where a wet capture stands alone; a dry one beside it tells of less.
DRY_SURFACE = 0.008
_DARKEST = 1e-4


@dataclass(frozen=True, slots=True)
class WetFilm:
    """`white` (3,) is the device's light of a perfect diffuser, `surface` the share of it that drying will add."""

    white: Floats
    surface: float = DRY_SURFACE

    def beside(self, wet: Floats, dry: Floats) -> "WetFilm":
        """With no more surface than the masstone's darkest channel gained in drying; device light (3,) of it `wet` and `dry`.

        There the surface is most of the light, and a body that dries lighter would only gain more."""
        darkest = int(np.argmin(wet / self.white))
        one, other = wet[darkest] / self.white[darkest], dry[darkest] / self.white[darkest]
        return replace(self, surface=float(np.clip((other - one) / max(1 - one, _DARKEST), 0, self.surface)))

    def dried(self, light: Floats) -> Floats:
        """Device light (..., 3) as if the surface had dried and nothing else had changed."""
        return np.asarray((1 - self.surface) * light + (self.surface * self.white).astype(light.dtype), dtype=light.dtype)

    def wetted(self, xyz: Floats) -> Floats:
        """XYZ (..., 3) of the wet film from that of the `dried` one."""
        wet = (xyz - (self.surface * WHITE_D50).astype(xyz.dtype)) / (1 - self.surface)
        return np.asarray(np.maximum(wet, _DARKEST), dtype=xyz.dtype)
