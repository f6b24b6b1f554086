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
from gelvet.core.simulate.application import along
from gelvet.core.simulate.paint import layer_table, pigment_amounts
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, paper_reflectance

# Paint is laid 0.4 mm beyond a zone, and what is told of it keeps 0.6 mm away from its edge.
_BORDER_MM = 1.0


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
    masstone = means.get(f"{swatch}.masstone")
    dilution = {} if masstone is None else _dilution(card, swatch, masstone, warmth)
    return {**dilution, **_zone_truths(card, swatch, means)}


def _dilution(card: PaintedCard, swatch: str, masstone: Floats, warmth: float) -> dict[str, Any]:
    """What follows from the paint's colours from `masstone` (3,) to the wash."""
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
    }  # fmt: skip


def _zone_truths(card: PaintedCard, swatch: str, means: dict[str, Floats]) -> dict[str, Any]:
    """What zones of their own tell, for those that the card has."""
    own = {z.kind: f"{swatch}.{z.kind}" for z in card.layout.zones if z.id == f"{swatch}.{z.kind}"}
    found: dict[str, Any] = {}
    if "wash" in own:
        found["granulation"] = _granulation(card.zone_xyz[own["wash"]], card.pixels_per_mm)
        found["separation"] = _separation(card, swatch, own["wash"])
    if {"over_ink", "beside_ink"} <= own.keys():
        found["hiding"] = {
            "veil": _veil(card, means[own["over_ink"]], means[own["beside_ink"]]),
            "contrast_ratio": float(means[own["over_ink"]][1] / means[own["beside_ink"]][1]),
            "hiding": _hides(card, means[own["over_ink"]], means[own["beside_ink"]]),
        }
    if {"lifted", "unlifted"} <= own.keys():
        lifted, unlifted = (_depth(means[own[kind]], card.paper_xyz) for kind in ("lifted", "unlifted"))
        residue = ciede2000(xyz_to_lab(means[own["lifted"]]), xyz_to_lab(card.paper_xyz))
        found["lifting"] = {
            "removed": float(1 - lifted / unlifted),
            "residual_de00": float(residue),
            "damage": _steepness(card, own["lifted"]) / _steepness(card, own["unlifted"]) - 1,
        }
    beside = {int(z.extra["layers"]): z.id for z in card.layout.zones if z.kind == "glaze" and z.swatch == swatch and "layers" in z.extra}
    layered = [z for z in card.layout.zones if z.kind == "over_ink" and z.swatch == swatch and z.extra.get("layers") in beside]
    if layered:
        found["glaze"] = {
            "hiding": [{"layers": z.extra["layers"], "veil": _veil(card, means[z.id], means[beside[z.extra["layers"]]])} for z in layered],
            "stirred": [_unevener(card, beside[count], beside[1]) for count in sorted(beside) if count > 1 and 1 in beside],
        }
    if "wet_drop" in own:
        found["wet_drop"] = {"reach_mm": _reach(card, own["wet_drop"])}
    if "water_drop" in own:
        found["water_drop"] = _water_drop(card, own["water_drop"])
    if "tilt" in own:
        found["tilt"] = _ends_of_strip(card, own["tilt"], swatch)
    effects = [z for z in card.layout.zones if z.kind == "effect" and z.swatch == swatch]
    if effects and "wash" in own:
        plain = float(xyz_to_lab(card.zone_xyz[own["wash"]])[..., 0].var())
        found["effects"] = [
            {
                "effect": z.extra.get("effect", "salt"),
                "contrast": float(np.sqrt(max(float(xyz_to_lab(card.zone_xyz[z.id])[..., 0].var()) - plain, 0.0))),
            }
            for z in effects
        ]
    steps = [
        (float(z.extra["dilution"]), means[z.id])
        for z in card.layout.zones
        if z.kind == "step" and z.swatch == swatch and "dilution" in z.extra
    ]
    if len(steps) > 1:
        found["strength"] = _strength(card, sorted(steps, key=lambda step: step[0]))
    if {"exposed", "covered"} <= own.keys():
        covered, exposed = (xyz_to_lab(means[own[kind]]) for kind in ("covered", "exposed"))
        found["fade"] = {"delta_e_ab": float(np.linalg.norm(exposed - covered)), "delta_e00": float(ciede2000(covered, exposed))}
    return found


def _path(card: PaintedCard, swatch: str, warmth: float) -> tuple[Floats, Floats]:
    """Depth (n,) rising and mean XYZ (n, 3) for nominal amounts, averaged over the grain of each."""
    paint = card.paints[swatch]
    observer = np.tile(observer_d50(WAVELENGTHS_NM), (1, 2))
    table = layer_table(paint, paper_reflectance(warmth), observer, wet=card.state == "wet")
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
    """Band-passed L* of the true card, filtered in space; width of its autocorrelation by FFT, padded so that it does not run round."""
    from scipy.fft import irfft2, next_fast_len, rfft2

    lightness = xyz_to_lab(xyz)[..., 0].astype(np.float32)
    band = _band(lightness, pixels_per_mm, 0.4685, 0.0625)
    padded, lag = [next_fast_len(2 * side, real=True) for side in band.shape], min(band.shape) // 3
    sums = irfft2(np.abs(rfft2(band, padded)) ** 2, padded)[:lag, :lag]
    pairs = np.outer(*(side - np.arange(lag) for side in band.shape))
    correlation = sums / pairs
    correlation /= correlation[0, 0]
    y, x = np.mgrid[0:lag, 0:lag]
    radius = np.rint(np.hypot(x, y) * 4).astype(int)
    total = np.bincount(radius.ravel(), correlation[:lag, :lag].ravel())
    count = np.bincount(radius.ravel())
    radii = np.flatnonzero(count)
    profile = total[radii] / count[radii]
    first = int(np.argmax(profile < 0.5))
    r0, r1, p0, p1 = radii[first - 1], radii[first], profile[first - 1], profile[first]
    half = (r0 + (p0 - 0.5) / (p0 - p1) * (r1 - r0)) / 4
    return {
        "index": float(band.std()),
        "grain_mm": float(2 * half / pixels_per_mm),
        "mottle": float(_band(lightness, pixels_per_mm, 1.874, 0.4685).std()),
        "fine": float(_band(lightness, pixels_per_mm, 0.0625, 0.0375).std()),
        "skew": float(-np.mean((band / band.std()) ** 3)),
    }


def _band(values: Floats, pixels_per_mm: float, slow_mm: float, calm_mm: float) -> Floats:
    """Values (h, w) less their mean over a Gaussian of σ `slow_mm`, calmed by one of `calm_mm`, about 0."""
    import cv2

    slow = cv2.GaussianBlur(values, (0, 0), slow_mm * pixels_per_mm, borderType=cv2.BORDER_REFLECT)
    band = cv2.GaussianBlur(values - slow, (0, 0), calm_mm * pixels_per_mm, borderType=cv2.BORDER_REFLECT)
    return np.asarray(band - band.mean())


def _separation(card: PaintedCard, swatch: str, wash: str) -> dict[str, Any]:
    """RMS distance in a*b* of the noiseless wash from what the paint has on average at each depth, 0.1 to 3 cycles/mm; and the
    colours that the two pigments alone would give the wash."""
    kinds = ("masstone", "gradient", "wash")
    every = np.concatenate([card.zone_xyz[z.id].reshape(-1, 3) for z in card.layout.zones if z.swatch == swatch and z.kind in kinds])
    depth, ab = _depth(every, card.paper_xyz), xyz_to_lab(every)[:, 1:]
    order = np.argsort(depth)[:: max(1, len(depth) // 200_000)]
    width = max(len(order) // 150, 25)
    running = np.stack([np.convolve(ab[order, c], np.ones(width) / width, mode="valid") for c in range(2)], axis=1)
    middle = depth[order][width // 2 : width // 2 + len(running)]
    own = card.zone_xyz[wash]
    own_depth, own_ab = _depth(own, card.paper_xyz), xyz_to_lab(own)[..., 1:]
    variance = 0.0
    for c in range(2):
        off = (own_ab[..., c] - np.interp(own_depth, middle, running[:, c])).astype(np.float32)
        variance += float(_band(off, card.pixels_per_mm, 1.874, 0.0625).var())
    return {"index": float(np.sqrt(variance)), "components": _components(card, swatch)}


def _components(card: PaintedCard, swatch: str) -> list[dict[str, Any]]:
    """Colour of each pigment of the wash alone, by its own amount."""
    paint, amount = card.paints[swatch], np.array([[card.applied[swatch].wash]])
    if len(paint.pigments) < 2:
        return []
    table = layer_table(paint, paper_reflectance(0.5), np.tile(observer_d50(WAVELENGTHS_NM), (1, 2)))
    own = pigment_amounts(paint, amount)
    alone = [[own[0], 0 * own[1]], [0 * own[0], own[1]]]
    return [{"lab": xyz_to_lab(table.look_up([np.asarray(a) for a in amounts])[0, 0, 3:6].astype(float)).tolist()} for amounts in alone]


def _veil(card: PaintedCard, over: Floats, beside: Floats) -> float:
    paper, ink = card.paper_xyz, card.ink_xyz
    transmitted = (beside - over) / (paper - ink)
    return float(((over - transmitted * ink) / paper).max())


def _hides(card: PaintedCard, over: Floats, beside: Floats) -> float:
    """Share of the lightness between paper and ink that the paint takes."""
    paper, ink, above, next_to = (float(xyz_to_lab(xyz)[0]) for xyz in (card.paper_xyz, card.ink_xyz, over, beside))
    return 1 - (next_to - above) / (paper - ink)


def _steepness(card: PaintedCard, zone: str) -> float:
    """RMS slope of the paper's relief in the middle of a zone."""
    rect, s = card.layout.zone(zone).rect.inset(0.8), card.pixels_per_mm
    inside = card.relief[round(rect.y * s) : round(rect.bottom * s), round(rect.x * s) : round(rect.right * s)]
    return float(np.sqrt(np.mean(np.square(np.gradient(inside)))))


def _ends_of_strip(card: PaintedCard, zone: str, swatch: str) -> dict[str, Any]:
    """Colour where a strip began and where it ran to, over eighteen hundredths of it at each end, clear of its border; and how far both
    lie apart in a*, b* beyond what dilution makes of the paint."""
    clear = round(_BORDER_MM * card.pixels_per_mm)
    xyz = card.zone_xyz[zone][clear:-clear, clear:-clear]
    way = along(card.layout.zone(zone), xyz.shape[:2])
    ends = {"head": way < 0.18, "tail": way > 0.82}
    means = {name: xyz[part].mean(axis=0, dtype=float) for name, part in ends.items()}
    depths, path = _path(card, swatch, 0.5)
    head, tail = (xyz_to_lab(m)[1:] - xyz_to_lab(_at(depths, path, float(_depth(m, card.paper_xyz))))[1:] for m in means.values())
    return {name: xyz_to_lab(mean).tolist() for name, mean in means.items()} | {"parted": float(np.linalg.norm(head - tail))}


def _unevener(card: PaintedCard, layers: str, one: str) -> float:
    """How much more the depth of some layers varies than that of one, as a share of it, in quadrature."""
    import cv2

    varies = []
    for name in (layers, one):
        depth = _depth(card.zone_xyz[name], card.paper_xyz)
        calm = cv2.GaussianBlur(depth, (0, 0), 0.125 * card.pixels_per_mm) - cv2.GaussianBlur(depth, (0, 0), 1.874 * card.pixels_per_mm)
        varies.append(float(np.var(calm) / np.mean(depth) ** 2))
    return float(np.sqrt(max(varies[0] - varies[1], 0.0)))


def _from_middle(shape: tuple[int, ...], pixels_per_mm: float) -> Floats:
    """Distance (h, w) in mm from the middle of a zone, where the drops fell."""
    y, x = np.mgrid[: shape[0], : shape[1]]
    return np.asarray(np.hypot(y - (shape[0] - 1) / 2, x - (shape[1] - 1) / 2) / pixels_per_mm)


def _rings(card: PaintedCard, zone: str) -> tuple[Floats, Floats]:
    """Radii (n,) in mm and mean depth (n,) of rings round the middle of a zone."""
    depth = _depth(card.zone_xyz[zone], card.paper_xyz)
    ring = (_from_middle(depth.shape, card.pixels_per_mm) / 0.1).astype(int).ravel()
    count = np.bincount(ring)
    return (np.arange(len(count)) + 0.5) * 0.1, np.bincount(ring, depth.ravel()) / np.maximum(count, 1)


def _reach(card: PaintedCard, zone: str) -> float:
    """Where the depth has fallen to a tenth of what it is where the brush touched."""
    radii, depth = _rings(card, zone)
    middle = float(depth[:8].mean())
    return float(np.interp(0.1 * middle, depth[::-1], radii[::-1]))


def _water_drop(card: PaintedCard, zone: str) -> dict[str, float]:
    """Area inside the darkest ring, and that ring's depth over that of the wash outside."""
    radii, depth = _rings(card, zone)
    inside = radii < 0.45 * min(card.layout.zone(zone).rect.width, card.layout.zone(zone).rect.height)
    darkest = int(np.argmax(depth[inside]))
    outside = float(np.median(depth[inside][radii[inside] > radii[darkest] + 1.5]))
    return {"area_mm2": float(np.pi * radii[darkest] ** 2), "rim": float(depth[darkest] / outside)}


def _strength(card: PaintedCard, steps: list[tuple[float, Floats]]) -> dict[str, Any]:
    """Slope of K/S above the paper's against the paint fraction of rising `steps` (with their XYZ), at the channel that the most painted
    one absorbs most, and the fraction at which half of the paper's light in it is gone."""
    white = observer_d50(WAVELENGTHS_NM).sum(axis=0)
    share = np.array([s for s, _ in steps])
    seen = np.array([xyz for _, xyz in steps]) / white
    channel = int(np.argmin(seen[-1] / (card.paper_xyz / white)))

    def ratio(r: Floats) -> Floats:
        return np.asarray((1 - r) ** 2 / (2 * r))

    rise = ratio(seen[:, channel]) - ratio(np.asarray(card.paper_xyz / white)[channel])
    gone = -np.log2(seen[:, channel] / np.asarray(card.paper_xyz / white)[channel])
    halved = float(np.interp(1.0, np.append(0.0, gone), np.append(0.0, share))) if gone[-1] >= 1 else None
    return {"slope": float((share * rise).sum() / (share**2).sum()), "half_light": halved}
