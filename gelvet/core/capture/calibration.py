"""Calibrates a flat capture: tags, tone curve, even light, colour, residuals, tier and gates."""

from dataclasses import dataclass, field, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration, Progress, Tier
from gelvet.core.capture.colour.channel_order import exchanged_channels
from gelvet.core.capture.colour.colour_fit import ColourFit
from gelvet.core.capture.colour.fit import fit_colour, tone_in_light
from gelvet.core.capture.colour.grey import MINIMUM_NEUTRALS, fit_grey, neutral_patches
from gelvet.core.capture.colour.icc import ProfileCurves, read_profile
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.patch_fit import fit_tone
from gelvet.core.capture.colour.stray_patches import stray_patches
from gelvet.core.capture.colour.tone_curve import ToneCurve, power_curve
from gelvet.core.capture.colour.white_paper import model_from_paper, stated_encoding
from gelvet.core.capture.detail.sharpening import Sharpening, find_sharpening, lookup_of_undone
from gelvet.core.capture.device import Device, KnownPatches, known_patches, patch_states, read_patches
from gelvet.core.capture.judging.cut_colours import cut_share
from gelvet.core.capture.judging.quality import Evidence, with_quality
from gelvet.core.capture.light.flat_field import FlatField, even_light
from gelvet.core.capture.light.odd_light import OddPaper
from gelvet.core.capture.light.overview import Overview
from gelvet.core.capture.light.paper_light import paper_light
from gelvet.core.capture.placing.card_code import refuse_other_card
from gelvet.core.capture.placing.fiducials import FoundTags, detect_tags, place_card
from gelvet.core.capture.placing.fringes import with_fringes
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.placing.tag_edges import refine_tags
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.colour.spaces import WHITE_D50, lab_to_xyz
from gelvet.core.formats.cgats import ReferenceTarget

# Fewer patches than this cannot carry a tone curve and a colour model.
MINIMUM_PATCHES = 8
# With fewer coloured patches than these, hues would be guessed: only the greys count then.
MINIMUM_CHROMATIC = 3
# Left out where enough remain: patches lit so unevenly from side to side, with so many clipped pixels, or with a channel cut off at
# black in so many.
_UNEVEN_PATCH, _CLIPPED_PATCH, _CUT_PATCH = 0.12, 0.3, 0.05


def calibrate(
    picture: Picture,
    layout: Layout,
    reference: ReferenceTarget | None,
    *,
    found: FoundTags | None = None,
    state: str = "dry",
    progress: Progress = lambda stage, share: None,
) -> CalibratedCapture:
    """Calibrates one diffuse shot; raises NothingMeasurable where the card cannot be placed.

    `found` are the tags of the card that is meant, where the picture shows several.
    """
    progress("finding the tags", 0.15)
    if found is None:
        found = detect_tags(picture.pixels, layout)
    geometry, rejected = place_card(found, layout)
    refuse_other_card(picture, geometry, layout)
    profile = read_profile(picture.icc_profile) if picture.icc_profile else None
    rows = known_patches(layout, reference, geometry, picture)
    encoding = profile if len(rows.ids) else stated_encoding(picture)
    device = Device(picture, encoding)

    progress("fitting the tone curve and colour", 0.25)
    tone = _first_tone(device, geometry, rows)
    lookup = device.lookup(tone)
    found = _refine(picture, lookup, found, layout)
    geometry, rejected = place_card(found, layout)
    sharpening = find_sharpening(picture.pixels[..., 1], lookup[:, 1], found.without(rejected))
    if sharpening is not None:  # its rims moved the edges
        found = _refine(picture, lookup, found, layout, sharpening)
        geometry, rejected = place_card(found, layout)
        device = Device(picture, encoding, sharpening)
    geometry = with_fringes(geometry, picture.pixels, lookup, found.without(rejected), layout)
    fitted = _fit(device, geometry, layout, rows, tone)
    lookup = device.lookup(fitted.tone)
    progress("checking the capture", 0.35)
    tier, model = _tier_and_model(fitted, profile)
    if tier == "none" and (encoding is not None or picture.linear):
        paper = paper_light(picture, layout, geometry, lookup, fitted.light)
        model = model if paper is None else model_from_paper(paper, None if encoding is None else encoding.model)
    capture = CalibratedCapture(
        picture=picture,
        layout=layout,
        calibration=Calibration(
            geometry=geometry, lookup=lookup, light=fitted.light, model=model, tier=tier, gates=(),
            blur_px=found.blur_px, noise_l=np.empty((0, 2)), fit=fitted.colour, patch_ids=fitted.rows.ids,
            sharpening=sharpening, undone_lookup=None if sharpening is None else lookup_of_undone(lookup),
        ),
    )  # fmt: skip
    missing = sorted({t.id for t in layout.tags} - (set(found.corners) - set(rejected)))
    return with_quality(
        capture, Evidence(
            rows=fitted.rows, missing_tags=missing, glared=fitted.glared, profile=profile, state=state, odd=fitted.odd,
            exchanged=fitted.exchanged,
        ),
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class _Fitted:
    """What the patches gave: the fit where there are enough of them, and which ones it rests on."""

    tone: ToneCurve
    light: FlatField
    rows: KnownPatches
    colour: ColourFit | None = None
    greys_only: bool = False
    glared: tuple[str, ...] = ()
    odd: OddPaper = field(default_factory=OddPaper)
    exchanged: tuple[str, ...] = ()


def _fit(device: Device, geometry: Geometry, layout: Layout, rows: KnownPatches, tone: ToneCurve) -> _Fitted:
    """Tone, light and colour from what is known of the card, each judged by the other."""
    greys_only = device.profile is None and _only_greys(rows)
    if not greys_only and len(rows.ids) < MINIMUM_PATCHES:
        known = device.profile is not None
        light, odd = Overview(device, geometry, layout).paper(tone) if known else (even_light(layout.size_mm), OddPaper())
        return _Fitted(tone=tone, light=light, rows=rows, odd=odd)
    overview = Overview(device, geometry, layout)
    light = overview.light(tone)
    if greys_only:
        rows = rows.only(neutral_patches(rows.xyz))
        readings = read_patches(device, geometry, rows, light)
        light = overview.light(fit_grey(readings).tone)
        fit = fit_grey(replace(readings, light=rows.lit_by(light)))
        light, odd = overview.paper(fit.tone)
        return _Fitted(tone=fit.tone, light=light, rows=rows, colour=fit, greys_only=True, odd=odd)
    rows, glared = _unspoilt(device, geometry, rows, tone, light)
    readings = read_patches(device, geometry, rows, light)
    # The first curve knew nothing of the light, so that the light judged by it is not quite that of the card either.
    tone = tone_in_light(readings, tone)
    light = overview.light(tone)
    readings = replace(readings, light=rows.lit_by(light))
    fit = fit_colour(readings, tone)
    outliers = stray_patches(fit, readings)
    if outliers.any():
        mirrors = outliers & _with_added_light(fit)
        glared += tuple(i for i, stray in zip(rows.ids, mirrors, strict=True) if stray)
        rows, readings = rows.only(~outliers), readings.only(~outliers)
        fit = fit_colour(readings, fit.tone)
    light, odd = overview.paper(fit.tone)
    exchanged = exchanged_channels(readings, fit.tone)
    return _Fitted(tone=fit.tone, light=light, rows=rows, colour=fit, glared=glared, odd=odd, exchanged=exchanged)


def _with_added_light(fit: ColourFit) -> Mask:
    """Patches (n,) that seem to send back more light of every colour alike, as one that mirrors a lamp does."""
    known = fit.reference_lab
    added = (lab_to_xyz(known + fit.at_patches.error_lab) - lab_to_xyz(known)) / WHITE_D50
    return np.asarray((added.min(axis=1) > 0.5 * added.max(axis=1)) & (added.min(axis=1) > 0))


def _unspoilt(
    device: Device, geometry: Geometry, rows: KnownPatches, tone: ToneCurve, light: FlatField
) -> tuple[KnownPatches, tuple[str, ...]]:
    """The patches that are neither clipped nor unevenly lit, unless too few are left; and the names of the uneven ones."""
    states = patch_states(device, geometry, rows, tone, light)
    cut = np.array([cut_share(device.picture, geometry, rect) for rect in rows.rects])
    uneven, clipped = states.slope > _UNEVEN_PATCH, (states.clipped > _CLIPPED_PATCH) | (cut > _CUT_PATCH)
    glared = tuple(i for i, bad in zip(rows.ids, uneven, strict=True) if bad)
    kept = rows.only(~(uneven | clipped))
    return (kept if len(kept.ids) >= MINIMUM_PATCHES and not _only_greys(kept) else rows), glared


def _first_tone(device: Device, geometry: Geometry, rows: KnownPatches) -> ToneCurve:
    """A curve good enough to place edges in linear light."""
    if device.profile is not None or (device.picture.linear and len(rows.ids) == 0):
        return power_curve(1.0)
    readings = read_patches(device, geometry, rows, None)
    if _only_greys(rows):
        return fit_grey(readings.only(neutral_patches(rows.xyz))).tone
    return fit_tone(readings) if len(rows.ids) >= MINIMUM_PATCHES else power_curve(2.2)


def _only_greys(rows: KnownPatches) -> bool:
    """Whether greys are all that there is to go by."""
    if len(rows.ids) == 0:
        return False
    greys = int(neutral_patches(rows.xyz).sum())
    return greys >= MINIMUM_NEUTRALS and (len(rows.ids) < MINIMUM_PATCHES or len(rows.ids) - greys < MINIMUM_CHROMATIC)


def _refine(picture: Picture, lookup: Floats, found: FoundTags, layout: Layout, sharpening: Sharpening | None = None) -> FoundTags:
    """Tags again, in linear light, with the device's `sharpening` undone. Only green is needed."""
    import cv2

    green, curve = np.ascontiguousarray(picture.pixels[..., 1]), np.ascontiguousarray(lookup[:, 1])
    linear: Floats = np.asarray(cv2.LUT(green, curve))
    if sharpening is None:
        return refine_tags(linear, found, layout)
    fine = np.ascontiguousarray(lookup_of_undone(curve[:, None])[:, 0])
    for corners in found.corners.values():
        around = 0.5 * float(np.ptp(corners, axis=0).max()) + sharpening.reach_px
        low = np.maximum(np.floor(corners.min(axis=0) - around).astype(int), 0)
        high = np.ceil(corners.max(axis=0) + around).astype(int)
        place = slice(low[1], high[1]), slice(low[0], high[0])
        linear[place] = cv2.LUT(sharpening.undone(green[place]), fine)
    return refine_tags(linear, found, layout)


def _tier_and_model(fitted: _Fitted, profile: ProfileCurves | None) -> tuple[Tier, ColourModel]:
    if fitted.colour is not None:
        return "grey" if fitted.greys_only else "target", fitted.colour.model
    if profile is not None:
        return "profile", profile.model
    return "none", ColourModel("linear", np.eye(3) * 100)
