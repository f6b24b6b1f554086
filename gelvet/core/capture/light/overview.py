"""The whole card, upright and coarse, for judging the light."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.tone_curve import ToneCurve
from gelvet.core.capture.device import Device, apply_lookup
from gelvet.core.capture.light.flat_field import FlatField, PaperCells, even_light, fit_flat_field, gap_cells, paper_cells
from gelvet.core.capture.light.odd_light import OddPaper, odd_paper
from gelvet.core.capture.placing.geometry import Geometry, rectify
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Rect

_OVERVIEW_PIXELS_PER_MM = 6.0


class Overview:
    """The whole card, upright and coarse (area-averaged first, so that nothing aliases), for judging the light."""

    def __init__(self, device: Device, geometry: Geometry, layout: Layout) -> None:
        import cv2

        factor = max(1, int(geometry.pixels_per_mm / _OVERVIEW_PIXELS_PER_MM))
        pixels = device.picture.pixels
        height, width = pixels.shape[0] // factor * factor, pixels.shape[1] // factor * factor
        small = cv2.resize(pixels[:height, :width], (width // factor, height // factor), interpolation=cv2.INTER_AREA)
        self._card = rectify(small, (0, 0), geometry.reduced(factor), Rect(0, 0, *layout.size_mm), _OVERVIEW_PIXELS_PER_MM)
        self._cells, self._gaps = (_shown(cells, geometry, (width, height)) for cells in (paper_cells(layout), gap_cells(layout)))
        self._device, self._size_mm = device, layout.size_mm
        self._to_picture = np.diag([1 / geometry.pixels_per_mm, 1 / geometry.pixels_per_mm, 1]) @ geometry.matrix

    @classmethod
    def of_linear(cls, picture: Picture, lookup: Floats, geometry: Geometry, layout: Layout) -> FlatField:
        """The light's surface of a shot whose linear `lookup` (levels, 3) is known already."""
        return cls(Device(picture, None), geometry, layout).light_by(lookup)

    def light(self, tone: ToneCurve) -> FlatField:
        """The light's surface with the device linearised by `tone`."""
        return self.light_by(self._device.lookup(tone))

    def paper(self, tone: ToneCurve) -> tuple[FlatField, OddPaper]:
        """The same, and where bare paper does not follow it."""
        return self.paper_by(self._device.lookup(tone))

    def light_by(self, lookup: Floats) -> FlatField:
        """The light's surface with stored values made linear by `lookup` (levels, 3)."""
        return self.paper_by(lookup)[0]

    def paper_by(self, lookup: Floats) -> tuple[FlatField, OddPaper]:
        """The same, and where bare paper does not follow it."""
        if len(self._cells.corners_mm) == 0:
            return even_light(self._size_mm), OddPaper()
        linear = apply_lookup(self._card, lookup)
        light = _medians(linear, self._cells)
        field = fit_flat_field(self._cells, light, self._size_mm, (self._gaps, _medians(linear, self._gaps)), self._to_picture)
        return field, odd_paper(self._cells, light, field)


def _shown(cells: PaperCells, geometry: Geometry, size: tuple[int, int]) -> PaperCells:
    """Those that the picture shows: others cannot tell of their light."""
    places = geometry.to_pixels(cells.centres_mm)
    return cells.only(np.all((places > 0) & (places < size), axis=1))


def _medians(linear: Floats, cells: PaperCells) -> Floats:
    """Light (n, 3) in the middle of each cell's pixels."""
    side = int(cells.side_mm * _OVERVIEW_PIXELS_PER_MM)
    starts = (cells.corners_mm * _OVERVIEW_PIXELS_PER_MM).astype(int)
    if len(starts) == 0:
        return np.empty((0, 3))
    return np.median(np.stack([linear[y : y + side, x : x + side].reshape(-1, 3) for x, y in starts]), axis=1)
