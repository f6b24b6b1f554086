"""Calibrates a flat capture: tags, tone curve, even light, colour, residuals, tier and gates (measurement.md 1)."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask, channel_maximum, channel_minimum
from gelvet.core.capture import gates as g
from gelvet.core.capture.card_code import read_card_code
from gelvet.core.capture.colour_fit import ColourFit, PatchReadings, fit_colour, fit_tone
from gelvet.core.capture.colour_models import ColourModel
from gelvet.core.capture.fiducials import FoundTags, detect_tags, place_card, refine_tags
from gelvet.core.capture.flat_field import CELL_MM, FlatField, PaperCells, even_light, fit_flat_field, paper_cells
from gelvet.core.capture.geometry import Geometry, rectified_grid, rectify
from gelvet.core.capture.icc import ProfileCurves, read_profile
from gelvet.core.capture.reading import Picture
from gelvet.core.capture.tone_curve import ToneCurve, power_curve
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.errors import NothingMeasurable
from gelvet.core.formats.cgats import ReferenceTarget

Tier = Literal["target", "profile", "grey", "none"]
Progress = Callable[[str, float], None]
# Fewer patches than this cannot carry a tone curve and a colour model.
MINIMUM_PATCHES = 10
_OVERVIEW_PIXELS_PER_MM = 6.0
_SATURATED = 0.998


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """Everything that turns stored pixels into XYZ on card coordinates."""

    geometry: Geometry
    lookup: Floats  # (levels, 3) float32 linear light of each stored value
    light: FlatField
    model: ColourModel
    tier: Tier
    gates: tuple[g.Gate, ...]
    blur_px: float | None
    noise_l: Floats  # (n, 2): lightness of a flat patch and the SD of its pixels in L*
    fit: ColourFit | None = None

    @property
    def blur_mm(self) -> float | None:
        return None if self.blur_px is None else self.blur_px / self.geometry.pixels_per_mm

    def colour_uncertainty(self, lab: Floats) -> tuple[float, Floats]:
        """Standard uncertainty near `lab` (3,): CIEDE2000, and (3,) in L*, a*, b*."""
        if self.fit is None:
            return 5.0, np.array([2.0, 4.0, 4.0])
        de, parts = self.fit.uncertainty(lab)
        return de, np.maximum(parts, 0.05)


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibratedCapture:
    """A picture with its calibration: gives the linear colour of any part of the card."""

    picture: Picture
    layout: Layout
    calibration: Calibration

    def xyz(self, rect: Rect, pixels_per_mm: float | None = None) -> tuple[Floats, Mask]:
        """XYZ (h, w, 3) float32 of `rect`, rectified, and a mask (h, w) of what may be measured."""
        cal = self.calibration
        scale = pixels_per_mm or cal.geometry.pixels_per_mm
        linear, good = linear_part(self.picture, cal.geometry, rect, scale, cal.lookup)
        linear /= cal.light.over(rect, linear.shape[:2])
        return cal.model.to_xyz(linear).astype(np.float32), good


def linear_part(picture: Picture, geometry: Geometry, rect: Rect, pixels_per_mm: float, lookup: Floats) -> tuple[Floats, Mask]:
    """Linear device light (h, w, 3) float32 of `rect`, and where it is neither clipped, missing nor outside the image."""
    shape = rectified_grid(rect, pixels_per_mm)
    place = geometry.bounds_px(rect, picture.pixels.shape)
    if place is None:
        return np.zeros((*shape, 3), dtype=np.float32), np.zeros(shape, dtype=bool)
    part = picture.pixels[place]
    origin = (place[1].start, place[0].start)
    linear = rectify(_apply_lookup(part, lookup), origin, geometry, rect, pixels_per_mm)
    bad = (channel_maximum(part) >= _SATURATED * picture.full_scale) | (channel_minimum(part) == 0)
    if picture.finite is not None:
        bad |= ~picture.finite[place]
    if not bad.any():
        good = np.ones(shape, dtype=bool)
    else:
        good = rectify(bad.astype(np.uint8), origin, geometry, rect, pixels_per_mm, nearest=True) == 0
    if not geometry.holds(rect, picture.pixels.shape):
        inside = rectify(np.ones(part.shape[:2], dtype=np.uint8), origin, geometry, rect, pixels_per_mm, nearest=True)
        good &= _inside_image(geometry, rect, shape, picture.pixels.shape) & (inside > 0)
    return linear, good


def _inside_image(geometry: Geometry, rect: Rect, shape: tuple[int, int], image_shape: tuple[int, ...]) -> Mask:
    x = rect.x + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
    y = rect.y + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
    points = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    pixels = geometry.to_pixels(points)
    inside = (pixels >= 0).all(axis=1) & (pixels[:, 0] <= image_shape[1] - 1) & (pixels[:, 1] <= image_shape[0] - 1)
    return np.asarray(inside.reshape(shape))


def _apply_lookup(part: Image, lookup: Floats) -> Floats:
    import cv2

    if np.array_equal(lookup[:, 0], lookup[:, 1]) and np.array_equal(lookup[:, 0], lookup[:, 2]):
        return np.asarray(cv2.LUT(np.ascontiguousarray(part), np.ascontiguousarray(lookup[:, 0])))
    return np.stack([cv2.LUT(np.ascontiguousarray(part[..., c]), np.ascontiguousarray(lookup[:, c])) for c in range(3)], axis=-1)


def calibrate(
    picture: Picture,
    layout: Layout,
    reference: ReferenceTarget | None,
    *,
    state: str = "dry",
    progress: Progress = lambda stage, share: None,
) -> CalibratedCapture:
    """Calibrates one diffuse shot; raises NothingMeasurable where the card cannot be placed."""
    progress("finding the tags", 0.15)
    found = detect_tags(picture.pixels, layout)
    geometry, rejected = place_card(found, layout)
    refuse_other_card(picture, geometry, layout)
    profile = read_profile(picture.icc_profile) if picture.icc_profile else None
    device = _Device(picture, profile)
    rows = _known_patches(layout, reference, geometry, picture)

    progress("fitting the tone curve and colour", 0.25)
    tone = _first_tone(device, geometry, rows)
    found = _refine(device, tone, found, layout)
    geometry, rejected = place_card(found, layout)
    fit: ColourFit | None = None
    light = even_light(layout.size_mm)
    if len(rows.ids) >= MINIMUM_PATCHES:
        overview = _Overview(device, geometry, layout)
        light = overview.light(tone)
        fit = fit_colour(_read_patches(device, geometry, rows, light), tone)
        tone = fit.tone
        light = overview.light(tone)
    elif profile is not None:
        light = _Overview(device, geometry, layout).light(tone)
    progress("checking the capture", 0.35)
    tier, model = _tier_and_model(fit, profile)
    capture = CalibratedCapture(
        picture=picture,
        layout=layout,
        calibration=Calibration(
            geometry=geometry, lookup=device.lookup(tone), light=light, model=model, tier=tier, gates=(),
            blur_px=found.blur_px, noise_l=np.empty((0, 2)), fit=fit,
        ),
    )  # fmt: skip
    missing = sorted({t.id for t in layout.tags} - (set(found.corners) - set(rejected)))
    return _with_quality(capture, rows, missing, profile, state)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Known:
    """Patches that lie in the image and in the reference file."""

    ids: tuple[str, ...]
    rects: tuple[Rect, ...]
    xyz: Floats
    missing: list[str]
    wavelengths_nm: Floats | None = None
    spectra: Floats | None = None


def _known_patches(layout: Layout, reference: ReferenceTarget | None, geometry: Geometry, picture: Picture) -> _Known:
    ids, rects, found, missing = [], [], [], []
    for patch in layout.patches if reference else ():
        row = reference.row(patch.id) if reference else None
        if reference is None or row is None or not geometry.holds(patch.rect, picture.pixels.shape):
            missing.append(patch.id)
            continue
        ids.append(patch.id)
        rects.append(patch.rect)
        found.append(row)
    if reference is None:
        return _Known(ids=(), rects=(), xyz=np.empty((0, 3)), missing=[])
    return _Known(
        ids=tuple(ids), rects=tuple(rects), xyz=reference.xyz[found].reshape(-1, 3), missing=missing,
        wavelengths_nm=reference.wavelengths_nm, spectra=None if reference.spectra is None else reference.spectra[found],
    )  # fmt: skip


class _Device:
    """Stored values to linear light: an embedded profile's curves first, then the fitted tone curve."""

    def __init__(self, picture: Picture, profile: ProfileCurves | None) -> None:
        self.picture = picture
        self.profile = profile
        self.levels = int(picture.full_scale) + 1

    def first_code(self, code: Floats) -> Floats:
        return code if self.profile is None else self.profile.linearise(code)

    def lookup(self, tone: ToneCurve) -> Floats:
        """(levels, 3) float32."""
        code = np.repeat(np.linspace(0, 1, self.levels)[:, None], 3, axis=1)
        if self.profile is None:
            return np.repeat(tone.lookup(self.levels)[:, None], 3, axis=1)
        return tone.linearise(self.first_code(code)).astype(np.float32)

    def code_means(self, rect: Rect, geometry: Geometry) -> tuple[Floats, float]:
        """Mean code value (3,) over the inner part of a patch, outliers left out, and the clipped share."""
        inner = rect.inset(0.17 * min(rect.width, rect.height))
        scale = min(geometry.pixels_per_mm, 12.0)
        plain = np.repeat(np.linspace(0, 1, self.levels, dtype=np.float32)[:, None], 3, axis=1)
        values, good = linear_part(self.picture, geometry, inner, scale, plain)
        flat = self.first_code(values[good] if good.mean() > 0.3 else values.reshape(-1, 3))
        middle = np.median(flat, axis=0)
        spread = 1.4826 * np.median(np.abs(flat - middle), axis=0) + 1e-4
        keep = np.all(np.abs(flat - middle) < 3.5 * spread, axis=1)
        return flat[keep].mean(axis=0), float(1 - good.mean())


def _first_tone(device: _Device, geometry: Geometry, rows: _Known) -> ToneCurve:
    """A curve good enough to place edges in linear light."""
    if device.profile is not None:
        return power_curve(1.0)
    if len(rows.ids) < MINIMUM_PATCHES:
        return power_curve(2.2)
    readings = _read_patches(device, geometry, rows, None)
    return fit_tone(readings)


def _read_patches(device: _Device, geometry: Geometry, rows: _Known, light: FlatField | None) -> PatchReadings:
    codes = np.array([device.code_means(rect, geometry)[0] for rect in rows.rects])
    centres = np.array([rect.centre for rect in rows.rects])
    lit = np.ones_like(codes) if light is None else light.at(centres[:, 0], centres[:, 1])
    return PatchReadings(code=codes, xyz=rows.xyz, light=lit, wavelengths_nm=rows.wavelengths_nm, spectra=rows.spectra)


def _refine(device: _Device, tone: ToneCurve, found: FoundTags, layout: Layout) -> FoundTags:
    """Tags again, in linear light. Only green is needed."""
    import cv2

    green = np.ascontiguousarray(device.picture.pixels[..., 1])
    linear = cv2.LUT(green, np.ascontiguousarray(device.lookup(tone)[:, 1]))
    return refine_tags(np.asarray(linear), found, layout)


class _Overview:
    """The whole card, upright and coarse (area-averaged first, so that nothing aliases), for judging the light."""

    def __init__(self, device: _Device, geometry: Geometry, layout: Layout) -> None:
        import cv2

        factor = max(1, int(geometry.pixels_per_mm / _OVERVIEW_PIXELS_PER_MM))
        pixels = device.picture.pixels
        height, width = pixels.shape[0] // factor * factor, pixels.shape[1] // factor * factor
        small = cv2.resize(pixels[:height, :width], (width // factor, height // factor), interpolation=cv2.INTER_AREA)
        shrink = np.array([[1 / factor, 0, (0.5 / factor) - 0.5], [0, 1 / factor, (0.5 / factor) - 0.5], [0, 0, 1]])
        coarse = Geometry(matrix=shrink @ geometry.matrix, size_mm=layout.size_mm, reprojection_px=0)
        self._card = rectify(small, (0, 0), coarse, Rect(0, 0, *layout.size_mm), _OVERVIEW_PIXELS_PER_MM)
        cells = paper_cells(layout)
        # Paper that the picture does not show cannot tell of its light.
        places = geometry.to_pixels(cells.centres_mm)
        shown = (places > 0).all(axis=1) & (places[:, 0] < pixels.shape[1]) & (places[:, 1] < pixels.shape[0])
        self._cells = PaperCells(cells.corners_mm[shown], cells.in_zone[shown])
        self._device, self._size_mm = device, layout.size_mm

    def light(self, tone: ToneCurve) -> FlatField:
        """The light's surface with the device linearised by `tone`."""
        linear = _apply_lookup(self._card, self._device.lookup(tone))
        side = int(CELL_MM * _OVERVIEW_PIXELS_PER_MM)
        starts = (self._cells.corners_mm * _OVERVIEW_PIXELS_PER_MM).astype(int)
        if len(starts) == 0:
            return even_light(self._size_mm)
        blocks = np.stack([linear[y : y + side, x : x + side].reshape(-1, 3) for x, y in starts])
        return fit_flat_field(self._cells, np.median(blocks, axis=1), self._size_mm)


def refuse_other_card(picture: Picture, geometry: Geometry, layout: Layout) -> None:
    """The printed code, where one is read, must name this card; raises NothingMeasurable."""
    import cv2

    scale = min(geometry.pixels_per_mm, 8.0)
    # Whole-card search at 8 px/mm: the code may have been printed anywhere.
    factor = max(1, int(geometry.pixels_per_mm / scale))
    green = picture.pixels[::factor, ::factor, 1]
    grey = green if green.dtype == np.uint8 else cv2.convertScaleAbs(np.ascontiguousarray(green), alpha=1 / 257)
    card_id = read_card_code(np.asarray(grey))
    if card_id is not None and card_id != layout.card_id:
        raise NothingMeasurable(
            f"The image shows card {card_id}, and the layout is that of card {layout.card_id}; choose the matching layout."
        )


def _tier_and_model(fit: ColourFit | None, profile: ProfileCurves | None) -> tuple[Tier, ColourModel]:
    if fit is not None:
        return "target", fit.model
    if profile is not None:
        return "profile", profile.model
    return "none", ColourModel("linear", np.eye(3) * 100)


def _with_quality(
    capture: CalibratedCapture, rows: _Known, missing_tags: list[int], profile: ProfileCurves | None, state: str
) -> CalibratedCapture:
    """The same capture with noise and gates filled in."""
    from dataclasses import replace

    cal = capture.calibration
    noise, patch_clipped = _patch_noise(capture, rows)
    shade, paper_clipped = _paper_quality(capture)
    gates = [g.tags_gate(missing_tags)]
    if cal.tier == "profile" and profile is not None:
        worth = "its tables are only approximated" if profile.misfit_de00 > 1 else "colours rest on the embedded profile alone"
        gates.append(
            g.Gate("reference", "warn", f"No reference values are known for this card, so {worth}; add the target's CGATS file.", 0)
        )
    else:
        gates.append(g.reference_gate(rows.missing, len(rows.ids) if cal.fit else 0))
    gates += [g.resolution_gate(cal.geometry.pixels_per_mm), g.focus_gate(cal.blur_mm)]
    if cal.fit is not None:
        gates.append(g.residual_gate(float(cal.fit.cross_validated_de00.mean()), float(np.percentile(cal.fit.cross_validated_de00, 95))))
    gates += [
        g.clipping_gate(paper_clipped, patch_clipped),
        g.noise_gate(float(np.median(noise[:, 1])) if len(noise) else 0.0),
        g.fall_off_gate(cal.light.fall_off()),
        g.tilt_gate(cal.geometry.tilt_deg),
        g.paper_shade_gate(shade),
        g.wet_gate(state),
    ]
    return replace(capture, calibration=replace(cal, noise_l=noise, gates=tuple(gates)))


def _patch_noise(capture: CalibratedCapture, rows: _Known) -> tuple[Floats, float]:
    """Pixel noise in L* of flat patches, from differences of neighbours, and the clipped share of the worst patch."""
    found, clipped = [], 0.0
    for rect in rows.rects:
        xyz, good = capture.xyz(rect.inset(0.2 * min(rect.width, rect.height)))
        lab = xyz_to_lab(xyz)[..., 0]
        second = lab[:, 2:] - 2 * lab[:, 1:-1] + lab[:, :-2]
        found.append((float(np.median(lab)), float(1.4826 * np.median(np.abs(second)) / np.sqrt(6))))
        clipped = max(clipped, float(1 - good.mean()))
    return np.array(found).reshape(-1, 2), clipped


def _paper_quality(capture: CalibratedCapture) -> tuple[float, float]:
    """Largest colour difference (ΔE*ab) of a paper zone from the middle one, and the clipped share of bare paper."""
    labs, clipped = [], 0.0
    shown = capture.picture.pixels.shape
    for zone in (z for z in capture.layout.zones_of("paper") if capture.calibration.geometry.holds(z.rect, shown)):
        xyz, good = capture.xyz(zone.rect.inset(0.15 * min(zone.rect.width, zone.rect.height)), 6.0)
        clipped = max(clipped, float(1 - good.mean()))
        labs.append(xyz_to_lab(np.median(xyz.reshape(-1, 3), axis=0).astype(float)))
    if len(labs) < 2:
        return 0.0, clipped
    middle = np.median(labs, axis=0)
    return float(np.linalg.norm(np.array(labs) - middle, axis=1).max()), clipped
