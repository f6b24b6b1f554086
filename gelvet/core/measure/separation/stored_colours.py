"""Separation on a file that stores colour in steps: what the steps do to it, found by storing the zone's own colours once more.

A one-pigment zone is made of the zone's lightness, which files store finely, and of the colour that the paint has at each
lightness; stored like the file, its colours leave their path by what the steps alone do. Colours that part by known amounts,
stored in the same way, tell what is left of parting. So the amount is found that would be seen as what is seen.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.detail.coded_light import CodedLight
from gelvet.core.measure.values import ZonePixels

# SD of a camera's noise in Cb and Cr before it is stored, in levels of 255: steps hide it, but it decides which are taken. The two
# others bound it.
_NOISE, _LEAST_NOISE, _MOST_NOISE = 0.9, 0.4, 1.5
_ROUNDS = 3
# Where between two steps the zone's colour may lie: of colours that hardly vary more or less is stored by that, and these two places
# are above and below what is stored on average.
_BETWEEN = (0.25, 0.75)
# How well the rest of a replay holds, as shares of what the steps make and of what parts (k = 1).
_MADE_U, _KEPT_U = 0.06, 0.05
# The same where samples of colour span several pixels: of two pigments whose clumps are hardly wider than such a sample, more is
# lost than colours do that part at random (on a fourth simulator 1 to 39 % of the index, median 21 %).
_KEPT_HALVED_U = 0.1
_SEED = 5
# So many pixels will do for what is judged many times over.
_ENOUGH_PIXELS = 60_000
# How well it is known what one pigment's colours leave off the path before they are stored.
_BARE_U = 0.2


@dataclass(frozen=True, slots=True)
class Undone:
    """Variance off the path before the colours were stored, and its standard uncertainty."""

    variance: float
    u: float


def undone(seen: float, zone: ZonePixels, path_xyz: Floats, coded: CodedLight, variance_off: Callable[[ZonePixels], float]) -> Undone:
    """`seen` is `variance_off(zone)`; `path_xyz` (n, 3) the paint's colours at many depths."""
    middle = _middle(zone)
    whole = _Replay(zone, coded, path_xyz, variance_off)
    part = whole if middle is zone else _Replay(middle, coded, path_xyz, variance_off)
    here, there = (whole.stored(whole.expected, between=between) for between in _BETWEEN)
    # Where two pigments part and lightness hardly knows of it, no one colour goes with a lightness: what that leaves off the path is
    # no step's doing.
    bare = whole.off(whole.expected)
    made = max((here + there) / 2 - bare, 0.0)
    least, most = (part.stored(part.expected, level) for level in (_LEAST_NOISE, _MOST_NOISE))
    doubt = float(np.linalg.norm([(most - least) / 2, 2 * _MADE_U * made, _BARE_U * bare]))
    if seen <= made:
        return Undone(0.0, doubt)
    true = part.unkept(seen - made)
    kept_u = _KEPT_U if coded.steps.down * coded.steps.across == 1 else _KEPT_HALVED_U
    return Undone(true, float(np.hypot(doubt, 2 * kept_u * true)))


class _Replay:
    """A zone of one pigment, `expected` (h, w, 2) its Cb and Cr, that is stored like the file."""

    def __init__(self, zone: ZonePixels, coded: CodedLight, path_xyz: Floats, variance_off: Callable[[ZonePixels], float]) -> None:
        self._zone, self._coded, self._variance_off = zone, coded, variance_off
        codes = coded.codes(zone.xyz)
        self._luma = np.where(zone.good, codes[..., 0], codes[..., 0][zone.good].mean())
        self.expected = _expected(self._luma, coded.codes(path_xyz))
        self._apart = codes[..., 1:] - self.expected
        self._rng = np.random.default_rng(_SEED)
        self._noise = self._rng.standard_normal(self.expected.shape, dtype=np.float32)

    def off(self, differences: Floats) -> float:
        """Variance off the path of Cb and Cr (h, w, 2) that are not stored."""
        return self._off(np.dstack([self._luma, differences]))

    def stored(self, differences: Floats, level: float = _NOISE, between: float = _BETWEEN[0]) -> float:
        """The same once they are."""
        return self._off(self._coded.read_back(np.dstack([self._luma, differences + level * self._noise]), between))

    def unkept(self, seen: float) -> float:
        """Variance of colours that part, of which so much is `seen` once they are stored."""
        parting = _parting(self._apart, self._luma, self._zone, self._rng)
        of_one = self.off(self.expected + parting) - self.off(self.expected)
        unparted, true = self.stored(self.expected), seen
        for _ in range(_ROUNDS if of_one > 0 else 0):
            kept = (self.stored(self.expected + np.sqrt(true / of_one) * parting) - unparted) / true
            true = seen / max(kept, 0.3)
        return true

    def _off(self, codes: Floats) -> float:
        xyz = np.maximum(self._coded.xyz(codes), np.float32(1e-3))
        return self._variance_off(replace(self._zone, xyz=xyz))


def _middle(zone: ZonePixels) -> ZonePixels:
    """As much of a zone as tells how steps go with noise, and what they keep; what they make is too little to be told by less than
    all of it."""
    share = float(np.sqrt(_ENOUGH_PIXELS / zone.good.size))
    if share >= 1:
        return zone
    cut = tuple(slice(round(side * (1 - share) / 2), round(side * (1 + share) / 2)) for side in zone.good.shape)
    part = replace(zone, xyz=np.ascontiguousarray(zone.xyz[cut]), good=zone.good[cut])
    return part if part.used_fraction > 0.5 else zone


def _expected(luma: Floats, path_codes: Floats) -> Floats:
    """Cb, Cr (h, w, 2) of one pigment at each `luma` (h, w)."""
    order = np.argsort(path_codes[:, 0])
    return np.stack([np.interp(luma, path_codes[order, 0], path_codes[order, c]) for c in (1, 2)], axis=-1).astype(np.float32)


def _parting(apart: Floats, luma: Floats, zone: ZonePixels, rng: np.random.Generator) -> Floats:
    """Colours (h, w, 2) that part as coarsely as lightness varies, but elsewhere, the way in which those of the zone do most."""
    import cv2
    from scipy.fft import dctn, idctn

    calm = cv2.GaussianBlur(np.ascontiguousarray(apart), (0, 0), 0.1 * zone.pixels_per_mm)[zone.good]
    way = np.linalg.eigh(np.cov(calm.T))[1][:, -1]
    waves = dctn(luma - luma.mean(), norm="ortho")
    return np.asarray(idctn(waves * rng.choice([-1.0, 1.0], waves.shape), norm="ortho")[..., None] * way, dtype=np.float32)
