"""Whether a file holds its channels in another order than red, green, blue, as the reference patches tell.

A model of colours fits a file whose red and blue are exchanged nearly as well, but what is known of how devices see, and with it of
paints beyond the patches, is then taken for another device's.
"""

from itertools import permutations

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import ToneCurve
from gelvet.core.colour.spaces import SRGB_FROM_XYZ_D50

_NAMES = ("red", "green", "blue")
_AS_IT_SHOULD_BE = (0, 1, 2)
# By so much in the sum of three correlations must another order go better with the patches: with honest devices, whose sum is 2.9,
# no other order comes to 1, and with exchanged ones it is the same the other way round.
_BETTER = 0.5
# Another target's colours go with no order at all.
_FITS = 2.0


def exchanged_channels(readings: PatchReadings, tone: ToneCurve) -> tuple[str, ...]:
    """Names of the channels that are not where they should be; none where the order is right."""
    alike = _alike(light_of(readings, tone), np.maximum(readings.xyz @ SRGB_FROM_XYZ_D50.T, 0))

    def fitness(order: tuple[int, ...]) -> float:
        return float(sum(alike[stored, meant] for stored, meant in enumerate(order)))

    best = max(permutations(_AS_IT_SHOULD_BE), key=fitness)
    if fitness(best) < max(fitness(_AS_IT_SHOULD_BE) + _BETTER, _FITS):
        return ()
    return tuple(name for name, stored, meant in zip(_NAMES, _AS_IT_SHOULD_BE, best, strict=True) if stored != meant)


def _alike(device: Floats, known: Floats) -> Floats:
    """Correlation (3, 3) of the cube roots of each channel of the device's light (n, 3) with each of the known one's (n, 3): what is
    common to all channels, how light a patch is, is taken off."""
    colours = [np.cbrt(light) - np.cbrt(light).mean(axis=1, keepdims=True) for light in (device, known)]
    off = [colour - colour.mean(axis=0) for colour in colours]
    lengths = [np.maximum(np.linalg.norm(o, axis=0), 1e-9) for o in off]
    return np.asarray(off[0].T @ off[1] / np.outer(*lengths))
