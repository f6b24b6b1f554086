"""Calibrates a sheet without a printed card: placed by its corners, coloured by the file's profile or by its paper."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration, Progress, Tier
from gelvet.core.capture.colour.icc import ProfileCurves
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.colour.white_paper import could_be_paper, model_from_paper, stated_encoding
from gelvet.core.capture.device import Device
from gelvet.core.capture.judging.quality import with_sheet_quality
from gelvet.core.capture.light.overview import Overview
from gelvet.core.capture.light.paper_light import paper_light
from gelvet.core.capture.placing.corners import place_by_corners
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Placement


def calibrate_sheet(picture: Picture, layout: Layout, placement: Placement, state: str, progress: Progress) -> CalibratedCapture:
    """A capture of the tier `profile`, `grey` or `none`; raises NothingMeasurable where the corners do not fit the image."""
    progress("placing the sheet", 0.15)
    geometry = place_by_corners(placement, layout, picture.pixels.shape)
    encoding = stated_encoding(picture)
    device = Device(picture, encoding)
    tone = power_curve(1.0)
    progress("judging the light", 0.25)
    light = Overview(device, geometry, layout).light(tone)
    lookup = device.lookup(tone)
    paper = paper_light(picture, layout, geometry, lookup, light)
    tier, model = _tier_and_model(picture, encoding, paper)
    capture = CalibratedCapture(
        picture=picture,
        layout=layout,
        calibration=Calibration(
            geometry=geometry, lookup=lookup, light=light, model=model, tier=tier, gates=(), blur_px=None, noise_l=np.empty((0, 2))
        ),
    )
    return with_sheet_quality(capture, placement, state)


def _tier_and_model(picture: Picture, encoding: ProfileCurves | None, paper: Floats | None) -> tuple[Tier, ColourModel]:
    """A profile is believed where it makes the paper paper; a photograph's says nothing of its exposure."""
    nothing = ColourModel("linear", np.eye(3) * 100)
    if encoding is not None and picture.icc_profile and paper is not None and could_be_paper(encoding.model.to_xyz(paper)):
        return "profile", encoding.model
    if paper is None or (encoding is None and not picture.linear):
        return "none", nothing
    return "grey", model_from_paper(paper, None if encoding is None else encoding.model)
