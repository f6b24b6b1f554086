"""What is wrong with a calibrated capture: noise, clipping, glare, uneven light and paper, and the gates that follow."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, channel_minimum
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.colour.icc import ProfileCurves
from gelvet.core.capture.detail.pixel_noise import PixelNoise, no_noisier_than, noise_covariance
from gelvet.core.capture.device import Device, KnownPatches
from gelvet.core.capture.judging import gates as g
from gelvet.core.capture.judging.clipped_light import clipped_light
from gelvet.core.capture.judging.cut_colours import cut_colours, cut_share
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.light.odd_light import OddPaper, veil_over
from gelvet.core.card.layout import Placement, Rect
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab
from gelvet.core.robust import neighbours_noise

# So much of bare paper must be good for its noise to be believed.
_MOSTLY = 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What calibrating came upon: the patches that were used, tags not seen, names of patches that mirror a light, bare paper
    that does not follow the light, and channels that the file holds in each other's place."""

    rows: KnownPatches
    missing_tags: list[int]
    glared: tuple[str, ...]
    profile: ProfileCurves | None
    state: str
    odd: OddPaper
    exchanged: tuple[str, ...] = ()


def with_quality(capture: CalibratedCapture, evidence: Evidence) -> CalibratedCapture:
    """The same capture with noise and gates filled in."""
    cal, rows, layout = capture.calibration, evidence.rows, capture.layout
    noise, pixel_noise, patch_clipped = _patch_noise(capture, rows)
    paper = _paper_quality(capture)
    brightest = _brightest_code(capture, rows)
    dark = brightest is not None and brightest < g.EXPOSURE_WARN
    at_black = {rect: _share_at_black(capture, rect) for rect in rows.rects} if dark else {}
    clipped = {**patch_clipped, **at_black, **paper.clipped}
    most_clipped = max(clipped.values(), default=0.0)
    steps_abound = capture.picture.pixels.dtype != np.uint8 and not (dark and most_clipped >= g.CLIPPED_WARN)
    patches = {p.id: p.rect for p in layout.patches}
    gates = [
        g.tags_gate(evidence.missing_tags, [t.rect for t in layout.tags if t.id in evidence.missing_tags]),
        _reference_gate(capture, evidence, patches),
        g.resolution_gate(cal.geometry.pixels_per_mm),
        g.focus_gate(cal.blur_mm),
        g.flatness_gate(cal.geometry.reprojection_px / cal.geometry.pixels_per_mm),
        g.exposure_gate(brightest, steps_abound=steps_abound),
        g.compression_gate(_colour_step(capture)),
    ]
    if cal.fit is not None:
        residual = cal.fit.at_patches.de00
        gates.append(g.residual_gate(float(residual.mean()), float(np.percentile(residual, 95)), paper.excess))
    # Patches seen beside their place look lit unevenly, and soft edges make a tag's black pale.
    bent = any(gate.id == "flatness" and gate.state != "pass" for gate in gates)
    soft = any(gate.id == "focus" and gate.state != "pass" for gate in gates)
    glared = () if bent else evidence.glared
    seen = set() if soft else {t.id for t in layout.tags} - set(evidence.missing_tags)
    veil = veil_over(capture.picture, layout, cal, seen)
    mirroring = [*(patches[i] for i in glared), *evidence.odd.brighter]
    if veil.tag is not None and veil.light >= g.VEIL_WARN:
        mirroring.append(veil.tag.rect)
    gates += [
        g.glare_gate(glared, len(rows.ids), evidence.odd.brighter_share, veil.light, mirroring),
        g.clipping_gate(
            most_clipped,
            [rect for rect, share in clipped.items() if share >= g.CLIPPED_WARN],
            dark=dark,
            card=clipped_light(capture.picture, cal.geometry, layout.size_mm),
            cut=cut_colours(capture.picture, cal.geometry, [zone.rect for zone in layout.zones]),
        ),
        g.noise_gate(float(np.median(noise[:, 1])) if len(noise) else 0.0),
        _even_light_gate(cal.light),
        g.tilt_gate(cal.geometry.tilt_deg),
        g.paper_shade_gate(paper.spread, evidence.odd.darker_share, [*paper.strangers, *evidence.odd.darker]),
        g.wet_gate(evidence.state),
    ]
    return replace(capture, calibration=replace(cal, noise_l=noise, pixel_noise=pixel_noise, gates=tuple(gates)))


def with_sheet_quality(capture: CalibratedCapture, placement: Placement, state: str) -> CalibratedCapture:
    """The same for a sheet without a printed card, of which less can be told."""
    cal = capture.calibration
    paper = _paper_quality(capture)
    clipped = [rect for rect, share in paper.clipped.items() if share >= g.CLIPPED_WARN]
    gates = [
        _unreferenced_gate(capture),
        g.scale_gate(placement.scale),
        *([] if placement.scale == "unknown" else [g.resolution_gate(cal.geometry.pixels_per_mm)]),
        g.clipping_gate(max(paper.clipped.values(), default=0.0), clipped),
        _even_light_gate(cal.light),
        g.paper_shade_gate(paper.spread, 0.0, paper.strangers),
        g.wet_gate(state),
    ]
    return replace(capture, calibration=replace(cal, gates=tuple(gates)))


def _unreferenced_gate(capture: CalibratedCapture) -> g.Gate:
    """What the colours of a sheet without a printed card rest on."""
    match capture.calibration.tier:
        case "profile":
            advice = "The sheet has no reference patches, so colours rest on the file's profile alone; use a printed card for more."
        case "grey":
            advice = (
                "The sheet has no reference patches, so its paper is taken for white and hues are those of an ordinary screen; compare "
                "inside this sheet, and use a printed card for more."
            )
        case _:
            advice = (
                "The file does not say how its values are meant, or shows no bare paper; mark bare paper, or export the image with "
                "its colour profile."
            )
            return g.Gate("reference", "fail", advice, 0)
    return g.Gate("reference", "warn", advice, 0)


def _reference_gate(capture: CalibratedCapture, evidence: Evidence, patches: dict[str, Rect]) -> g.Gate:
    cal, rows, profile = capture.calibration, evidence.rows, evidence.profile
    if cal.tier == "profile" and profile is not None:
        worth = "its tables are only approximated" if profile.misfit_de00 > 1 else "colours rest on the embedded profile alone"
        return g.Gate("reference", "warn", f"No reference values are known for this card, so {worth}; add the target's CGATS file.", 0)
    if cal.tier == "grey":
        advice = (
            "Too few coloured patches are known on this card, so that its greys alone count: lightness can be trusted and hues cannot; "
            "add the file of a target with colours."
        )
        return g.Gate("reference", "warn", advice, len(rows.ids))
    if evidence.exchanged:
        return g.exchanged_gate(evidence.exchanged)
    missing = [i for i in rows.missing if i not in evidence.glared]
    return g.reference_gate(missing, len(rows.ids), cal.fit is not None, [patches[i] for i in missing])


def _even_light_gate(light: FlatField) -> g.Gate:
    colour, place = light.change_of_colour()
    return g.fall_off_gate(light.fall_off(), [light.darkest()], colour, [place])


def _patch_noise(capture: CalibratedCapture, rows: KnownPatches) -> tuple[Floats, PixelNoise | None, dict[Rect, float]]:
    """Pixel noise of flat patches, from differences of neighbours: in L* and in device light; and the clipped share of each patch that is
    not merely too vivid for the picture."""
    cal = capture.calibration
    found, lights, spreads, clipped = [], [], [], {}
    for rect in rows.rects:
        linear, good = capture.linear(rect.inset(0.2 * min(rect.width, rect.height)))
        lab = xyz_to_lab(capture.colours(linear))[..., 0]
        found.append((float(np.median(lab)), neighbours_noise(lab)))
        lights.append(np.median(linear.reshape(-1, 3), axis=0).astype(float))
        spreads.append(noise_covariance(linear, cal.geometry.pixels_per_mm))
        if cut_share(capture.picture, cal.geometry, rect) == 0:  # what is too vivid is another matter
            clipped[rect] = float(1 - good.mean())
    known = [i for i, spread in enumerate(spreads) if np.isfinite(spread).all()]
    noise = PixelNoise(np.array(lights)[known], np.array(spreads)[known]) if known else None
    paper = capture.layout.zones_of("paper")
    if noise is not None and paper:
        bare, good = capture.linear(paper[0].rect.inset(0.2 * min(paper[0].rect.width, paper[0].rect.height)))
        seen = noise_covariance(bare, cal.geometry.pixels_per_mm)
        # Paper that is clipped or not in the picture shows no noise at all.
        if good.mean() > _MOSTLY and np.isfinite(seen).all():
            noise = no_noisier_than(noise, np.median(bare.reshape(-1, 3), axis=0).astype(float), seen)
    return np.array(found).reshape(-1, 2), noise, clipped


def _share_at_black(capture: CalibratedCapture, patch: Rect) -> float:
    """How many of a patch's pixels, 0 to 1, are stored as nothing in some channel, be it by noise alone."""
    inner = patch.inset(0.2 * min(patch.width, patch.height))
    place = capture.calibration.geometry.bounds_px(inner, capture.picture.pixels.shape, 0)
    return 0.0 if place is None else float((channel_minimum(capture.picture.pixels[place]) == 0).mean())


@dataclass(frozen=True, slots=True)
class _PaperQuality:
    """Largest ΔE*ab of a paper zone from the middle one, the zones that far off, each zone's clipped share, and by how much the middle one
    sends back more of white's X, Y or Z than paper can."""

    spread: float
    strangers: list[Rect]
    clipped: dict[Rect, float]
    excess: float = 0.0


def _paper_quality(capture: CalibratedCapture) -> _PaperQuality:
    found, clipped = [], {}
    shown = capture.picture.pixels.shape
    zones = [z for z in capture.layout.zones_of("paper") if capture.calibration.geometry.holds(z.rect, shown)]
    for zone in zones:
        xyz, good = capture.xyz(zone.rect.inset(0.15 * min(zone.rect.width, zone.rect.height)), 6.0)
        clipped[zone.rect] = float(1 - good.mean())
        found.append(np.median(xyz.reshape(-1, 3), axis=0).astype(float))
    if not found:
        return _PaperQuality(0.0, [], clipped)
    excess = float((np.median(found, axis=0) / WHITE_D50 - g.PAPER_LIMIT).max())
    labs = xyz_to_lab(np.array(found))
    apart = np.linalg.norm(labs - np.median(labs, axis=0), axis=1)
    strangers = [z.rect for z, far in zip(zones, apart, strict=True) if far >= g.PAPER_SHADE_WARN_DE]
    return _PaperQuality(float(apart.max()), strangers, clipped, excess)


def _brightest_code(capture: CalibratedCapture, rows: KnownPatches) -> float | None:
    """The largest stored value, as a share of the largest there is, of what should be bright: paper and the lighter patches."""
    device, geometry = Device(capture.picture, None), capture.calibration.geometry
    shown = capture.picture.pixels.shape
    bright = [*(z.rect for z in capture.layout.zones_of("paper") if geometry.holds(z.rect, shown))]
    if rows.rects:
        most = rows.xyz.max(axis=1)
        bright += [rect for rect, own in zip(rows.rects, most, strict=True) if own >= np.median(most)]
    return max((float(device.codes(rect, geometry)[0].max()) for rect in bright), default=None)


def _colour_step(capture: CalibratedCapture) -> float | None:
    """Levels of 255 to which the file rounds the mean colour of a block, an eighth of the step of its first cosine."""
    steps = capture.picture.colour_steps
    return None if steps is None else float(steps.steps[:, 0, 0].max()) / 8
