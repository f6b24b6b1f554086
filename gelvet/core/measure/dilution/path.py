"""The dilution path from masstone to wash: colour as a function of tint depth (measurement.md 3)."""

from itertools import pairwise

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_xyz, xyz_to_lab
from gelvet.core.measure.dilution.density_path import DensityPath, smoothed
from gelvet.core.measure.quantities.colour import HALF_SHARE, WASH_SHARE, DilutionPath
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels, tint_depth

APERTURE_MM = 0.5
_BINS = 48
_PATH_POINTS = 40
# The gradient is ordered by place where its deepest stretch is this far from its masstone end, or it falls this much.
_DEEPEST_WITHIN, _MAY_FALL = 0.35, 0.88
# Without a masstone this share of the gradient's deepest tenth must be usable: dust and what the brush missed leave more.
_USED_AT_HEAD = 0.8


def dilution_path(
    gradient: ZonePixels | None,
    axis: str,
    others: list[ZonePixels],
    masstone: ZoneColour | Absent,
    paper: Floats,
) -> DilutionPath | Absent:
    """Path through the gradient and the other zones of the same paint (masstone, wash, steps)."""
    if gradient is None and isinstance(masstone, Absent):
        return Absent("the card has neither a gradient nor a masstone zone for this paint")
    # What spoilt the masstone, such as light too faint to be told, has mostly spoilt the gradient's deepest paint too: what is
    # deepest of the rest is no masstone. Even where part of it can be used, that is the palest part.
    if gradient is not None and isinstance(masstone, Absent) and _used_at_head(gradient, axis) < _USED_AT_HEAD:
        return Absent(f"too little of the gradient's deepest paint could be used; masstone: {masstone.reason}")
    profile = None if gradient is None else _profile_along(gradient, axis)
    if profile is not None and _order_by_place(tint_depth(profile, paper)):
        return _path_by_place(profile, masstone, paper)
    own = np.empty((0, 3)) if gradient is None else aperture_samples(gradient)
    xyz = np.concatenate([own, *(aperture_samples(p) for p in others)])
    if len(xyz) < 20:
        return Absent("too little of the gradient could be used")
    if isinstance(masstone, Absent):
        masstone = _deepest_decile(own, tint_depth(own, paper))
    return _path_by_depth(xyz, masstone, paper)


def aperture_samples(pixels: ZonePixels) -> Floats:
    """XYZ (n, 3) averaged over a masked Gaussian aperture of σ 0.5 mm, every quarter millimetre."""
    import cv2

    sigma = APERTURE_MM * pixels.pixels_per_mm
    weight = pixels.good.astype(np.float32)
    mass = cv2.GaussianBlur(weight, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT)
    total = cv2.GaussianBlur(pixels.xyz * weight[..., None], (0, 0), sigma, borderType=cv2.BORDER_CONSTANT)
    step = max(1, round(0.25 * pixels.pixels_per_mm))
    mass, total = mass[::step, ::step], total[::step, ::step]
    enough = mass > 0.45
    return np.asarray((total[enough] / mass[enough][:, None]).astype(np.float64))


def _used_at_head(gradient: ZonePixels, axis: str) -> float:
    """What share of the gradient's deepest tenth by place can be used."""
    along = np.swapaxes(gradient.good, 0, 1) if "y" in axis else gradient.good
    tenth = max(1, along.shape[1] // 10)
    return float((along[:, -tenth:] if axis.startswith("-") else along[:, :tenth]).mean())


def _profile_along(gradient: ZonePixels, axis: str) -> Floats:
    """Mean XYZ (n, 3) across the gradient, from masstone to wash, one value each quarter millimetre."""
    across = 1 if "y" in axis else 0
    weight = gradient.good.astype(np.float64)[..., None]
    mass = weight.sum(axis=across)
    total = (gradient.xyz * weight).sum(axis=across)
    lines = total / np.maximum(mass, 1)
    usable = mass[:, 0] > 0.3 * gradient.good.shape[across]
    lines = lines[usable]
    if axis.startswith("-"):
        lines = lines[::-1]
    step = max(1, round(0.25 * gradient.pixels_per_mm))
    count = len(lines) // step
    return np.asarray(lines[: count * step].reshape(count, step, 3).mean(axis=1)) if count else np.empty((0, 3))


def _order_by_place(depth: Floats) -> bool:
    """Whether depth saturates or falls along the gradient, so that it cannot order it."""
    if len(depth) < 12:
        return False
    smooth = np.convolve(depth, np.ones(7) / 7, mode="valid")
    deepest = int(np.argmax(smooth))
    start = float(smooth[: max(3, len(smooth) // 12)].mean())
    falls = start < _MAY_FALL * float(smooth[deepest])
    return bool(falls and deepest > _DEEPEST_WITHIN * 0.5 * len(smooth)) or deepest > _DEEPEST_WITHIN * len(smooth)


def _path_by_depth(xyz: Floats, colour: ZoneColour, paper: Floats) -> DilutionPath | Absent:
    depth = tint_depth(xyz, paper)
    masstone_depth = float(tint_depth(colour.xyz, paper))
    if masstone_depth < 0.03:
        return Absent("the masstone is hardly darker than the bare paper")
    bin_depth, bin_xyz, count = _bins(xyz, depth)
    grid = np.linspace(bin_depth[0], bin_depth[-1], 4 * _PATH_POINTS)
    painted = np.log10(paper / bin_xyz)
    # The palest quarter-percent is noise: what a few hundred samples agree on is what was reached.
    palest = float(np.quantile(depth, 0.01))
    density = smoothed(bin_depth, painted, count, grid)
    densities = DensityPath(
        depth=grid, density=density, painted=(bin_depth, painted), palest=palest, masstone=np.log10(paper / colour.xyz)
    )  # fmt: skip
    return _assemble(densities, colour, masstone_depth, paper, by_place=False)


def _deepest_decile(xyz: Floats, depth: Floats) -> ZoneColour:
    """Mean of the deepest tenth; its uncertainty is spatial only, the calibration's comes with the path's ends."""
    chosen = xyz[depth >= np.quantile(depth, 0.9)]
    mean = chosen.mean(axis=0)
    labs = xyz_to_lab(chosen)
    # Neighbouring apertures overlap: about one in sixteen is a reading of its own.
    own = max(len(chosen) / 16, 1.0)
    spatial_lab = labs.std(axis=0) / np.sqrt(own)
    spatial = float(np.sqrt(np.mean(ciede2000(labs, xyz_to_lab(mean)) ** 2) / own))
    return ZoneColour(xyz=mean, sd=labs.std(axis=0), u=spatial, u_lab=spatial_lab, u_spatial=spatial, used_fraction=1.0)


def _bins(xyz: Floats, depth: Floats) -> tuple[Floats, Floats, Floats]:
    """Robust means in bins of depth: (k,) rising depth, (k, 3) XYZ, (k,) weight."""
    low, high = np.quantile(depth, [0.002, 0.999])
    index = np.clip(((depth - low) / max(high - low, 1e-6) * _BINS).astype(int), 0, _BINS - 1)
    rising = np.argsort(index, kind="stable")
    starts = np.searchsorted(index[rising], np.arange(_BINS + 1))
    xyz, logarithm, depth = xyz[rising], np.log10(xyz)[rising], depth[rising]
    depths, colours, counts = [], [], []
    for start, end in pairwise(starts):
        if end - start < 5:
            continue
        distance = np.linalg.norm(logarithm[start:end] - np.median(logarithm[start:end], axis=0), axis=1)
        core = xyz[start:end][distance <= np.quantile(distance, 0.9)]
        depths.append(float(np.mean(depth[start:end])))
        colours.append(core.mean(axis=0))
        counts.append(len(core))
    return np.array(depths), np.array(colours), np.array(counts, dtype=float)


def _path_by_place(profile: Floats, masstone: ZoneColour | Absent, paper: Floats) -> DilutionPath | Absent:
    """Along the axis, for paints whose depth saturates or falls: the palest end decides where the wash lies."""
    depth = tint_depth(profile, paper)
    colour = _deepest_decile(profile, depth) if isinstance(masstone, Absent) else masstone
    masstone_depth = float(tint_depth(colour.xyz, paper))
    if masstone_depth < 0.03:
        return Absent("the masstone is hardly darker than the bare paper")
    smooth = np.stack([np.convolve(np.log10(paper / profile)[:, c], np.ones(5) / 5, mode="valid") for c in range(3)], axis=1)
    from_pale = smooth[::-1]
    pale_depth = np.maximum.accumulate(from_pale.max(axis=1))
    rising, first = np.unique(pale_depth, return_index=True)
    along = from_pale[first]
    densities = DensityPath(
        depth=rising, density=along, painted=(rising, along), palest=float(rising[0]), masstone=np.log10(paper / colour.xyz)
    )
    return _assemble(densities, colour, masstone_depth, paper, by_place=True)


def _assemble(densities: DensityPath, masstone: ZoneColour, masstone_depth: float, paper: Floats, *, by_place: bool) -> DilutionPath:
    half, wash = HALF_SHARE * masstone_depth, WASH_SHARE * masstone_depth
    palest = densities.palest
    points = np.linspace(masstone_depth, max(min(palest, wash), 0.02), _PATH_POINTS)
    path = np.array([densities.at(float(p)) for p in points])
    path[0] = densities.masstone
    return DilutionPath(
        depth=points,
        xyz=paper * 10**-path,
        masstone=masstone,
        masstone_depth=masstone_depth,
        half_xyz=paper * 10 ** -densities.at(half),
        wash_xyz=paper * 10 ** -densities.at(wash),
        gradient_ends_at=None if palest <= wash * 1.02 else palest,
        by_place=by_place,
        half_doubt=densities.doubt(half, paper),
        wash_doubt=densities.doubt(wash, paper),
    )


def wash_moves(path: DilutionPath, paper: Floats) -> Floats:
    """How far (3,) in L*, a*, b* the wash moves when the masstone's depth is wrong by its standard uncertainty.

    A masstone that sends back next to nothing in one of X, Y, Z has a depth that hardly any measurement fixes, and the wash
    is sought at a share of it.
    """
    deeper = path.masstone_depth + depth_uncertainty(path.masstone, paper)
    usual, wanted = WASH_SHARE * path.masstone_depth, min(WASH_SHARE * deeper, path.masstone_depth)
    rising = path.depth[::-1]
    density = np.log10(paper / path.xyz)[::-1]
    moved = np.array([np.interp(wanted, rising, density[:, c]) - np.interp(usual, rising, density[:, c]) for c in range(3)])
    return np.asarray(xyz_to_lab(path.wash_xyz * 10**-moved) - path.wash_lab)


def depth_uncertainty(zone: ZoneColour, paper: Floats) -> float:
    """Standard uncertainty of the tint depth of `zone` over `paper` (XYZ, (3,)), from that of its L*a*b*."""
    channel = int(np.argmax(paper / np.maximum(zone.xyz, 1e-3)))
    moved = np.maximum(lab_to_xyz(zone.lab + np.diag(zone.u_lab))[:, channel], 1e-3)
    return float(np.linalg.norm(np.log10(moved / max(float(zone.xyz[channel]), 1e-3))))
