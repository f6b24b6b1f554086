"""Zones of known colours and pixels, for tests of what is made of them."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.values import ZoneColour, ZonePixels

PAPER = np.array([85.0, 88.0, 70.0])
SCALE = 12.0


def colour(xyz: Floats) -> ZoneColour:
    return ZoneColour(
        xyz=np.asarray(xyz, dtype=float), sd=np.zeros(3), u=0.3, u_lab=np.array([0.2, 0.3, 0.3]), u_spatial=0.1, used_fraction=1.0
    )


def pixels(xyz: Floats, scale: float = SCALE) -> ZonePixels:
    return ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(xyz.shape[:2], dtype=bool), pixels_per_mm=scale)
