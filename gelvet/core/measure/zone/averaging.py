"""Fewer pixels, each the mean of those that it covers."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.values import ZonePixels


def averaged(fine: ZonePixels, pixels_per_mm: float) -> ZonePixels:
    """At `pixels_per_mm`, or as it is where that is no coarser. A pixel is good where all of it was."""
    if fine.pixels_per_mm <= pixels_per_mm:
        return fine
    import cv2

    share = pixels_per_mm / fine.pixels_per_mm
    size = tuple(max(1, round(side * share)) for side in fine.good.shape[::-1])
    xyz: Floats = np.asarray(cv2.resize(fine.xyz, size, interpolation=cv2.INTER_AREA), dtype=np.float32)
    good = fine.good
    whole = np.ones(size[::-1], bool) if good.all() else cv2.resize(good.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.999
    return ZonePixels(xyz=xyz, good=np.asarray(whole), pixels_per_mm=pixels_per_mm)
