"""Where the card lies in the image: a homography from card millimetres to pixel coordinates, and the lens's bend."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.card.layout import Rect

# Above this resolution the grain band (to 3 cycles/mm) is far from the pixel limit and cubic sampling keeps it whole.
_CUBIC_IS_ENOUGH_PIXELS_PER_MM = 18.0


# Maps through a lens are worked out at every eighth sample and interpolated: exact to a thousandth of a pixel.
_MAP_STEP = 8


@dataclass(frozen=True, slots=True)
class Lens:
    """Distortion: a point at `o` from `centre_px`, in units of `radius_px`, is seen at o (1 + bend |o|² + bend_fourth |o|⁴ + 2 askew·o)
    + askew |o|².

    The first terms of D. C. Brown, Photogrammetric Engineering 37 (1971) 855-866. `radius_px` is half the image's diagonal. `askew`
    is of lenses that sit so, and of pictures that were cut, whose lens's centre is not theirs.
    """

    bend: float
    centre_px: tuple[float, float]
    radius_px: float
    bend_fourth: float = 0.0
    askew: tuple[float, float] = (0.0, 0.0)

    def distort(self, points: Floats) -> Floats:
        """Where the lens puts ideal image points (..., 2)."""
        offset = points - np.array(self.centre_px)
        return points + displacement(offset, self.radius_px, np.array([self.bend, self.bend_fourth, *self.askew]))

    def reduced(self, factor: int) -> "Lens":
        """The same lens for the image reduced by a whole `factor`, pixels averaged."""
        x, y = (((c + 0.5) / factor) - 0.5 for c in self.centre_px)
        return replace(self, centre_px=(x, y), radius_px=self.radius_px / factor)


def displacement(offset: Floats, radius_px: float, terms: Floats) -> Floats:
    """How far (..., n, 2) px a lens moves points at `offset` (..., n, 2) from its centre; `terms` (..., 4) are its bend, the fourth
    power's, and how askew it sits."""
    bend, fourth, askew = terms[..., :1, None], terms[..., 1:2, None], terms[..., None, 2:]
    radius2 = (offset * offset).sum(axis=-1, keepdims=True) / radius_px**2
    moved = offset * (radius2 * (bend + fourth * radius2))
    if askew.any():
        moved = moved + offset * (2 * (offset * askew).sum(axis=-1, keepdims=True) / radius_px) + askew * (radius2 * radius_px)
    return np.asarray(moved)


@dataclass(frozen=True, slots=True)
class Fringes:
    """What moves red and blue off green: matrices (3, 3) on image px, hardly more than ones."""

    red: Floats
    blue: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Geometry:
    """`matrix` (3, 3) takes card mm to ideal image px, pixel centres at whole numbers; `lens` bends these. They hold for
    green, and for red and blue too where there are no `fringes`."""

    matrix: Floats
    size_mm: tuple[float, float]
    reprojection_px: float
    lens: Lens | None = None
    fringes: Fringes | None = None

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
        ideal = np.asarray(homogeneous[:, :2] / homogeneous[:, 2:])
        return ideal if self.lens is None else self.lens.distort(ideal)

    @property
    def fringes_px(self) -> tuple[float, float]:
        """The furthest that red and blue lie off green on the card."""
        width, height = self.size_mm
        corners = np.array([[0, 0], [width, 0], [width, height], [0, height]])
        red, blue = (float(np.linalg.norm(off, axis=1).max()) for off in self._off_green(corners))
        return red, blue

    def fringes_at(self, place_mm: tuple[float, float]) -> tuple[tuple[float, float], tuple[float, float]]:
        """How far (x, y) red and blue lie off green at a place of the card, along its sides, in px of the picture."""
        turn = np.radians(self.rotation_deg)
        x, y = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        red, blue = ((float(off[0] @ x), float(off[0] @ y)) for off in self._off_green(np.array([place_mm])))
        return red, blue

    def _off_green(self, points_mm: Floats) -> tuple[Floats, Floats]:
        """How far (n, 2) px red and blue lie off green at card points (n, 2)."""
        red, green, blue = (self.of_channel(c).to_pixels(points_mm) for c in range(3))
        return red - green, blue - green

    def of_channel(self, channel: int) -> "Geometry":
        """Where the card lies in red (0), green (1) or blue (2). A fringe is too small to mind that the lens bends it too."""
        if self.fringes is None or channel == 1:
            return replace(self, fringes=None)
        return replace(self, matrix=(self.fringes.red if channel == 0 else self.fringes.blue) @ self.matrix, fringes=None)

    def reduced(self, factor: int) -> "Geometry":
        """The same card in the image reduced by a whole `factor`, pixels averaged; fringes are too small to matter there."""
        shift = 0.5 / factor - 0.5
        shrink = np.array([[1 / factor, 0, shift], [0, 1 / factor, shift], [0, 0, 1]])
        lens = None if self.lens is None else self.lens.reduced(factor)
        return Geometry(matrix=shrink @ self.matrix, size_mm=self.size_mm, reprojection_px=self.reprojection_px / factor, lens=lens)

    def _jacobian(self) -> Floats:
        x, y = self.size_mm[0] / 2, self.size_mm[1] / 2
        step = self.to_pixels(np.array([[x, y], [x + 0.5, y], [x - 0.5, y], [x, y + 0.5], [x, y - 0.5]]))
        return np.column_stack([step[1] - step[2], step[3] - step[4]])

    def bounds_px(self, rect: Rect, shape: tuple[int, ...], margin: int = 4) -> tuple[slice, slice] | None:
        """Rows and columns of the image that hold `rect`; None where it lies outside."""
        pixels = self.to_pixels(_outline(rect))
        low = np.maximum(np.floor(pixels.min(axis=0)).astype(int) - margin, 0)
        high = np.minimum(np.ceil(pixels.max(axis=0)).astype(int) + margin + 1, [shape[1], shape[0]])
        if low[0] >= high[0] or low[1] >= high[1]:
            return None
        return slice(int(low[1]), int(high[1])), slice(int(low[0]), int(high[0]))

    def holds(self, rect: Rect, shape: tuple[int, ...]) -> bool:
        """Whether all of `rect` lies inside the image."""
        pixels = self.to_pixels(_outline(rect))
        return bool((pixels.min() >= -0.5) and (pixels[:, 0].max() <= shape[1] - 0.5) and (pixels[:, 1].max() <= shape[0] - 0.5))


def _outline(rect: Rect) -> Floats:
    """Corners and mid-sides (8, 2): a bent side bulges in its middle."""
    x, y = (rect.x, rect.centre[0], rect.right), (rect.y, rect.centre[1], rect.bottom)
    return np.array([[a, b] for a in x for b in y if (a, b) != rect.centre])


def rectified_grid(rect: Rect, pixels_per_mm: float) -> tuple[int, int]:
    """Height and width in samples of `rect` at `pixels_per_mm`."""
    return max(1, round(rect.height * pixels_per_mm)), max(1, round(rect.width * pixels_per_mm))


def sample_places(rect: Rect, shape: tuple[int, int]) -> tuple[Floats, Floats]:
    """Card mm (w,) across and (h,) down of the samples (h, w) of a rectified `rect`."""
    height, width = shape
    return rect.x + (np.arange(width) + 0.5) * rect.width / width, rect.y + (np.arange(height) + 0.5) * rect.height / height


def rectify(
    image: Image, origin_px: tuple[int, int], geometry: Geometry, rect: Rect, pixels_per_mm: float, *, nearest: bool = False
) -> Image:
    """`rect` of the card, upright, (h, w, …) at `pixels_per_mm`; `image` is the part whose first pixel is `origin_px` (x, y)."""
    import cv2

    height, width = rectified_grid(rect, pixels_per_mm)
    fine = geometry.pixels_per_mm < _CUBIC_IS_ENOUGH_PIXELS_PER_MM
    method = cv2.INTER_NEAREST if nearest else cv2.INTER_LANCZOS4 if fine else cv2.INTER_CUBIC
    if geometry.lens is not None:
        columns, rows = _map(geometry, rect, (height, width), origin_px)
        return np.asarray(cv2.remap(image, columns, rows, method, borderMode=cv2.BORDER_REPLICATE))
    step_x, step_y = rect.width / width, rect.height / height
    sample_to_mm = np.array([[step_x, 0, rect.x + step_x / 2], [0, step_y, rect.y + step_y / 2], [0, 0, 1]])
    shift = np.array([[1, 0, -origin_px[0]], [0, 1, -origin_px[1]], [0, 0, 1]], dtype=float)
    matrix = shift @ geometry.matrix @ sample_to_mm
    return np.asarray(
        cv2.warpPerspective(image, matrix, (width, height), flags=method | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
    )


def _map(geometry: Geometry, rect: Rect, shape: tuple[int, int], origin_px: tuple[int, int]) -> tuple[Floats, Floats]:
    """Image column and row (h, w) float32 of each sample of the rectified `rect`, counted from `origin_px`."""
    import cv2

    # Coarse nodes at the middles of blocks of samples, one block more on each side, so that all samples lie between nodes.
    counts = [-(-side // _MAP_STEP) + 2 for side in shape]
    y, x = ((np.arange(n) - 0.5) * _MAP_STEP * size / side for n, size, side in zip(counts, (rect.height, rect.width), shape, strict=True))
    nodes = np.stack(np.meshgrid(rect.x + x, rect.y + y), axis=-1)
    places = geometry.to_pixels(nodes.reshape(-1, 2)).reshape(nodes.shape) - np.array(origin_px)
    whole = cv2.resize(places.astype(np.float32), (counts[1] * _MAP_STEP, counts[0] * _MAP_STEP), interpolation=cv2.INTER_LINEAR)
    part = whole[_MAP_STEP : _MAP_STEP + shape[0], _MAP_STEP : _MAP_STEP + shape[1]]
    return np.ascontiguousarray(part[..., 0]), np.ascontiguousarray(part[..., 1])
