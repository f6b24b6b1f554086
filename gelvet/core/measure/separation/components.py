"""Two pigments told apart by their optical densities: which colours they have, how much of each, and where it sits."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.quantities.texture import Component
from gelvet.core.measure.values import ZonePixels

# Averaging over this takes the noise off and leaves the grains.
_SMOOTH_MM = 0.08
_PALEST = 0.02
# Pixels so pale for their zone tell little of the mixture; of the others so many are enough.
_PALE, _ENOUGH = 0.05, 4000
# The purest mixtures that are seen, as quantiles: what lies beyond is noise.
_EXTREME = 0.002
# Pure pigments are sought on the way from the purest pixels to the purest colour that could be; most lie near its beginning.
_WAY = np.linspace(0, 1, 20)
_USUAL, _SPREAD = 0.15, 0.1
# So much of a zone tells as much as one chance of its own.
_GRAIN_MM2 = 0.5
_TRACE = 1e-3
# Amounts that scatter no more than this, or quite in step, tell nothing.
_STILL = 1e-12


@dataclass(frozen=True, slots=True)
class EndMembers:
    """Directions (2, 3) of two pigments' densities, each with its largest channel 1; and, for each of both, what they would be if it lay
    farther out by its standard uncertainty."""

    pure: Floats
    moved: tuple[Floats, Floats]


def components(zone: ZonePixels, paper: Floats) -> tuple[Component, ...]:
    """The two components of a zone, the larger share first; empty where its densities have one direction only. Their uncertainty is
    that of how pure the purest grains are, without the calibration's."""
    density = densities(zone, paper)
    use = zone.good & (density.max(axis=-1) > _PALEST)
    if use.sum() < 200:
        return ()
    ends = end_members(density[use], float(use.sum()) / zone.pixels_per_mm**2 / _GRAIN_MM2)
    if ends is None:
        return ()
    here = density[zone.good]
    xyz, shares = _alone(here, ends.pure, paper)
    some = here[:: max(1, len(here) // _ENOUGH)]
    (of_some, shares_of_some), *others = [_alone(some, pair, paper) for pair in (ends.pure, *ends.moved)]
    u = np.linalg.norm([ciede2000(xyz_to_lab(of_some), xyz_to_lab(other)) for other, _ in others], axis=0)
    share_u = float(np.linalg.norm([other[0] - shares_of_some[0] for _, other in others]))
    return tuple(Component(xyz=xyz[i], u=float(u[i]), share=float(shares[i]), share_u=share_u) for i in np.argsort(-shares))


def _alone(density: Floats, ends: Floats, paper: Floats) -> tuple[Floats, Floats]:
    """Mean XYZ (2, 3) of each pigment alone in densities (n, 3), and its share (2,) of them."""
    means = unmix(density, ends).mean(axis=0)
    shares = means * ends.sum(axis=1)
    return paper * 10 ** -(means[:, None] * ends), np.asarray(shares / max(float(shares.sum()), 1e-9))


def layers_of(zone: ZonePixels, parts: Sequence[Component], paper: Floats) -> tuple[Floats, Floats]:
    """Directions (2, 3) of two components' densities, the largest channel 1, and how much of each lies at each pixel
    (h, w, 2)."""
    ends = np.array([-np.log10(np.clip(c.xyz / paper, 1e-4, 1.0)) for c in parts])
    ends = ends / np.maximum(ends.max(axis=1, keepdims=True), 1e-6)
    return ends, unmix(densities(zone, paper), ends)


def densities(zone: ZonePixels, paper: Floats) -> Floats:
    """Optical density (h, w, 3) against the paper, smoothed a little, never below 0."""
    import cv2

    light = np.maximum(zone.xyz / paper.astype(np.float32), 1e-4)
    smooth = np.asarray(cv2.GaussianBlur(-np.log10(light), (0, 0), _SMOOTH_MM * zone.pixels_per_mm))
    return np.maximum(smooth, 0)


def end_members(density: Floats, grains: float) -> EndMembers | None:
    """Of densities (n, 3); None where one pigment made them.

    Of all pairs on the line that the mixtures take those are likely for which the logarithms of both amounts are jointly normal, as
    amounts are that many chances multiply (J. Aitchison and J. A. C. Brown, The Lognormal Distribution, 1957, chapter 3), `grains` places
    counting as independent; the mean of the pairs by their likelihood.
    """
    total = density.sum(axis=1)
    strong = total >= np.quantile(total, _PALE)
    total = total[strong]
    mixture = density[strong] / total[:, None]
    middle = np.average(mixture, axis=0, weights=total)
    away = (mixture - middle) * np.sqrt(total)[:, None]
    axis = np.linalg.svd(away[:: max(1, len(away) // 20_000)], full_matrices=False)[2][0]
    along = (mixture - middle) @ axis
    low, high = np.quantile(along, [_EXTREME, 1 - _EXTREME])
    if high - low < 1e-3:
        return None
    # A pure one may go as far as where a channel would send back more than the paper.
    first = low - _WAY * max(_furthest(middle, -axis) + low, 0.0)
    second = high + _WAY * max(_furthest(middle, axis) - high, 0.0)
    some = slice(None, None, max(1, len(along) // _ENOUGH))
    usual = -0.5 * ((_WAY - _USUAL) / _SPREAD) ** 2
    likely = np.array([grains * _log_normal(total[some], along[some], end, second) for end in first]) + usual[:, None] + usual
    weight = np.exp(likely - likely.max())
    weight /= weight.sum()
    places, spreads = [], []
    for of_end, at in ((weight.sum(axis=1), first), (weight.sum(axis=0), second)):
        mean = float(of_end @ at)
        places.append(mean)
        # Pairs stand so far apart that one of them may have all of the likelihood.
        spreads.append(float(np.sqrt(of_end @ (at - mean) ** 2 + (at[1] - at[0]) ** 2 / 12)))
    out = -spreads[0], spreads[1]

    def ends(one: float, other: float) -> Floats:
        found = np.maximum(middle + axis * np.array([[one], [other]]), 0)
        return np.asarray(found / found.max(axis=1, keepdims=True))

    return EndMembers(ends(*places), (ends(places[0] + out[0], places[1]), ends(places[0], places[1] + out[1])))


def _log_normal(total: Floats, along: Floats, first: float, second: Floats) -> Floats:
    """Mean logarithm (m,) of how likely densities of this `total` (n,) and place `along` (n,) the mixtures are, where the amounts
    of pure pigments at `first` and `second` (m,) have jointly normal logarithms; up to a constant."""
    apart = second[:, None] - first
    share = np.clip((along - first) / apart, _TRACE, 1 - _TRACE)
    whole = np.log(total)
    logs = whole + np.log(1 - share), whole + np.log(share)
    away = [log - log.mean(axis=1, keepdims=True) for log in logs]
    spread = (away[0] ** 2).mean(axis=1) * (away[1] ** 2).mean(axis=1) - (away[0] * away[1]).mean(axis=1) ** 2
    return np.asarray(-0.5 * np.log(np.maximum(spread, _STILL)) - logs[0].mean(axis=1) - logs[1].mean(axis=1) - np.log(apart[:, 0]))


def _furthest(start: Floats, direction: Floats) -> float:
    """How far `start` (3,) may go along `direction` (3,) before one of its parts is gone."""
    falling = direction < -1e-9
    return float((start[falling] / -direction[falling]).min()) if falling.any() else 0.0


def unmix(density: Floats, ends: Floats) -> Floats:
    """Non-negative amounts (..., 2) of two end-members (2, 3) in densities (..., 3), by least squares."""
    gram = ends @ ends.T
    both = density @ ends.T
    solved = both @ np.linalg.inv(gram)
    single = np.maximum(both / np.diag(gram), 0)
    only_first = np.stack([single[..., 0], np.zeros_like(single[..., 0])], axis=-1)
    only_second = np.stack([np.zeros_like(single[..., 1]), single[..., 1]], axis=-1)
    return np.where(solved[..., 1:] < 0, only_first, np.where(solved[..., :1] < 0, only_second, solved))
