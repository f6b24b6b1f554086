"""Reference patches that are covered, stained or mirror a lamp: no model that suits the others suits them."""

import numpy as np

from gelvet.core.arrays import Floats, Integers, Mask
from gelvet.core.capture.colour.colour_fit import ColourFit
from gelvet.core.capture.colour.models import EXPANSIONS
from gelvet.core.capture.colour.patch_fit import RIDGES, fitted_candidate, perceptual_patch_weights, ridge_solve
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import ToneCurve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab

# A patch is left out beyond both of these, if at most this share of all is.
_STRAY_DE00, _STRAY_TIMES, _STRAY_SHARE = 9.0, 7.0, 0.25
_DRAWN, _DRAWS, _OF_SUBSETS = 9, 300, "root-polynomial-2"


def stray_patches(fit: ColourFit, readings: PatchReadings) -> Mask:
    """Patches (n,) that stand far outside all others: covered, stained or mirroring a lamp. None where many seem to.

    A few bad ones draw a model toward them, and make good ones look bad; so the rest is judged by the model, of those through a few
    patches drawn at random, that suits most of them best (P. J. Rousseeuw, J. Am. Stat. Assoc. 79 (1984) 871-880).
    """
    count = len(readings.code)
    none = np.zeros(count, dtype=bool)
    if float(fit.at_patches.de00.max()) <= _STRAY_DE00 or count < 2 * _DRAWN:
        return none
    judged = _Subset(readings, fit.tone)
    rng = np.random.default_rng(0)
    drawn = (judged.off_by(rng.choice(count, _DRAWN, replace=False)) for _ in range(_DRAWS))
    de = min(drawn, key=lambda off: float(np.percentile(off, 100 * (1 - _STRAY_SHARE))))
    for share in (0.5, 1 - _STRAY_SHARE):
        de = judged.off_by(np.argsort(de)[: int(share * count)])
    stray = _far_off(de)
    if stray.any():
        # The tone curve was fitted to them all, and a bent one makes good patches look bad.
        tone = fitted_candidate(readings.only(~stray), _OF_SUBSETS, [fit.tone]).tone
        stray &= _far_off(_Subset(readings, tone).off_by(np.flatnonzero(~stray)))
    return stray if stray.mean() <= _STRAY_SHARE else none


def _far_off(de00: Floats) -> Mask:
    return de00 > max(_STRAY_DE00, _STRAY_TIMES * float(np.median(de00)))


class _Subset:
    """Models through some of the patches, on one tone curve."""

    def __init__(self, readings: PatchReadings, tone: ToneCurve) -> None:
        weights = perceptual_patch_weights(readings)
        self._known = xyz_to_lab(readings.xyz)
        self._target = np.einsum("nij,nj->ni", weights, readings.xyz)
        self._terms = EXPANSIONS[_OF_SUBSETS](light_of(readings, tone))
        self._design = np.einsum("nij,nt->nitj", weights, self._terms).reshape(len(readings.code), 3, -1)

    def off_by(self, chosen: Integers) -> Floats:
        """CIEDE2000 (n,) by which the model through the `chosen` patches misses each."""
        design = self._design[chosen].reshape(-1, self._design.shape[-1])
        solution = ridge_solve(design, self._target[chosen].ravel(), RIDGES[0])
        return ciede2000(xyz_to_lab(np.maximum(self._terms @ solution.reshape(-1, 3), 1e-4)), self._known)
