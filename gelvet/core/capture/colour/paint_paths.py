"""What a colour model gets wrong on one paint, judged by the paint's whole way from masstone to wash.

One device colour may come from many reflectances; a paint's colours at several depths leave far fewer. A fixed sample of
paints, each as a series of Kubelka–Munk layers of growing thickness over paper, is seen through the device's recovered
sensitivities. Those paints whose series run closest to the measured one tell the model's error on it: a plane through their
errors, as these change with how far each paint runs off the measured one, is read where nothing is off (local linear
regression, W. S. Cleveland, J. Am. Stat. Assoc. 74 (1979) 829-836, here in the space of whole paths).
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
_NEIGHBOURS = 100
# How flat the plane is kept, as a share of how much the neighbours differ, and as one of how far even the nearest runs off: a way that
# no paint of the sample takes, as of pigments that part along it, is no reason to run away. Nor may the plane leave the neighbours'
# own errors by more than so many SD.
_FLATNESS, _UNLIKE, _FURTHEST = 0.02, 3.0, 2.0


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
        offsets, errors = [], []
        for colour, node in zip(wanted, nearest.T, strict=True):
            one, other = (self._between(every, np.clip(node + side, 0, layers - 2), colour) for side in (-1, 0))
            first = ((one[0] ** 2).sum(axis=-1) <= (other[0] ** 2).sum(axis=-1))[:, None]
            offset, error = (np.where(first, a, b) for a, b in zip(one, other, strict=True))
            misfit += (offset**2).sum(axis=-1)
            offsets.append(offset)
            errors.append(error)
        chosen = np.argpartition(misfit, _NEIGHBOURS)[:_NEIGHBOURS]
        width = np.sort(misfit[chosen])[_NEIGHBOURS // 3]
        weight = np.exp(-0.5 * misfit[chosen] / max(width, 1e-12))
        off, wrong = (np.stack(parts, axis=1)[chosen].reshape(_NEIGHBOURS, -1).astype(float) for parts in (offsets, errors))
        return _where_nothing_is_off(off, wrong, weight / weight.sum()).reshape(-1, 3)

    def _between(self, every: Image, node: Image, colour: Floats) -> tuple[Floats, Floats]:
        """How far (n, 3) the stretch of each paint's path after `node` (n,) runs off `colour`, and the error (n, 3) there."""
        start = self.seen[every, node]
        step = self.seen[every, node + 1] - start
        share = np.clip(((colour - start) * step).sum(axis=-1) / np.maximum((step**2).sum(axis=-1), 1e-9), 0, 1)[:, None]
        return start + share * step - colour, self.log_error[every, node] * (1 - share) + self.log_error[every, node + 1] * share


def _where_nothing_is_off(off: Floats, wrong: Floats, weight: Floats) -> Floats:
    """Errors (k,) of a paint that is off by nothing, from neighbours that are `off` (n, d) and `wrong` (n, k), of these weights (n,)."""
    middle, mean = weight @ off, weight @ wrong
    apart = off - middle
    spread = (apart * weight[:, None]).T @ apart
    flatness = _FLATNESS * np.trace(spread) + _UNLIKE * (off**2).sum(axis=1).min()
    spread += (flatness / len(spread) + 1e-12) * np.eye(len(spread))
    slope = np.linalg.solve(spread, (apart * weight[:, None]).T @ (wrong - mean))
    furthest = _FURTHEST * np.sqrt(weight @ (wrong - mean) ** 2)
    return np.asarray(mean + np.clip(-middle @ slope, -furthest, furthest))


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
    absorption, scattering, paper, surface = (p.astype(np.float32) for p in random_paints(wavelengths_nm, _PAINTS, seed=31))
    amounts = np.geomspace(_THINNEST, _THICKEST, _LAYERS, dtype=np.float32)
    layers = np.empty((_PAINTS, _LAYERS, len(wavelengths_nm)), dtype=np.float32)
    for number, amount in enumerate(amounts):
        layers[:, number] = surface + (1 - surface) * layer_reflectance(absorption * amount, scattering * amount, paper)
    return layers
