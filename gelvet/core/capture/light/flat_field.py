"""Uneven light: a smooth low-order surface through bare paper all over the card, and what of the light bends faster."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.light.light_bands import LightBands, find_bands
from gelvet.core.capture.light.local_shading import LocalShading, fit_local_shading
from gelvet.core.capture.placing.geometry import sample_places
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.robust import SPREAD_OF_MEDIAN

CELL_MM, GAP_CELL_MM = 3.0, 1.5
_MINIMUM_CELLS = 12
# Light that bends fast (natural logarithm) strays no further than this, and from channel to channel by no more than that: paper that
# differs more is painted, stained or printed.
_NEAR, _OF_ONE_SHADE = 0.25, 0.02
_ROUNDS = 2


@dataclass(frozen=True, slots=True)
class FlatField:
    """`coefficients` (terms, 3) of the logarithm of the light in u, v (card coordinates scaled to -1 … 1); `paper` is the light (3,)
    of the bare paper that the surface went through, None where none was found; `frame` that of a window mask's own paper, if it lies
    on the card; `local` what comes to it in all channels alike, and `bands` what flickers across the picture."""

    coefficients: Floats
    size_mm: tuple[float, float]
    paper: Floats | None = None
    frame: Floats | None = None
    local: LocalShading | None = None
    bands: LightBands | None = None

    def at(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """Relative light (..., 3), about 1, at card points (...)."""
        light = self.smooth_at(x_mm, y_mm)
        for part in (self.local, self.bands):
            if part is not None:
                light = np.asarray(light * np.exp(part.at(x_mm, y_mm))[..., None])
        return light

    def smooth_at(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """The same of the low-order surface alone."""
        terms = _terms(np.asarray(x_mm), np.asarray(y_mm), self.size_mm)[..., : len(self.coefficients)]
        return np.exp(terms @ self.coefficients)

    def over(self, rect: Rect, shape: tuple[int, int]) -> Floats:
        """Relative light (h, w, 3) float32 over the samples of a rectified `rect`."""
        import cv2

        x, y = sample_places(rect, shape)
        c = np.zeros((6, 3))
        c[: len(self.coefficients)] = self.coefficients
        u, v = (2 * x / self.size_mm[0] - 1)[:, None], (2 * y / self.size_mm[1] - 1)[:, None]
        # Sums of one axis each, and the one term of both, channel by channel: far quicker than all terms at every sample.
        across, down, turned = (part.astype(np.float32) for part in (c[0] + c[1] * u + c[3] * u * u, c[2] * v + c[5] * v * v, c[4] * v))
        besides = [part.over(rect, shape).astype(np.float32) for part in (self.local, self.bands) if part is not None]
        planes = []
        for channel in range(3):
            logarithm = turned[:, channel, None] * u[:, 0].astype(np.float32)
            logarithm += across[:, channel]
            logarithm += down[:, channel, None]
            for part in besides:
                logarithm += part
            planes.append(np.exp(logarithm))
        return np.asarray(cv2.merge(planes))  # writing each into its place at once takes ten times as long

    def paper_at(self, cells: "PaperCells") -> Floats:
        """Light (n, 3) of bare `cells` by the low-order surface and its bands; the surface must have gone through paper."""
        level = np.tile(np.ones(3) if self.paper is None else self.paper, (len(cells.corners_mm), 1))
        if self.frame is not None and cells.on_frame is not None:
            level[cells.on_frame] = self.frame
        light = np.asarray(level * self.smooth_at(*cells.centres_mm.T))
        return light if self.bands is None else light * np.exp(self.bands.at(*cells.centres_mm.T))[:, None]

    def darkest(self) -> Rect:
        """The ninth of the card on which least light falls."""
        return min(self._ninths(), key=lambda part: float(self.at(*(np.array(v) for v in part.centre))[1]))

    def _ninths(self) -> list[Rect]:
        width, height = self.size_mm[0] / 3, self.size_mm[1] / 3
        return [Rect(i * width, j * height, width, height) for j in range(3) for i in range(3)]

    def fall_off(self) -> float:
        """Share of the light lost between the brightest and the darkest place of the card."""
        light = self.at(*self._all_over())[..., 1]
        return float(1 - light.min() / light.max())

    def change_of_colour(self) -> tuple[float, Rect]:
        """By what share red or blue changes against green from some place of the card to another, and the ninth of it that is furthest
        from the middle."""
        against = self._against_green(*self._all_over())
        usual = np.median(against, axis=(0, 1))

        def apart(part: Rect) -> float:
            return float(np.abs(self._against_green(*(np.array(v) for v in part.centre)) - usual).max())

        return float(np.expm1(np.ptp(against, axis=(0, 1)).max())), max(self._ninths(), key=apart)

    def _against_green(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """Natural logarithm (..., 2) of red and of blue light over green."""
        light = np.log(self.smooth_at(x_mm, y_mm))
        return np.asarray(light[..., ::2] - light[..., 1:2])

    def _all_over(self) -> tuple[Floats, Floats]:
        x, y = np.meshgrid(np.linspace(0, self.size_mm[0], 21), np.linspace(0, self.size_mm[1], 21))
        return x, y


def even_light(size_mm: tuple[float, float]) -> FlatField:
    return FlatField(np.zeros((1, 3)), size_mm)


def _terms(x: Floats, y: Floats, size_mm: tuple[float, float]) -> Floats:
    u, v = np.broadcast_arrays(2 * x / size_mm[0] - 1, 2 * y / size_mm[1] - 1)
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=-1)


@dataclass(frozen=True, slots=True)
class PaperCells:
    """Squares of the card that should be bare paper: corners (n, 2) and side in mm, which lie in `paper` zones (n,), and which on a
    window mask that lies over the painted paper: printer paper, of another shade."""

    corners_mm: Floats
    in_zone: Mask
    on_frame: Mask | None = None
    side_mm: float = CELL_MM

    @property
    def centres_mm(self) -> Floats:
        return self.corners_mm + self.side_mm / 2

    def only(self, kept: Mask) -> "PaperCells":
        """Those where `kept` (n,) is True."""
        on_frame = None if self.on_frame is None else self.on_frame[kept]
        return replace(self, corners_mm=self.corners_mm[kept], in_zone=self.in_zone[kept], on_frame=on_frame)


def paper_cells(layout: Layout) -> PaperCells:
    """Cells of a 3 mm grid that touch no tag, patch or painted zone, nor the edge of a window mask."""
    return _free_cells(layout, CELL_MM, from_paint_mm=1.5)


def gap_cells(layout: Layout) -> PaperCells:
    """Smaller cells that fit between the swatches too: there paint strays, and labels are written, but nothing else tells of the light
    in the middle of the card."""
    return _free_cells(layout, GAP_CELL_MM, from_paint_mm=0.6)


def _free_cells(layout: Layout, side: float, from_paint_mm: float) -> PaperCells:
    y, x = np.mgrid[0.8 : layout.size_mm[1] - side - 0.8 : side, 0.8 : layout.size_mm[0] - side - 0.8 : side]
    corners = np.column_stack([x.ravel(), y.ravel()])
    taken = [z.rect.inset(-from_paint_mm) for z in layout.zones if z.kind != "paper"]
    taken += [t.rect.inset(-0.8) for t in layout.tags] + [p.rect.inset(-0.6) for p in layout.patches]
    windows = [Rect(*window) for window in layout.extra.get("windows", [])]
    inside = _touches(corners, side, [w.inset(side + 0.5) for w in windows])
    on_frame = ~_touches(corners, side, [w.inset(-0.5) for w in windows])
    free = ~_touches(corners, side, taken) & (inside | on_frame)
    in_zone = _touches(corners, side, [z.rect for z in layout.zones_of("paper")])
    return PaperCells(corners[free], in_zone[free], on_frame[free] if windows else None, side)


def _touches(corners: Floats, side: float, rects: list[Rect]) -> Mask:
    touched = np.zeros(len(corners), dtype=bool)
    for rect in rects:
        touched |= (
            (corners[:, 0] < rect.right) & (corners[:, 0] + side > rect.x)
            & (corners[:, 1] < rect.bottom) & (corners[:, 1] + side > rect.y)
        )  # fmt: skip
    return touched


def fit_flat_field(
    cells: PaperCells,
    light: Floats,
    size_mm: tuple[float, float],
    gaps: tuple[PaperCells, Floats] | None = None,
    to_picture: Floats | None = None,
) -> FlatField:
    """Surface through the medians `light` (n, 3) of `cells`, and through those of the smaller `gaps` what of the light bends faster, or
    lies in bands along the rows or columns of the picture (`to_picture` as in `LightBands`); cells that are not bare paper are found and
    left out."""
    field = _smooth_field(cells, light, size_mm)
    if gaps is None or field.paper is None:
        return field
    if to_picture is not None:
        field = _with_bands(field, cells, light, gaps, to_picture)
    left, bare = _left_over(field, *gaps)
    return replace(field, local=fit_local_shading(gaps[0].centres_mm, left, bare, size_mm))


def _with_bands(field: FlatField, cells: PaperCells, light: Floats, gaps: tuple[PaperCells, Floats], to_picture: Floats) -> FlatField:
    """The surface beside the bands, if there are any: each bends the other, so that both are fitted again without it."""
    alone = field
    for _ in range(_ROUNDS):
        left, bare = _left_over(field, *gaps)
        if field.bands is not None:
            left = left + field.bands.at(*gaps[0].centres_mm.T)
        bands = find_bands(gaps[0].centres_mm, left, bare, to_picture)
        if bands is None:
            return alone
        field = replace(_smooth_field(cells, light / np.exp(bands.at(*cells.centres_mm.T))[:, None], field.size_mm), bands=bands)
    return field


def _smooth_field(cells: PaperCells, light: Floats, size_mm: tuple[float, float]) -> FlatField:
    """The low-order surface alone."""
    if len(cells.in_zone) < _MINIMUM_CELLS:
        return even_light(size_mm)
    centres, in_zone = cells.centres_mm, cells.in_zone
    usable = np.all(light > 1e-3, axis=1)
    if usable.sum() < _MINIMUM_CELLS:
        return even_light(size_mm)
    log_light = np.log(np.maximum(light, 1e-3))
    terms = _terms(centres[:, 0], centres[:, 1], size_mm)
    frame = cells.on_frame if cells.on_frame is not None and cells.on_frame.any() and not cells.on_frame.all() else None
    beside = np.zeros((len(terms), 0)) if frame is None else frame[:, None].astype(float)
    # Paper is the brightest thing that covers many cells; start from the sure zones where there are any.
    level = (
        np.median(log_light[in_zone & usable], axis=0) if (in_zone & usable).sum() >= 3 else np.percentile(log_light[usable], 75, axis=0)
    )
    keep = usable & (np.abs(log_light - level).max(axis=1) < 0.35)
    order = 3
    coefficients = np.zeros((1, 3))
    for step in range(6):
        if keep.sum() < _MINIMUM_CELLS:
            return even_light(size_mm)
        order = 6 if step >= 2 and keep.sum() >= 40 else 3
        weight = np.where(in_zone, 2.0, 1.0)[keep, None]
        design = np.concatenate([terms[:, :order], beside], axis=1)
        coefficients = np.linalg.lstsq(design[keep] * weight, log_light[keep] * weight, rcond=None)[0]
        residual = log_light - design @ coefficients
        spread = SPREAD_OF_MEDIAN * np.median(np.abs(residual[keep] - np.median(residual[keep], axis=0)), axis=0) + 0.002
        keep = usable & np.all(np.abs(residual) < 3.0 * spread, axis=1)
    # Only the shape is light; the level is the paper's colour.
    surface = coefficients[:order].copy()
    surface[0] = 0
    on_frame = None if frame is None else np.exp(coefficients[0] + coefficients[-1])
    return FlatField(surface, size_mm, np.exp(coefficients[0]), on_frame)


def _left_over(field: FlatField, cells: PaperCells, light: Floats) -> tuple[Floats, Mask]:
    """The logarithm (n,) of what the surface leaves over of the light (n, 3) of `cells`, and which of them are bare paper."""
    left = np.log(np.maximum(light, 1e-3) / field.paper_at(cells))
    bare = (np.abs(left).max(axis=1) < _NEAR) & (np.ptp(left, axis=1) < _OF_ONE_SHADE)
    return left.mean(axis=1), bare
