"""Where the card lies in the image: a homography from card millimetres to pixel coordinates."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.card.layout import Rect

# Above this resolution the grain band (to 3 cycles/mm) is far from the pixel limit and cubic sampling keeps it whole.
_CUBIC_IS_ENOUGH_PIXELS_PER_MM = 18.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Geometry:
    """`matrix` (3, 3) takes card mm to image px, pixel centres at whole numbers."""

    matrix: Floats
    size_mm: tuple[float, float]
    reprojection_px: float

    @property
    def pixels_per_mm(self) -> float:
        """Mean scale at the card's centre."""
        return float(np.sqrt(abs(np.linalg.det(self._jacobian()))))

    @property
    def tilt_deg(self) -> float:
        """Tilt of the card out of the image plane, from the foreshortening at its centre."""
        singular = np.linalg.svd(self._jacobian(), compute_uv=False)
        return float(np.degrees(np.arccos(np.clip(singular[1] / singular[0], 0, 1))))

    @property
    def rotation_deg(self) -> float:
        """Direction of the card's x axis in the image, -180 to 180."""
        jacobian = self._jacobian()
        return float(np.degrees(np.arctan2(jacobian[1, 0], jacobian[0, 0])))

    def to_pixels(self, points_mm: Floats) -> Floats:
        """Image coordinates (n, 2) of card points (n, 2)."""
        homogeneous = np.column_stack([points_mm, np.ones(len(points_mm))]) @ self.matrix.T
        return np.asarray(homogeneous[:, :2] / homogeneous[:, 2:])

    def _jacobian(self) -> Floats:
        x, y = self.size_mm[0] / 2, self.size_mm[1] / 2
        step = self.to_pixels(np.array([[x, y], [x + 0.5, y], [x - 0.5, y], [x, y + 0.5], [x, y - 0.5]]))
        return np.column_stack([step[1] - step[2], step[3] - step[4]])

    def bounds_px(self, rect: Rect, shape: tuple[int, ...], margin: int = 4) -> tuple[slice, slice] | None:
        """Rows and columns of the image that hold `rect`; None where it lies outside."""
        corners = np.array([[rect.x, rect.y], [rect.right, rect.y], [rect.right, rect.bottom], [rect.x, rect.bottom]])
        pixels = self.to_pixels(corners)
        low = np.maximum(np.floor(pixels.min(axis=0)).astype(int) - margin, 0)
        high = np.minimum(np.ceil(pixels.max(axis=0)).astype(int) + margin + 1, [shape[1], shape[0]])
        if low[0] >= high[0] or low[1] >= high[1]:
            return None
        return slice(int(low[1]), int(high[1])), slice(int(low[0]), int(high[0]))

    def holds(self, rect: Rect, shape: tuple[int, ...]) -> bool:
        """Whether all of `rect` lies inside the image."""
        corners = np.array([[rect.x, rect.y], [rect.right, rect.y], [rect.right, rect.bottom], [rect.x, rect.bottom]])
        pixels = self.to_pixels(corners)
        return bool((pixels.min() >= -0.5) and (pixels[:, 0].max() <= shape[1] - 0.5) and (pixels[:, 1].max() <= shape[0] - 0.5))


def rectified_grid(rect: Rect, pixels_per_mm: float) -> tuple[int, int]:
    """Height and width in samples of `rect` at `pixels_per_mm`."""
    return max(1, round(rect.height * pixels_per_mm)), max(1, round(rect.width * pixels_per_mm))


def rectify(
    image: Image, origin_px: tuple[int, int], geometry: Geometry, rect: Rect, pixels_per_mm: float, *, nearest: bool = False
) -> Image:
    """`rect` of the card, upright, (h, w, …) at `pixels_per_mm`; `image` is the part whose first pixel is `origin_px` (x, y)."""
    import cv2

    height, width = rectified_grid(rect, pixels_per_mm)
    step_x, step_y = rect.width / width, rect.height / height
    sample_to_mm = np.array([[step_x, 0, rect.x + step_x / 2], [0, step_y, rect.y + step_y / 2], [0, 0, 1]])
    shift = np.array([[1, 0, -origin_px[0]], [0, 1, -origin_px[1]], [0, 0, 1]], dtype=float)
    matrix = shift @ geometry.matrix @ sample_to_mm
    fine = geometry.pixels_per_mm < _CUBIC_IS_ENOUGH_PIXELS_PER_MM
    method = cv2.INTER_NEAREST if nearest else cv2.INTER_LANCZOS4 if fine else cv2.INTER_CUBIC
    return np.asarray(
        cv2.warpPerspective(image, matrix, (width, height), flags=method | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
    )
