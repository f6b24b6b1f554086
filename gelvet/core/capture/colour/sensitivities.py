"""A device's effective channel sensitivities, recovered from readings of patches whose spectra are known.

A target's inks leave many shapes open. A channel is taken for a plausible one times a factor, plus a smooth departure (a
Gaussian process, C. E. Rasmussen and C. K. I. Williams, Gaussian Processes for Machine Learning, 2006, chapter 2); the
plausible ones are weighed by the evidence of the readings, together with the readings' unknown error.
"""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.device_prior import device_prior

DRAWS = 8
# Departure from a plausible channel: σ as a share of what channels have there on average, and how far it reaches.
_DEPARTURE, _REACH_NM = 0.2, 20.0
# Relative errors of a reading that are thought possible; readings below the floor err as much as at the floor.
_READING_ERRORS = (0.002, 0.004, 0.008, 0.016, 0.032)
_DARK_FLOOR = 0.02
_NEGLIGIBLE = 1e-6
# A file may hold spectra of nothing but zeros: the result is then nonsense, but finite, and left-out patches tell.
_BLACK = 1e-6


@dataclass(frozen=True, slots=True)
class Sensitivities:
    """`likeliest` (m, 3), and `draws` (8, m, 3) from what the readings leave open: spectra (n, m) @ either ≈ light (n, 3)."""

    likeliest: Floats
    draws: Floats


def recover_sensitivities(spectra: Floats, rgb: Floats, wavelengths_nm: Floats) -> Sensitivities:
    """From reflectances (n, m) and the light `rgb` (n, 3) that the device read."""
    prior = device_prior(tuple(wavelengths_nm.tolist()))
    rng = np.random.default_rng(23)
    channels = [_recover(spectra, rgb[:, c], prior[:, c].T, wavelengths_nm, rng) for c in range(3)]
    return Sensitivities(np.stack([mean for mean, _ in channels], axis=1), np.stack([draws for _, draws in channels], axis=2))


def _recover(spectra: Floats, light: Floats, shapes: Floats, nm: Floats, rng: np.random.Generator) -> tuple[Floats, Floats]:
    """Mean (m,) and draws (8, m) of one channel that reads `light` (n,), from plausible `shapes` (m, k)."""
    read = spectra @ shapes
    usual = np.abs(shapes).mean(axis=1) * np.median(light) / max(float(np.median(spectra @ shapes.mean(axis=1))), _BLACK)
    spread = _DEPARTURE * usual
    departure = spread[:, None] * spread * np.exp(-0.5 * ((nm[:, None] - nm) / _REACH_NM) ** 2)
    # In units of the readings' error, and turned so that a departure's readings are independent of each other.
    floor = light + _DARK_FLOOR
    across = spectra @ departure / floor[:, None]
    power, turn = np.linalg.eigh(across @ (spectra / floor[:, None]).T)
    target, seen = turn.T @ (light / floor), turn.T @ (read / floor[:, None])
    factors, evidence, gains = [], [], []
    for error in _READING_ERRORS:
        variance = np.maximum(power, 0) + error**2
        along, length = (target / variance) @ seen, np.maximum((1 / variance) @ seen**2, _BLACK)
        factors.append(along / length)
        evidence.append(0.5 * along**2 / length - 0.5 * (target**2 / variance).sum() - 0.5 * np.log(variance).sum())
        gains.append((across.T @ turn / variance) @ turn.T / floor)
    weight = np.exp(np.stack(evidence) - np.max(evidence))
    weight /= weight.sum()
    mean: Floats = np.zeros(len(nm))
    for share, factor, gain in zip(weight, factors, gains, strict=True):
        if share.sum() > _NEGLIGIBLE:
            shape = shapes @ (share * factor)
            mean = mean + shape + gain @ (share.sum() * light - spectra @ shape)
    chosen = rng.choice(weight.size, size=DRAWS, p=weight.ravel())
    rough = np.linalg.cholesky(departure + 1e-9 * np.trace(departure) * np.eye(len(nm)))
    draws = []
    for level, device in zip(*np.unravel_index(chosen, weight.shape), strict=True):
        noise = _READING_ERRORS[level] * floor * rng.standard_normal(len(light))
        # A draw from before the readings, moved as they say (Matheron's rule).
        drawn = factors[level][device] * shapes[:, device] + rough @ rng.standard_normal(len(nm))
        draws.append(drawn + gains[level] @ (light + noise - spectra @ drawn))
    return mean, np.stack(draws)
