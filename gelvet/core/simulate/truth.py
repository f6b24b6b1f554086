"""What is true of a painted card, in the measurement file's shape.

Colours come from spectral integration; the dilution path from the mean colour of each nominal amount of paint;
texture from the noiseless, unblurred card. No estimator is shared with the measuring code.
"""

from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_lch, xyz_to_lab
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.paint import layer_table, pigment_amounts
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, paper_reflectance


def card_truth(card: PaintedCard, warmth: float = 0.5) -> dict[str, Any]:
    """Zones and swatches of `card` as a measurement document without calibration."""
    means = {name: pixels.reshape(-1, 3).mean(axis=0, dtype=float) for name, pixels in card.zone_xyz.items()}
    zones: dict[str, Any] = {name: _colour(xyz) for name, xyz in means.items()}
    for zone in card.layout.zones_of("paper"):
        zones[zone.id] = _colour(card.paper_xyz)
    swatches = {sid: _swatch(card, sid, means, warmth) for sid in card.paints}
    return {"format": "gelvet.measurement", "version": 1, "card_id": card.layout.card_id, "zones": zones, "swatches": swatches}


def _colour(xyz: Floats) -> dict[str, Any]:
    lab = xyz_to_lab(xyz)
    return {"xyz": xyz.tolist(), "lab": lab.tolist(), "lch": lab_to_lch(lab).tolist()}


def _depth(xyz: Floats, paper: Floats) -> Floats:
    return np.asarray(np.log10(paper / np.maximum(xyz, 1e-3)).max(axis=-1))


def _swatch(card: PaintedCard, swatch: str, means: dict[str, Floats], warmth: float) -> dict[str, Any]:
    masstone = means[f"{swatch}.masstone"]
    masstone_depth = float(_depth(masstone, card.paper_xyz))
    depths, path = _path(card, swatch, warmth)
    wash, half = (_at(depths, path, share * masstone_depth) for share in (0.15, 0.5))
    between = (depths >= 0.15 * masstone_depth) & (depths <= masstone_depth)
    labs = xyz_to_lab(np.vstack([wash, path[between], masstone]))
    hue = np.unwrap(np.radians(lab_to_lch(labs)[:, 2]))
    delta_h = float(np.degrees(hue[0] - hue[-1]))
    lab_paper = xyz_to_lab(card.paper_xyz)
    return {
        "masstone": {"lab": labs[-1].tolist(), "depth": masstone_depth},
        "half": {"lab": xyz_to_lab(half).tolist()},
        "wash": {"lab": labs[0].tolist()},
        "hue_shift": {"delta_h": delta_h, "chroma": [float(np.hypot(*labs[-1][1:])), float(np.hypot(*labs[0][1:]))]},
        "value_range": {
            "masstone_L": float(labs[-1][0]), "wash_L": float(labs[0][0]), "span_L": float(labs[0][0] - labs[-1][0]),
            "reach": float((lab_paper[0] - labs[-1][0]) / lab_paper[0]),
        },
        "granulation": _granulation(card.zone_xyz[f"{swatch}.wash"], card.pixels_per_mm),
        "hiding": {"veil": _veil(card, swatch, means)},
        "lifting": {
            "removed": float(1 - _depth(means[f"{swatch}.lifted"], card.paper_xyz) / _depth(means[f"{swatch}.unlifted"], card.paper_xyz)),
            "residual_de00": float(ciede2000(xyz_to_lab(means[f"{swatch}.lifted"]), lab_paper)),
        },
    }  # fmt: skip


def _path(card: PaintedCard, swatch: str, warmth: float) -> tuple[Floats, Floats]:
    """Depth (n,) rising and mean XYZ (n, 3) for nominal amounts, averaged over the grain of each."""
    paint = card.paints[swatch]
    table = layer_table(paint, paper_reflectance(warmth), np.tile(observer_d50(WAVELENGTHS_NM), (1, 2)))
    nominal = np.linspace(0.02, 1.25, 160) ** 2 * card.applied[swatch].masstone
    draws = np.random.default_rng(1).standard_normal((len(paint.pigments), 1, 400))
    layers = []
    for pigment, mean, draw in zip(paint.pigments, pigment_amounts(paint, nominal[:, None]), draws, strict=True):
        strength = pigment.grain / (1 + 0.6 * mean)
        layers.append(mean * np.exp(strength * draw - strength**2 / 2))
    xyz = table.look_up(layers)[..., 3:6].mean(axis=1, dtype=float)
    depth = np.maximum.accumulate(_depth(xyz, card.paper_xyz))
    return depth, xyz


def _at(depths: Floats, path: Floats, depth: float) -> Floats:
    return np.array([np.interp(depth, depths, path[:, c]) for c in range(3)])


def _granulation(xyz: Floats, pixels_per_mm: float) -> dict[str, float]:
    """Band-passed L* of the true card, filtered in space; width of its autocorrelation by FFT."""
    import cv2

    lightness = xyz_to_lab(xyz)[..., 0].astype(np.float32)
    slow = cv2.GaussianBlur(lightness, (0, 0), 0.4685 * pixels_per_mm, borderType=cv2.BORDER_REFLECT)
    band = cv2.GaussianBlur(lightness - slow, (0, 0), 0.0625 * pixels_per_mm, borderType=cv2.BORDER_REFLECT)
    band -= band.mean()
    spectrum = np.abs(np.fft.rfft2(band)) ** 2
    correlation = np.fft.irfft2(spectrum, band.shape)
    correlation /= correlation[0, 0]
    lag = min(band.shape) // 3
    y, x = np.mgrid[0:lag, 0:lag]
    radius = np.rint(np.hypot(x, y) * 4).astype(int)
    total = np.bincount(radius.ravel(), correlation[:lag, :lag].ravel())
    count = np.bincount(radius.ravel())
    radii = np.flatnonzero(count)
    profile = total[radii] / count[radii]
    first = int(np.argmax(profile < 0.5))
    r0, r1, p0, p1 = radii[first - 1], radii[first], profile[first - 1], profile[first]
    half = (r0 + (p0 - 0.5) / (p0 - p1) * (r1 - r0)) / 4
    return {"index": float(band.std()), "grain_mm": float(2 * half / pixels_per_mm)}


def _veil(card: PaintedCard, swatch: str, means: dict[str, Floats]) -> float:
    paper, ink = card.paper_xyz, card.ink_xyz
    over, beside = means[f"{swatch}.over_ink"], means[f"{swatch}.beside_ink"]
    transmitted = (beside - over) / (paper - ink)
    return float(((over - transmitted * ink) / paper).max())
