"""The corners of a light sheet that lies on something darker, as a photograph shows it."""

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.reading.picture import Picture

_COARSE = 800.0
# A sheet covers at least this share of the image, and its outline is a quadrangle but for so much of its area.
_LEAST_SHARE, _QUADRANGLE_SHARE = 0.2, 0.97
_LIGHTER = 1.15


def find_corners(picture: Picture) -> tuple[tuple[float, float], ...] | None:
    """Corners (4, 2) in pixels, clockwise from the top-left; None where the sheet fills the image or no edge is seen."""
    import cv2

    height, width = picture.pixels.shape[:2]
    shrink = min(1.0, _COARSE / max(height, width))
    small = cv2.resize(picture.pixels, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    grey = np.asarray(cv2.GaussianBlur((small[..., 1] / picture.full_scale * 255).astype(np.uint8), (0, 0), 1.0))
    threshold, light = cv2.threshold(grey, 0, 1, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    # Swatches inside the sheet are dark too: only what lies outside all that is light is its surround.
    outlines, _ = cv2.findContours(light, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not outlines or threshold <= 0:
        return None
    hull = np.asarray(cv2.convexHull(max(outlines, key=cv2.contourArea)))
    area = float(cv2.contourArea(hull))
    if area < _LEAST_SHARE * grey.size or not _is_lighter_than_its_surround(grey, hull):
        return None
    quadrangle = _quadrangle(np.asarray(hull, dtype=np.float32), area)
    if quadrangle is None:
        return None
    corners = (quadrangle + 0.5) / shrink - 0.5
    return tuple((float(x), float(y)) for x, y in _clockwise_from_top_left(corners))


def _is_lighter_than_its_surround(grey: Image, hull: Image) -> bool:
    import cv2

    inside = cv2.drawContours(np.zeros(grey.shape, np.uint8), [hull], -1, 1, cv2.FILLED) > 0
    inside_rim = cv2.erode(inside.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    outside = cv2.dilate(inside.astype(np.uint8), np.ones((5, 5), np.uint8)) == 0
    # Edges at the image's border are no edges of the sheet.
    if outside.mean() < 0.01:
        return False
    return bool(np.percentile(grey[inside_rim], 75) > _LIGHTER * np.percentile(grey[outside], 75))


def _quadrangle(hull: Floats, area: float) -> Floats | None:
    """The hull's (n, 1, 2) four corners (4, 2), where four describe it."""
    import cv2

    length = cv2.arcLength(hull, True)
    for share in (0.01, 0.02, 0.03, 0.05):
        corners = cv2.approxPolyDP(hull, share * length, True)
        if len(corners) == 4 and float(cv2.contourArea(corners)) > _QUADRANGLE_SHARE * area:
            return np.asarray(corners, dtype=float).reshape(4, 2)
    return None


def _clockwise_from_top_left(corners: Floats) -> Floats:
    centre = corners.mean(axis=0)
    angle = np.arctan2(corners[:, 1] - centre[1], corners[:, 0] - centre[0])
    around = corners[np.argsort(angle)]
    return np.asarray(np.roll(around, -int(np.argmin(around.sum(axis=1))), axis=0))
