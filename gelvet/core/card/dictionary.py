"""The AprilTag 36h11 fiducials (E. Olson, ICRA 2011), as drawn and found by OpenCV."""

from functools import cache
from typing import Any

import numpy as np

from gelvet.core.arrays import Image

MODULES = 8  # six data modules and the black border on both sides


@cache
def april_36h11() -> Any:
    import cv2

    return cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11)


def tag_modules(tag_id: int) -> Image:
    """(8, 8) bool, True where the tag is black, upright."""
    import cv2

    picture = cv2.aruco.generateImageMarker(april_36h11(), tag_id, MODULES, borderBits=1)
    return np.asarray(picture) < 128
