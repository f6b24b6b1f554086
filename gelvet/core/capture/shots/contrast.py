"""Whether two shots were stored with one contrast: a camera on automatic bends each picture as it likes, and patches show it."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Median light (3n,) of patches, and the same as it is stored, under the light that falls there; NaN where one is not seen.
PatchLight = tuple[Floats, Floats]

_EDGE_MM, _PIXELS_PER_MM = 1.0, 6.0
_LEAST_SEEN = 24
# Below this light, as it is stored, a bent curve is not known well enough; above it patches must still differ by so much (logarithm).
_KNOWN_ABOVE, _LEAST_RANGE, _BENT = 0.04, 1.0, 0.5

# Patches this many spreads off the common line mirror the lamp, or lie in a shadow.
_OUTLIER = 3.0
# Relief under a low lamp and light that strays in the lens leave it uncertain by some 0.008; what cameras on automatic do starts at 0.02.
MOST_ALIKE = 0.018


def other_contrast(file: ShotFile, flat_patches: PatchLight, patches: PatchLight, bent_in_the_dark: float) -> str | None:
    """In a sentence, that the colours of a shot whose evenly lit `patches` these are do not compare with the flat one's; None where
    they do, or too few patches tell."""
    (one, stored_one), (two, stored_two) = flat_patches, patches
    bent = bent_in_the_dark > _BENT
    seen = np.isfinite(one) & np.isfinite(two)
    known = seen & (np.minimum(stored_one, stored_two) > (_KNOWN_ABOVE if bent else 0.0))
    if seen.sum() < _LEAST_SEEN:
        return None
    if known.sum() < _LEAST_SEEN or np.ptp(np.log(one[known])) < _LEAST_RANGE:
        return (
            f"{file.title}: so much darker than the even shot that its colours cannot be compared, and were not used; give it more "
            "light or a longer exposure."
        )
    apart = contrast(one[known], two[known])
    if abs(apart) <= MOST_ALIKE:
        return None
    return (
        f"{file.title}: stored with {100 * abs(apart):.0f} % {'more' if apart > 0 else 'less'} contrast than the even shot, as a camera on "
        "automatic does; its colours were not used. Fix exposure, white balance and picture style before the first shot."
    )


def contrast(one: Floats, two: Floats) -> float:
    """By what share more (+) or less the logarithm of light differs between patches (n,) in a second shot than in a first."""
    return float(_common_line(one, two)[0])


def of_one_contrast(flat_patches: PatchLight, patches: PatchLight) -> PatchLight:
    """The second shot's patches with the contrast of the flat one's."""
    one, two = flat_patches[0], patches[0]
    seen = np.isfinite(one) & np.isfinite(two)
    if seen.sum() < _LEAST_SEEN or np.ptp(np.log(one[seen])) < _LEAST_RANGE:
        return patches
    return two * np.exp(-np.polyval(_common_line(one[seen], two[seen]), np.log(one))), patches[1]


def _common_line(one: Floats, two: Floats) -> Floats:
    """Slope and height (2,) of the logarithm of the gain over that of the light, but for outliers."""
    x, gain = np.log(one), np.log(two / one)
    off = np.abs(gain - np.polyval(np.polyfit(x, gain, 1), x))
    near = off <= _OUTLIER * SPREAD_OF_MEDIAN * np.median(off)
    return np.asarray(np.polyfit(x[near], gain[near], 1))


def patch_light(capture: CalibratedCapture) -> PatchLight:
    """Of all patches of the capture's target."""
    lights, stored = [], []
    for patch in capture.layout.patches:
        linear, good = capture.linear(patch.rect.inset(_EDGE_MM), _PIXELS_PER_MM)
        light = np.median(linear[good], axis=0) if good.mean() > 0.5 else np.full(3, np.nan)
        lights.append(np.maximum(light, 1e-5))
        stored.append(light * capture.calibration.light.at(*(np.array(v) for v in patch.rect.centre)))
    return np.array(lights, dtype=float).ravel(), np.array(stored, dtype=float).ravel()
