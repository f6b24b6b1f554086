"""Shots of one dry card in other light, judged against the even one: what they tell of the device, and which of them to believe."""

from collections.abc import Sequence
from dataclasses import replace

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.contrast import of_one_contrast, other_contrast, patch_light
from gelvet.core.capture.shots.dark_light import with_dark_light
from gelvet.core.capture.shots.lamp_side import wrong_side
from gelvet.core.capture.shots.lit_shots import evenly_lit, of_one_encoding
from gelvet.core.capture.shots.registered import RegisteredShot
from gelvet.core.capture.shots.same_device import other_device, patches_apart


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
        even = evenly_lit(flat, shot) if shot.file.state == "dry" else None
        kept = shot
        if even is not None:
            theirs, alike = patch_light(even), of_one_encoding(flat.picture, shot.picture)
            apart = patches_apart(flat.calibration.model, patches, of_one_contrast(patches, theirs))
            unlike = other_device(shot.file, apart)
            if unlike is None and alike:
                unlike = other_contrast(shot.file, patches, theirs, even.calibration.bent_in_the_dark)
            misplaced = wrong_side(shot.file, even.calibration.light) if alike else None
            told += [sentence for sentence in (unlike, misplaced) if sentence]
            if unlike is not None:
                kept = replace(kept, other_colours=True)
            elif alike:
                agreeing.append(even)
            if misplaced is not None:
                kept = replace(kept, file=replace(kept.file, azimuth_deg=None))
        judged.append(kept)
    return with_dark_light(flat, agreeing), judged, told
