"""A device's stored values: to linear light, over any part of the card, and as readings of the reference patches."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask, channel_maximum, channel_minimum
from gelvet.core.capture.colour.icc import ProfileCurves
from gelvet.core.capture.colour.readings import PatchReadings
from gelvet.core.capture.colour.tone_curve import ToneCurve
from gelvet.core.capture.detail.sharpening import Sharpening, lookup_of_undone
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.placing.geometry import Geometry, rectified_grid, rectify, sample_places
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Values from this share of the largest on are clipped.
SATURATED = 0.998
# A channel is cut off at black where so much of the mm around, or of so many pixels each way, is stored as nothing.
_AROUND_BLACK_MM, _FEWEST_AROUND, _BLACK_SHARE = 1.0, 5, 0.2
_MARGIN_PX = 4
# A patch's pixels, in the order of each channel, are stood for by the means of so many parts. What stands out of a patch is its print
# where in each of so many parts each way it is at least so common, and as common as so much of the whole.
_PLACES, _PARTS, _OFTEN, _EVERYWHERE = 7, 3, 0.02, 0.35


class Device:
    """Stored values to linear light: an embedded profile's curves first, then the fitted tone curve. Where it is known how the device
    sharpens, its readings of patches are without that."""

    def __init__(self, picture: Picture, profile: ProfileCurves | None, sharpening: Sharpening | None = None) -> None:
        self.picture = picture
        self.profile = profile
        self.sharpening = sharpening
        self.levels = int(picture.full_scale) + 1
        self._as_stored = np.repeat(np.linspace(0, 1, self.levels, dtype=np.float32)[:, None], 3, axis=1)

    def first_code(self, code: Floats) -> Floats:
        return code if self.profile is None else self.profile.linearise(code)

    def lookup(self, tone: ToneCurve) -> Floats:
        """(levels, 3) float32."""
        if self.profile is None:
            return tone.lookup(self.levels)
        code = np.repeat(np.linspace(0, 1, self.levels)[:, None], 3, axis=1)
        return tone.linearise(self.first_code(code)).astype(np.float32)

    def codes(self, rect: Rect, geometry: Geometry) -> tuple[Floats, Floats]:
        """Mean code value (3,) over the inner part of a patch, foreign matter left out, and departures (places, 3) from it that stand
        for all of its pixels."""
        inner = rect.inset(0.17 * min(rect.width, rect.height))
        scale = min(geometry.pixels_per_mm, 12.0)
        stored = self._as_stored if self.sharpening is None else lookup_of_undone(self._as_stored)
        values, good = linear_part(self.picture, geometry, inner, scale, stored, self.sharpening)
        if good.mean() <= 0.3:
            good = np.ones_like(good)
        codes = self.first_code(values)
        kept = codes[good & ~_foreign(codes, good)]
        starts = np.linspace(0, len(kept), _PLACES, endpoint=False).astype(int)
        places = np.add.reduceat(np.sort(kept, axis=0), starts, axis=0) / np.maximum(np.diff(starts, append=len(kept)), 1)[:, None]
        return kept.mean(axis=0), places - places.mean(axis=0)


def _foreign(codes: Floats, good: Mask) -> Mask:
    """Where dust or a hair lies on a patch (h, w, 3): what stands out here and there. What stands out all over it, as dots do, is how it
    is printed."""
    middle = np.median(codes[good], axis=0)
    spread = SPREAD_OF_MEDIAN * np.median(np.abs(codes[good] - middle), axis=0) + 1e-4
    out = good & np.any(np.abs(codes - middle) >= 3.5 * spread, axis=2)
    if min(out.shape) < _PARTS:
        return np.asarray(out)
    parts = [part for row in np.array_split(out, _PARTS) for part in np.array_split(row, _PARTS, axis=1)]
    least = min(float(part.mean()) for part in parts)
    return np.zeros_like(out) if least > _EVERYWHERE * float(out.mean()) and least > _OFTEN else out


def linear_part(
    picture: Picture, geometry: Geometry, rect: Rect, pixels_per_mm: float, lookup: Floats, sharpening: Sharpening | None = None
) -> tuple[Floats, Mask]:
    """Linear device light (h, w, 3) float32 of `rect`, and where it is neither clipped, missing nor outside the image. Where the
    device's `sharpening` is to be undone, `lookup` is that of undone values."""
    shape = rectified_grid(rect, pixels_per_mm)
    place = geometry.bounds_px(rect, picture.pixels.shape, _MARGIN_PX if sharpening is None else _MARGIN_PX + sharpening.reach_px)
    if place is None:
        return np.zeros((*shape, 3), dtype=np.float32), np.zeros(shape, dtype=bool)
    part = picture.pixels[place]
    origin = (place[1].start, place[0].start)
    light = apply_lookup(part if sharpening is None else sharpening.undone(part), lookup)
    linear = _upright(light, origin, geometry, rect, pixels_per_mm)
    bad = (channel_maximum(part) >= SATURATED * picture.full_scale) | _cut_at_black(channel_minimum(part) == 0, geometry.pixels_per_mm)
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


def _cut_at_black(black: Mask, pixels_per_mm: float) -> Mask:
    """Where some channel is cut off, of where it is stored as `black` (h, w): all around, not only the pixels that are left at nothing,
    since those that noise or grain lifts are no fair sample of the rest. A lone one is the noise of what is dark."""
    if not black.any():
        return black
    import cv2

    side = max(_FEWEST_AROUND, round(_AROUND_BLACK_MM * pixels_per_mm))
    return np.asarray(cv2.blur(black.astype(np.float32), (side, side), borderType=cv2.BORDER_REFLECT) > _BLACK_SHARE)


def _upright(part: Floats, origin_px: tuple[int, int], geometry: Geometry, rect: Rect, pixels_per_mm: float) -> Floats:
    """`rect` of the card (h, w, 3), its channels laid on each other."""
    if geometry.fringes is None:
        return rectify(part, origin_px, geometry, rect, pixels_per_mm)
    planes = (np.ascontiguousarray(part[..., c]) for c in range(3))
    return np.stack([rectify(p, origin_px, geometry.of_channel(c), rect, pixels_per_mm) for c, p in enumerate(planes)], axis=-1)


def _inside_image(geometry: Geometry, rect: Rect, shape: tuple[int, int], image_shape: tuple[int, ...]) -> Mask:
    x, y = sample_places(rect, shape)
    points = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    pixels = geometry.to_pixels(points)
    inside = (pixels >= 0).all(axis=1) & (pixels[:, 0] <= image_shape[1] - 1) & (pixels[:, 1] <= image_shape[0] - 1)
    return np.asarray(inside.reshape(shape))


def apply_lookup(part: Image, lookup: Floats) -> Floats:
    import cv2

    if np.array_equal(lookup[:, 0], lookup[:, 1]) and np.array_equal(lookup[:, 0], lookup[:, 2]):
        return np.asarray(cv2.LUT(np.ascontiguousarray(part), np.ascontiguousarray(lookup[:, 0])))
    return np.stack([cv2.LUT(np.ascontiguousarray(part[..., c]), np.ascontiguousarray(lookup[:, c])) for c in range(3)], axis=-1)


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownPatches:
    """Patches that lie in the image and in the reference file."""

    ids: tuple[str, ...]
    rects: tuple[Rect, ...]
    xyz: Floats
    missing: list[str]
    wavelengths_nm: Floats | None = None
    spectra: Floats | None = None

    def only(self, kept: Mask) -> "KnownPatches":
        """Those where `kept` (n,) is True; the others count as missing."""
        return replace(
            self,
            ids=tuple(i for i, k in zip(self.ids, kept, strict=True) if k),
            rects=tuple(r for r, k in zip(self.rects, kept, strict=True) if k),
            xyz=self.xyz[kept],
            missing=[*self.missing, *(i for i, k in zip(self.ids, kept, strict=True) if not k)],
            spectra=None if self.spectra is None else self.spectra[kept],
        )

    def lit_by(self, light: FlatField) -> Floats:
        """Light (n, 3) that falls on each patch."""
        x, y = np.array([rect.centre for rect in self.rects]).T
        return light.at(x, y)


def known_patches(layout: Layout, reference: ReferenceTarget | None, geometry: Geometry, picture: Picture) -> KnownPatches:
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
        return KnownPatches(ids=(), rects=(), xyz=np.empty((0, 3)), missing=[])
    return KnownPatches(
        ids=tuple(ids), rects=tuple(rects), xyz=reference.xyz[found].reshape(-1, 3), missing=missing,
        wavelengths_nm=reference.wavelengths_nm, spectra=None if reference.spectra is None else reference.spectra[found],
    )  # fmt: skip


def read_patches(device: Device, geometry: Geometry, rows: KnownPatches, light: FlatField | None) -> PatchReadings:
    read = [device.codes(rect, geometry) for rect in rows.rects]
    lit = np.ones((len(read), 3)) if light is None else rows.lit_by(light)
    return PatchReadings(
        code=np.array([mean for mean, _ in read]), around=np.array([around for _, around in read]), xyz=rows.xyz, light=lit,
        wavelengths_nm=rows.wavelengths_nm, spectra=rows.spectra,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class PatchStates:
    """Of each patch (n,): share of clipped pixels, and how much its light changes from side to side, relative to it."""

    clipped: Floats
    slope: Floats


def patch_states(device: Device, geometry: Geometry, rows: KnownPatches, tone: ToneCurve, light: FlatField) -> PatchStates:
    """Flat print is flat: light that changes across a patch comes from a lamp that it mirrors, or a shadow."""
    lookup = device.lookup(tone)
    clipped, slope = [], []
    for rect in rows.rects:
        inner = rect.inset(0.12 * min(rect.width, rect.height))
        linear, good = linear_part(device.picture, geometry, inner, min(geometry.pixels_per_mm, 8.0), lookup)
        even = linear / light.over(inner, linear.shape[:2])
        clipped.append(1 - good.mean())
        kept = ~_foreign(even, good) if good.any() else good
        green = np.where(kept, even[..., 1], np.nan)
        slope.append(max(_across(green), _across(green.T)) / (float(np.median(even[..., 1])) + 0.03))
    return PatchStates(np.array(clipped), np.array(slope))


def _across(light: Floats) -> float:
    """How much lighter (h, w) is in its left third than in its right, or darker; 0 where one of them shows nothing."""
    third = max(light.shape[1] // 3, 1)
    left, right = light[:, :third], light[:, -third:]
    told = np.isfinite(left).any() and np.isfinite(right).any()
    return abs(float(np.nanmean(left) - np.nanmean(right))) if told else 0.0
