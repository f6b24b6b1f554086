"""What a colour model gets wrong on one paint, judged by the paint's whole way from masstone to wash.

One device colour may come from many reflectances; a paint's colours at several depths leave far fewer. A fixed sample of
paints, each as a series of Kubelka–Munk layers of growing thickness over paper, is seen through the device's recovered
sensitivities. The model's errors on those paints whose series run closest to the measured one are averaged (nearest
neighbours with Gaussian weights, as in E. A. Nadaraya's regression, here in the space of whole paths).
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.paint_prior import random_paints
from gelvet.core.colour.kubelka_munk import layer_reflectance
from gelvet.core.colour.spectra import observer_d50

_PAINTS, _LAYERS = 5000, 16
_THINNEST, _THICKEST = 0.03, 6.0
_NEIGHBOURS = 40
# The share of the neighbours' mean error that is taken off: they are never quite the paint.
_TRUST = 0.85


@dataclass(frozen=True, slots=True, kw_only=True)
class PaintPaths:
    """`seen` (n, t, 3) cube roots of device light of n paints at t thicknesses; `log_error` (n, t, 3) logarithm of true
    over predicted XYZ there."""

    seen: Floats
    log_error: Floats

    def weighing(self, share: Floats) -> "PaintPaths":
        """The same for a model of which this one is a `share` (n, t, 1)."""
        return replace(self, log_error=(share * self.log_error).astype(np.float32))

    def correction(self, rgb: Floats) -> Floats:
        """Logarithm (m, 3) of the factor on XYZ for one paint's linear device colours `rgb` (m, 3), at different depths."""
        wanted = np.cbrt(np.maximum(rgb, 0)).astype(np.float32)
        paints, layers = self.seen.shape[:2]
        # |a - b|² = |a|² - 2 a·b + |b|²: one matrix product finds each paint's nearest layer.
        square = (self.seen**2).sum(axis=-1)
        nearest = (square[..., None] - 2 * (self.seen.reshape(-1, 3) @ wanted.T).reshape(paints, layers, -1)).argmin(axis=1)
        every = np.arange(paints)
        misfit: Floats = np.zeros(paints)
        errors = []
        for colour, node in zip(wanted, nearest.T, strict=True):
            near = [self._between(every, np.clip(node + side, 0, layers - 2), colour) for side in (-1, 0)]
            better = near[0][0] <= near[1][0]
            misfit += np.where(better, near[0][0], near[1][0])
            errors.append(np.where(better[:, None], near[0][1], near[1][1]))
        chosen = np.argpartition(misfit, _NEIGHBOURS)[:_NEIGHBOURS]
        width = np.sort(misfit[chosen])[_NEIGHBOURS // 3]
        weight = np.exp(-0.5 * misfit[chosen] / max(width, 1e-12))
        mean = np.einsum("n,mnc->mc", weight / weight.sum(), np.stack(errors)[:, chosen])
        return np.asarray(_TRUST * mean)

    def _between(self, every: Image, node: Image, colour: Floats) -> tuple[Floats, Floats]:
        """Squared distance (n,) of `colour` from the stretch of each paint's path after `node` (n,), and the error (n, 3) there."""
        start = self.seen[every, node]
        step = self.seen[every, node + 1] - start
        share = np.clip(((colour - start) * step).sum(axis=-1) / np.maximum((step**2).sum(axis=-1), 1e-9), 0, 1)[:, None]
        distance = ((start + share * step - colour) ** 2).sum(axis=-1)
        return distance, self.log_error[every, node] * (1 - share) + self.log_error[every, node + 1] * share


def paint_paths(model: ColourModel, sensitivities: Floats, wavelengths_nm: Floats) -> PaintPaths:
    """The sample of paints as a device with `sensitivities` (k, 3) and its `model` see it."""
    layers = _layers(tuple(wavelengths_nm.tolist()))
    rgb = np.maximum(layers @ sensitivities.astype(np.float32), 1e-4)
    xyz = np.maximum(layers @ observer_d50(wavelengths_nm).astype(np.float32), 1e-3)
    error = np.log(xyz / model.to_xyz(rgb))
    return PaintPaths(seen=np.cbrt(rgb), log_error=np.clip(error, -0.7, 0.7))


def prepare_paint_paths(wavelengths_nm: Floats) -> None:
    """Makes the sample, which takes a while, before it is needed."""
    _layers(tuple(wavelengths_nm.tolist()))


@lru_cache(maxsize=2)
def _layers(wavelengths_nm: tuple[float, ...]) -> Floats:
    """Reflectance (n, t, k) float32 of the sample; the same at each call."""
    absorption, scattering, paper, surface = random_paints(wavelengths_nm, _PAINTS, seed=31)
    amounts = np.geomspace(_THINNEST, _THICKEST, _LAYERS)
    stack = [surface + (1 - surface) * layer_reflectance(absorption * t, scattering * t, paper) for t in amounts]
    return np.stack(stack, axis=1).astype(np.float32)
