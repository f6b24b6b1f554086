"""A sheet without tags: its four corners, pulled by hand or found, say where it lies."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.card.layout import Layout, Placement
from gelvet.core.errors import NothingMeasurable

# Corners that enclose less than this share of the image are a slip of the hand.
_SMALLEST_SHARE = 0.005


def whole_image(width: int, height: int) -> tuple[tuple[float, float], ...]:
    """Corners of the sheet that fills the image, at the outer edges of its pixels."""
    return ((-0.5, -0.5), (width - 0.5, -0.5), (width - 0.5, height - 0.5), (-0.5, height - 0.5))


def place_by_corners(placement: Placement, layout: Layout, shape: tuple[int, ...]) -> Geometry:
    """Where the sheet lies in the image of `shape` (h, w, …); raises NothingMeasurable for another image than its own."""
    size = (shape[1], shape[0])
    if size != placement.image_px:
        asked = " × ".join(str(v) for v in placement.image_px)
        raise NothingMeasurable(
            f"The corners of sheet {layout.card_id} were set in an image of {asked} pixels and this one has {size[0]} × {size[1]}; "
            "find the swatches of this image anew."
        )
    corners = np.array(placement.corners_px)
    if _area(corners) < _SMALLEST_SHARE * size[0] * size[1]:
        raise NothingMeasurable(f"The corners of sheet {layout.card_id} enclose next to nothing; pull them to the sheet's corners.")
    return Geometry(matrix=corners_to_matrix(corners, layout.size_mm), size_mm=layout.size_mm, reprojection_px=0.0)


def corners_to_matrix(corners: Floats, size_mm: tuple[float, float]) -> Floats:
    """Homography (3, 3) from the sheet's millimetres to the image, by its corners (4, 2)."""
    import cv2

    width, height = size_mm
    sheet = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=np.float32)
    return np.asarray(cv2.getPerspectiveTransform(sheet, corners.astype(np.float32)), dtype=float)


def _area(corners: Floats) -> float:
    x, y = corners.T
    return float(abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2)
