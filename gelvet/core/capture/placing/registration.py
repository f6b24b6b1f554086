"""How well two shots of one card lie on each other, measured on the card itself and not on the tags that placed them."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.placing.geometry import Geometry, rectify
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Rect

_PIXELS_PER_MM = 6.0
_WINDOWS = (3, 2)
# Peaks of the correlation lower than this are chance.
_CLEAR_PEAK = 0.05


def registration_mm(first: tuple[Picture, Geometry], second: tuple[Picture, Geometry], layout: Layout) -> float | None:
    """Largest shift (mm) between the shots over six windows of the card; None where no window has anything to hold on to.

    By the peak of the phase correlation of edges: light from another side changes shading, hardly the edges.
    """
    import cv2

    width, height = layout.size_mm[0] / _WINDOWS[0], layout.size_mm[1] / _WINDOWS[1]
    shifts = []
    for column in range(_WINDOWS[0]):
        for row in range(_WINDOWS[1]):
            window = Rect(column * width, row * height, width, height)
            views = [_edges(picture, geometry, window) for picture, geometry in (first, second)]
            if views[0] is None or views[1] is None:
                continue
            hann = cv2.createHanningWindow(views[0].shape[::-1], cv2.CV_32F)
            (dx, dy), peak = cv2.phaseCorrelate(views[0], views[1], hann)
            if peak > _CLEAR_PEAK:
                shifts.append(float(np.hypot(dx, dy)) / _PIXELS_PER_MM)
    return max(shifts) if shifts else None


def _edges(picture: Picture, geometry: Geometry, window: Rect) -> Floats | None:
    """Steepness (h, w) float32 of the logarithm of green code values, upright; None where the image does not show it."""
    import cv2

    if not geometry.holds(window, picture.pixels.shape):
        return None
    place = geometry.bounds_px(window, picture.pixels.shape)
    if place is None:
        return None
    green = np.ascontiguousarray(picture.pixels[place][..., 1])
    # Averaged before it is sampled coarsely, so that grain does not alias.
    blurred = cv2.GaussianBlur(green.astype(np.float32), (0, 0), max(0.4 * geometry.pixels_per_mm / _PIXELS_PER_MM, 0.3))
    seen = rectify(blurred, (place[1].start, place[0].start), geometry, window, _PIXELS_PER_MM)
    light = np.log(np.maximum(seen, 0) / picture.full_scale + 0.02)
    return np.asarray(cv2.magnitude(cv2.Sobel(light, cv2.CV_32F, 1, 0), cv2.Sobel(light, cv2.CV_32F, 0, 1)))
