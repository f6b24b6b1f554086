"""Whether another shot of a card was taken as the flat one was: seen through that one's colours, the reference patches tell."""

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.contrast import patch_light
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab

# A device in steady light agrees with itself to some 0.1; another one, or another lamp, starts at 2.
MOST_APART_DE = 0.7
_LEAST_SEEN = 8


def patches_apart(flat: CalibratedCapture, other: CalibratedCapture) -> float | None:
    """Median CIEDE2000 between the patches in `flat` and in `other`, which sees through the colours of `flat` and has the same
    bare paper; None where too few patches are seen in both."""
    one, two = (patch_light(capture)[0].reshape(-1, 3) for capture in (flat, other))
    seen = np.isfinite(one).all(axis=1) & np.isfinite(two).all(axis=1)
    if seen.sum() < _LEAST_SEEN:
        return None
    labs = [xyz_to_lab(flat.calibration.model.to_xyz(light[seen])) for light in (one, two)]
    return float(np.median(ciede2000(*labs)))
