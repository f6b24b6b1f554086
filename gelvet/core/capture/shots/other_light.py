"""Shots of one dry card in other light, judged against the even one: what they tell of the device, and which of them to believe."""

from collections.abc import Sequence
from dataclasses import replace

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.contrast import other_contrast, patch_light
from gelvet.core.capture.shots.dark_light import with_dark_light
from gelvet.core.capture.shots.lamp_side import wrong_side
from gelvet.core.capture.shots.lit_shots import stored_alike
from gelvet.core.capture.shots.registered import RegisteredShot


def judged_in_other_light(
    flat: CalibratedCapture, shots: Sequence[RegisteredShot]
) -> tuple[CalibratedCapture, list[RegisteredShot], list[str]]:
    """The capture with its curve set right by the shots that agree with it; the shots, without what is wrong of them; and what is
    wrong, a sentence each."""
    patches = patch_light(flat)
    told: list[str] = []
    judged: list[RegisteredShot] = []
    agreeing: list[CalibratedCapture] = []
    for shot in shots:
        even = stored_alike(flat, shot) if shot.file.state == "dry" else None
        kept = shot
        if even is not None:
            unlike = other_contrast(shot.file, patches, even)
            misplaced = wrong_side(shot.file, even.calibration.light)
            told += [sentence for sentence in (unlike, misplaced) if sentence]
            if unlike is None:
                agreeing.append(even)
            else:
                kept = replace(kept, other_contrast=True)
            if misplaced is not None:
                kept = replace(kept, file=replace(kept.file, azimuth_deg=None))
        judged.append(kept)
    return with_dark_light(flat, agreeing), judged, told
