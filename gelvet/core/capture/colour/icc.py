"""Embedded ICC profiles as per-channel curves and a matrix (ICC.1:2022, annex F.3)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, lab_to_xyz, xyz_to_lab

_STEPS = 256


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileCurves:
    """`curves` (256, 3): linear light of evenly spaced code values; `model` from there to XYZ.

    `misfit_de00` is how far curves and matrix stand from the profile itself (0 for the usual matrix profiles,
    more for profiles made of tables).
    """

    curves: Floats
    model: ColourModel
    misfit_de00: float

    def linearise(self, code: Floats) -> Floats:
        """Linear RGB (..., 3) of code values 0 to 1."""
        grid = np.linspace(0, 1, _STEPS)
        return np.stack([np.interp(code[..., c], grid, self.curves[:, c]) for c in range(3)], axis=-1)


@lru_cache(maxsize=8)
def read_profile(profile: bytes) -> ProfileCurves | None:
    """Curves and matrix of an RGB profile; None where it is broken or not RGB."""
    try:
        ramps = np.zeros((3, _STEPS, 3), dtype=np.uint16)
        for channel in range(3):
            ramps[channel, :, channel] = np.round(np.linspace(0, 65535, _STEPS))
        xyz = _to_xyz(ramps, profile)
    except (RuntimeError, ValueError, TypeError):
        return None
    white = xyz[0, -1] + xyz[1, -1] + xyz[2, -1]
    if not np.isfinite(xyz).all() or white[1] < 1:
        return None
    black = xyz[:, :1]
    amounts = (xyz - black).sum(axis=2)
    if np.any(amounts[:, -1] <= 0):
        return None
    curves = np.maximum.accumulate(np.clip(amounts / amounts[:, -1:], 0, 1), axis=1).T
    model = ColourModel("linear", (xyz - black)[:, -1])
    profile_curves = ProfileCurves(curves=curves, model=model, misfit_de00=0.0)
    sample = np.random.default_rng(0).integers(0, 65536, (1, 200, 3)).astype(np.uint16)
    exact = _to_xyz(sample, profile)[0]
    approximate = model.to_xyz(profile_curves.linearise(sample[0] / 65535))
    misfit = float(np.percentile(ciede2000(xyz_to_lab(exact), xyz_to_lab(approximate)), 95))
    return ProfileCurves(curves=curves, model=model, misfit_de00=misfit)


def _to_xyz(code: Image, profile: bytes) -> Floats:
    import imagecodecs

    lab = imagecodecs.cms_transform(
        np.ascontiguousarray(code), profile, imagecodecs.cms_profile("lab4"), colorspace="rgb", outcolorspace="lab", outdtype="f4", intent=1
    )
    return lab_to_xyz(np.asarray(lab, dtype=float), WHITE_D50)
