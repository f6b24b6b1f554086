"""What a fitted curve misses at each level of light, told by the patches of a second shot in more or in less light.

Patches send back the same share of whatever light falls on them. Where those of one level all seem to send back more or less of
a dimmer lamp's light, the curve is a little too steep or too flat on the way there; what paints of that level seem to change by is
no doing of theirs.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.contrast import PatchLight, patch_light

_LEVELS = np.log(np.geomspace(0.01, 1.0, 61))
# Patches within this σ of a level (logarithm) tell of it; as much as this many say that nothing is missed.
_WIDTH, _DOUBT = 0.25, 2.0
_LEAST_SEEN = 24
# Patches further off the middle than this mirror the lamp, or lie in a shadow.
_FURTHEST = 0.08


@dataclass(frozen=True, slots=True)
class LevelGain:
    """Logarithm (61,) of how much too light a shot is at levels of 0.01 to 1, evenly by ratio."""

    gain: Floats

    def off(self, light: Floats) -> Floats:
        """Device `light` (..., 3) as the flat shot's levels would have it, float32."""
        level = np.log(np.maximum(light, 1e-5))
        return np.asarray(light * np.exp(-np.interp(level, _LEVELS, self.gain)), dtype=np.float32)


def common_gain(flat_patches: PatchLight, others: Sequence[CalibratedCapture]) -> LevelGain | None:
    """Of shots that are evenly lit as `others`, against the patches of the flat one; None where fewer than two show enough of them."""
    seen = [(flat_patches[0], patch_light(other)[0]) for other in others]
    both = [np.isfinite(one) & np.isfinite(two) for one, two in seen]
    return agreed([gain_between(one[ok], two[ok]) for (one, two), ok in zip(seen, both, strict=True) if ok.sum() >= _LEAST_SEEN])


def gain_between(one: Floats, two: Floats) -> LevelGain:
    """From the light (n,) of patches in a first shot and in a second."""
    level, gain = np.log(one), np.log(two / one)
    middle = np.median(gain)
    near = np.clip(gain, middle - _FURTHEST, middle + _FURTHEST)
    at = np.clip(_LEVELS, level.min(), level.max())
    weight = np.exp(-0.5 * ((at[:, None] - level) / _WIDTH) ** 2)
    return LevelGain(np.asarray(weight @ near / (weight.sum(axis=1) + _DOUBT)))


def agreed(gains: Sequence[LevelGain]) -> LevelGain | None:
    """What several shots agree on; None for fewer than two. A lamp's own shadows on the patches are not the curve's doing, and differ
    from side to side: each level counts by how far it stands out of what the shots differ by."""
    if len(gains) < 2:
        return None
    each = np.array([one.gain for one in gains])
    mean = each.mean(axis=0)
    chance = each.var(axis=0, ddof=1) / len(each)
    return LevelGain(np.asarray(mean * mean**2 / (mean**2 + chance + 1e-12)))
