"""Calibrates a flat capture: tags, tone curve, even light, colour, residuals, tier and gates."""

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration, Progress, Tier
from gelvet.core.capture.colour.fit import ColourFit, fit_colour, fit_tone
from gelvet.core.capture.colour.icc import ProfileCurves, read_profile
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.tone_curve import ToneCurve, power_curve
from gelvet.core.capture.device import Device, KnownPatches, known_patches, read_patches
from gelvet.core.capture.flat_field import even_light
from gelvet.core.capture.overview import Overview
from gelvet.core.capture.placing.card_code import refuse_other_card
from gelvet.core.capture.placing.fiducials import FoundTags, detect_tags, place_card, refine_tags
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.quality import with_quality
from gelvet.core.capture.reading import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.formats.cgats import ReferenceTarget

# Fewer patches than this cannot carry a tone curve and a colour model.
MINIMUM_PATCHES = 10


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
    device = Device(picture, profile)
    rows = known_patches(layout, reference, geometry, picture)

    progress("fitting the tone curve and colour", 0.25)
    tone = _first_tone(device, geometry, rows)
    found = _refine(device, tone, found, layout)
    geometry, rejected = place_card(found, layout)
    fit: ColourFit | None = None
    light = even_light(layout.size_mm)
    if len(rows.ids) >= MINIMUM_PATCHES:
        overview = Overview(device, geometry, layout)
        light = overview.light(tone)
        fit = fit_colour(read_patches(device, geometry, rows, light), tone)
        tone = fit.tone
        light = overview.light(tone)
    elif profile is not None:
        light = Overview(device, geometry, layout).light(tone)
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
    return with_quality(capture, rows, missing, profile, state)


def _first_tone(device: Device, geometry: Geometry, rows: KnownPatches) -> ToneCurve:
    """A curve good enough to place edges in linear light."""
    if device.profile is not None:
        return power_curve(1.0)
    if len(rows.ids) < MINIMUM_PATCHES:
        return power_curve(2.2)
    readings = read_patches(device, geometry, rows, None)
    return fit_tone(readings)


def _refine(device: Device, tone: ToneCurve, found: FoundTags, layout: Layout) -> FoundTags:
    """Tags again, in linear light. Only green is needed."""
    import cv2

    green = np.ascontiguousarray(device.picture.pixels[..., 1])
    linear = cv2.LUT(green, np.ascontiguousarray(device.lookup(tone)[:, 1]))
    return refine_tags(np.asarray(linear), found, layout)


def _tier_and_model(fit: ColourFit | None, profile: ProfileCurves | None) -> tuple[Tier, ColourModel]:
    if fit is not None:
        return "target", fit.model
    if profile is not None:
        return "profile", profile.model
    return "none", ColourModel("linear", np.eye(3) * 100)
