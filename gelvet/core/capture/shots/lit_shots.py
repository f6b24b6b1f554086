"""The shots of a capture as lights from different sides on one card, each in units of its own bare paper."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.colour.wet_film import WetFilm
from gelvet.core.capture.device import Device
from gelvet.core.capture.light.overview import Overview
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.capture.shots.contrast import patch_light
from gelvet.core.capture.shots.levels import LevelGain, common_gain
from gelvet.core.capture.shots.registered import TURNED_DEG, RegisteredShot
from gelvet.core.card.layout import Rect
from gelvet.core.colour.spaces import WHITE_D50

# Bare paper is read this finely, and where at least this share of a zone can be.
_PAPER_PIXELS_PER_MM, _SHOWN = 6.0, 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class LitShot:
    """One shot, evenly lit; `paper` (3,) is the XYZ of its bare paper. `azimuth_deg` is where its lamp stood, None where
    nobody said; `raking` that it was lit by one low lamp, `other_colours` that its colours are not comparable; `levels` what its
    patches seem to change by at each level."""

    capture: CalibratedCapture
    paper: Floats
    azimuth_deg: float | None
    elevation_deg: float | None
    raking: bool
    other_colours: bool = False
    levels: LevelGain | None = None

    def alike(self, light: Floats) -> Floats:
        """Device `light` (..., 3) of this shot without what the curve misses at its levels against those of the flat one."""
        return light if self.levels is None else self.levels.off(light)

    @property
    def blur_px(self) -> float | None:
        return self.capture.calibration.blur_px

    def relative(self, rect: Rect, pixels_per_mm: float) -> tuple[Floats, Mask]:
        """XYZ over that of the bare paper, (h, w, 3) float32, and where it is neither clipped nor outside the image."""
        xyz, good = self.capture.xyz(rect, pixels_per_mm)
        return np.asarray(xyz / self.paper.astype(np.float32)), good


def lit_shots(flat: CalibratedCapture, paper: Floats, shots: Sequence[RegisteredShot]) -> list[LitShot]:
    """The flat shot first, then those that light the card otherwise. Shots of a card that was wet, or
    not lifted yet, show another card."""
    lights = [LitShot(capture=flat, paper=paper, azimuth_deg=None, elevation_deg=None, raking=False)]
    turned = flat.calibration.geometry.rotation_deg
    for shot in shots:
        if shot.file.state != "dry":
            continue
        raking = shot.file.light != "diffuse"
        if not raking and abs(turn_deg(turned, shot.geometry.rotation_deg)) < TURNED_DEG:
            continue
        lit = evenly_lit(flat, shot)
        own_paper = None if lit is None else bare_paper(lit)
        if lit is not None and own_paper is not None:
            lights.append(
                LitShot(
                    capture=lit,
                    paper=own_paper,
                    azimuth_deg=shot.file.azimuth_deg,
                    elevation_deg=shot.file.elevation_deg,
                    raking=raking,
                    other_colours=shot.other_colours,
                )
            )
    comparable = [light.capture for light in lights if light.raking and not light.other_colours]
    common = common_gain(patch_light(flat), comparable) if comparable else None
    return [replace(light, levels=common) if light.raking else light for light in lights]


def shot_of(flat: CalibratedCapture, shots: Sequence[RegisteredShot], state: str) -> CalibratedCapture | None:
    """The shot in even light of the card in another `state`, wet or before lifting, its bare paper brought to that of the dry
    one; None where there is no such shot (`flat_of`), or it shows no bare paper."""
    shot = flat_of(shots, state)
    if shot is None:
        return None
    even = evenly_lit(flat, shot)
    return even if even is None or state != "wet" else with_wet_film(even)


def flat_of(shots: Sequence[RegisteredShot], state: str) -> RegisteredShot | None:
    """The shot in even light of the card in this `state`."""
    return next((s for s in shots if s.file.state == state and s.file.light == "diffuse"), None)


def with_wet_film(capture: CalibratedCapture) -> CalibratedCapture:
    """The capture of a card whose paint was still wet; as it was where no bare paper tells how much light white gives."""
    paper = _paper_light(capture)
    if paper is None:
        return capture
    reflectance = capture.calibration.model.to_xyz(paper[None])[0] / WHITE_D50
    return replace(capture, film=WetFilm(paper / reflectance))


def _paper_light(capture: CalibratedCapture) -> Floats | None:
    """Median device light (3,) of the paper zones that the image shows."""
    shown = [_middle(capture.linear(rect, _PAPER_PIXELS_PER_MM)) for rect in _paper_rects(capture)]
    light = [colour for colour in shown if colour is not None]
    return np.median(light, axis=0).astype(float) if light else None


def _level(factor: Floats, terms: int) -> Floats:
    """What makes a flat field (terms, 3) dimmer by `factor` (3,) all over."""
    level = np.zeros((terms, 3))
    level[0] = np.log(factor)
    return level


def evenly_lit(flat: CalibratedCapture, shot: RegisteredShot) -> CalibratedCapture | None:
    """The shot seen through the flat one's colours, with its own fading light taken out and its bare paper brought to the device
    light that it has in the flat one: a model of colour holds for the light that it was fitted to. None without bare paper.

    A shot stored otherwise (another depth, another profile) is linearised by its own encoding alone."""
    cal = flat.calibration
    same = of_one_encoding(flat.picture, shot.picture)
    if same:
        lookup, light = cal.lookup, Overview.of_linear(shot.picture, cal.lookup, shot.geometry, flat.layout)
    else:
        device, tone = Device(shot.picture, None), power_curve(1.0 if shot.picture.linear else 2.2)
        lookup = device.lookup(tone)
        light = Overview.of_linear(shot.picture, lookup, shot.geometry, flat.layout)
    # One device sharpens all its shots alike.
    sharpening, undone_lookup = (cal.sharpening, cal.undone_lookup) if same else (None, None)
    # Relief in a low light roughens the tags' edges: the focus is no worse than in the flat shot.
    blurs = [
        b * shot.geometry.pixels_per_mm / g.pixels_per_mm
        for b, g in ((cal.blur_px, cal.geometry), (None if sharpening else shot.blur_px, shot.geometry))
        if b
    ]
    calibration = replace(
        cal, geometry=shot.geometry, lookup=lookup, light=light, blur_px=min(blurs, default=None),
        sharpening=sharpening, undone_lookup=undone_lookup,
    )  # fmt: skip
    even = replace(flat, picture=shot.picture, calibration=calibration, paint=None)
    wanted, own = _paper_light(flat), _paper_light(even)
    if wanted is None or own is None or own.min() <= 0:
        return None
    light = replace(light, coefficients=light.coefficients + _level(own / wanted, len(light.coefficients)))
    return replace(even, calibration=replace(calibration, light=light))


def of_one_encoding(one: Picture, other: Picture) -> bool:
    """Whether one curve serves both."""
    return one.pixels.dtype == other.pixels.dtype and one.icc_profile == other.icc_profile and one.linear == other.linear


def bare_paper(capture: CalibratedCapture) -> Floats | None:
    """Median XYZ (3,) of the paper zones that the image shows."""
    shown = [_middle(capture.xyz(rect, _PAPER_PIXELS_PER_MM)) for rect in _paper_rects(capture)]
    colours = [colour for colour in shown if colour is not None]
    return np.median(colours, axis=0).astype(float) if colours else None


def _paper_rects(capture: CalibratedCapture) -> list[Rect]:
    return [zone.rect.inset(0.15 * min(zone.rect.width, zone.rect.height)) for zone in capture.layout.zones_of("paper")]


def _middle(part: tuple[Floats, Mask]) -> Floats | None:
    """Median (3,) of the good pixels of a zone; None where too few are good."""
    colours, good = part
    return np.median(colours[good], axis=0) if good.mean() > _SHOWN else None
