"""Granulation: band-passed unevenness of L* in the wash, less paper, blur and noise (measurement.md 4)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.colour.spaces import lightness
from gelvet.core.measure.grain.blur import blur_gain, cosine_frequency
from gelvet.core.measure.grain.lightness_spectrum import (
    COARSE_SEPARATION_BAND,
    FINE_BAND,
    GRAIN_BAND,
    MOTTLE_BAND,
    SEPARATION_BAND,
    Spectrum,
    band_pass,
    band_variance,
    eye_response,
    eye_variance,
    spectrum_of,
)
from gelvet.core.measure.quantities.texture import GrainAt, Granulation, Tooth
from gelvet.core.measure.uncertainty import from_variance_u
from gelvet.core.measure.values import Absent, ZonePixels
from gelvet.core.measure.zone.averaging import averaged
from gelvet.core.robust import neighbours_noise

MINIMUM_PIXELS_PER_MM = 7.5
FINE_PIXELS_PER_MM = 19.6  # 500 ppi
MINIMUM_SIDE_MM, MOTTLE_SIDE_MM = 5.0, 12.0
BRUSH_MARKS_ABOVE = 0.6
# What the band needs, where many places are judged.
_PLACES_PIXELS_PER_MM = 12.0
# How far the tooth correlation may be from 0 while no raking shot tells (k = 1).
_TOOTH_UNKNOWN = 0.35
# Unevenness in L* below which none is told from none.
_LEAST_TOLD = 0.03
# How well the paper's share of each direction is known, as a share of it: relief differs from place to place.
_PAPER_KNOWN = 0.3
# What blur and noise that are not quite known do to skewness (k = 1, in trials).
_LEAST_OF_SPREAD, _SKEW_U = 0.3, 0.1


@dataclass(frozen=True, slots=True)
class PaperTexture:
    """What bare paper contributes, seen through the same capture: lightness, variance in each band, that of grain in four directions
    (4,), ring spectrum."""

    mean_l: float
    variance: dict[tuple[float, float], float]
    rings: Floats
    sectors: Floats
    eye_variance: float = 0.0

    def scale_to(self, lightness_l: float) -> float:
        """Relief shades in proportion to light, which L* + 16 follows."""
        return (lightness_l + 16) / (self.mean_l + 16)

    def sd(self, band: tuple[float, float], lightness_l: float) -> float:
        """Standard deviation in L* that the paper alone would give a wash of that lightness."""
        return float(np.sqrt(max(self.variance[band], 0.0)) * self.scale_to(lightness_l))


def paper_texture(papers: list[ZonePixels], blur_mm: float | None, noise_l: Floats) -> PaperTexture | None:
    """From the bare paper zones of a capture; None where there is none or the blur is unknown."""
    if not papers or blur_mm is None:
        return None
    spectra = [spectrum_of(p, blur_mm) for p in papers]
    noises = [_noise_of(p, s, noise_l) for p, s in zip(papers, spectra, strict=True)]
    variance = {
        band: float(np.median([band_variance(s, band, n) for s, n in zip(spectra, noises, strict=True)]))
        for band in (GRAIN_BAND, MOTTLE_BAND, FINE_BAND, SEPARATION_BAND, COARSE_SEPARATION_BAND)
    }
    rings = np.mean([_rings(s, n) for s, n in zip(spectra, noises, strict=True)], axis=0)
    sectors = np.median([_sectors(s, n) for s, n in zip(spectra, noises, strict=True)], axis=0)
    eye = [eye_variance(s, n) for s, n in zip(spectra, noises, strict=True)]
    return PaperTexture(float(np.mean([s.mean_l for s in spectra])), variance, rings, sectors, float(np.median(eye)))


def granulation(
    wash: ZonePixels, paper: PaperTexture | None, blur_mm: float | None, noise_l: Floats, where: str, tooth: Tooth | None = None
) -> Granulation | Absent:
    """`paper` is the bare paper of the same capture; `noise_l` (n, 2) lightness and pixel SD of flat patches; `tooth` how the
    pigment goes with the paper's hollows, None where no low lamp tells."""
    refusal = _refusal(wash, paper, blur_mm)
    if refusal or blur_mm is None or paper is None:
        return Absent(refusal or "the capture's blur is unknown")
    spectrum = spectrum_of(wash, blur_mm, without_trend=where == "gradient")
    noise = _noise_of(wash, spectrum, noise_l)
    variance = band_variance(spectrum, GRAIN_BAND, noise)
    paper_sd = paper.sd(GRAIN_BAND, spectrum.mean_l)
    marks = _marks(_sectors(spectrum, noise), paper.sectors * paper.scale_to(spectrum.mean_l) ** 2)
    brush_marks = marks.anisotropy > BRUSH_MARKS_ABOVE
    r = 0.0 if tooth is None else tooth.with_shading
    judged = variance - (marks.excess if brush_marks else 0.0)
    index = grain_index(judged, paper_sd, r)
    grain_mm = _grain_width(spectrum, paper, noise) if index > 0.15 else None
    area = wash.good.size / wash.pixels_per_mm**2
    grains = max(area / (2.3 * (grain_mm or 0.5) ** 2), 4)
    sampling = 0.5 * np.sqrt(2 / grains) * variance / max(index, 0.05)
    afar = _at_arms_length(spectrum, paper, noise)
    wide = max(wash.good.shape) >= MOTTLE_SIDE_MM * wash.pixels_per_mm
    mottle = _in_band(spectrum, paper, MOTTLE_BAND, noise, tooth) if wide else None
    fine = _in_band(spectrum, paper, FINE_BAND, noise, tooth) if wash.pixels_per_mm >= FINE_PIXELS_PER_MM else None
    return Granulation(
        index=float(index),
        grain_mm=grain_mm,
        mottle=None if mottle is None else mottle.index,
        mottle_u=None if mottle is None else mottle.u,
        fine=None if fine is None else fine.index,
        fine_u=None if fine is None else fine.u,
        anisotropy=marks.anisotropy,
        anisotropy_u=_anisotropy_u(marks.anisotropy, grains),
        anisotropy_deg=marks.direction_deg if marks.anisotropy > 0.2 else None,
        brush_marks=brush_marks,
        skew=_skew(spectrum, variance),
        skew_u=float(np.hypot(np.sqrt(6 / grains), _SKEW_U)),
        u=float(np.sqrt(sampling**2 + ((_TOOTH_UNKNOWN if tooth is None else tooth.with_shading_u) * paper_sd) ** 2 + _LEAST_TOLD**2)),
        tooth_correlation=None if tooth is None else tooth.correlation,
        tooth_u=None if tooth is None else tooth.u,
        shaded_index=None if tooth is None else grain_index(judged, paper_sd, tooth.correlation),
        grain_u=None if grain_mm is None else float(grain_mm * (0.02 + 0.7 / np.sqrt(grains))),
        blur_mm=blur_mm,
        gain=float(blur_gain(np.array(GRAIN_BAND[1]), blur_mm)),
        where=where,
        arms_length=afar.index,
        arms_length_u=afar.u,
        spectrum=_ring_curves(spectrum, paper, noise),
    )


def grain_at(
    pixels: ZonePixels, depth: float, where: str, paper: PaperTexture, blur_mm: float, noise_l: Floats, r: float
) -> GrainAt | None:
    """The index of another place of the swatch, whose slow change of depth is taken out; None where it is too small."""
    # Averaging is a blur of its own, and takes white noise off.
    share = min(1.0, _PLACES_PIXELS_PER_MM / pixels.pixels_per_mm)
    pixels = averaged(pixels, _PLACES_PIXELS_PER_MM)
    blur_mm = float(np.hypot(blur_mm, 1 / pixels.pixels_per_mm / np.sqrt(12))) if share < 1 else blur_mm
    small = min(pixels.good.shape) < MINIMUM_SIDE_MM * pixels.pixels_per_mm
    if small or pixels.used_fraction < 0.5 or pixels.pixels_per_mm < MINIMUM_PIXELS_PER_MM:
        return None
    spectrum = spectrum_of(pixels, blur_mm, without_trend=True)
    variance = band_variance(spectrum, GRAIN_BAND, _noise_of(pixels, spectrum, noise_l, share))
    paper_sd = paper.sd(GRAIN_BAND, spectrum.mean_l)
    index = grain_index(variance, paper_sd, r)
    grains = max(pixels.good.size / pixels.pixels_per_mm**2 / 0.6, 4)
    sampling = 0.5 * np.sqrt(2 / grains) * variance / max(index, 0.05)
    return GrainAt(depth=depth, index=index, u=float(np.hypot(sampling, _TOOTH_UNKNOWN * paper_sd + _LEAST_TOLD)), where=where)


def _at_arms_length(spectrum: Spectrum, paper: PaperTexture, noise: float) -> "_InBand":
    under = paper.eye_variance * paper.scale_to(spectrum.mean_l) ** 2
    index = float(np.sqrt(max(eye_variance(spectrum, noise) - under, 0.0)))
    sampling = _sampling_u(spectrum, eye_response(spectrum), index)
    return _InBand(index, float(np.linalg.norm([sampling, _PAPER_KNOWN * under / (2 * max(index, _LEAST_TOLD)), _LEAST_TOLD])))


def _ring_curves(spectrum: Spectrum, paper: PaperTexture, noise: float) -> Floats:
    """Frequency in cycles/mm and SD in L* of each ring of the band, (n, 3): wash, and paper shaded as in the wash."""
    middle = (_RING_EDGES[1:] + _RING_EDGES[:-1]) / 2
    wash = np.sqrt(np.maximum(_rings(spectrum, noise), 0))
    bare = np.sqrt(np.maximum(paper.rings, 0)) * paper.scale_to(spectrum.mean_l)
    # Four rings together are smooth enough to look at.
    curves = np.stack([middle, wash, bare], axis=1).reshape(-1, 4, 3)
    return np.column_stack([curves[..., 0].mean(axis=1), np.sqrt((curves[..., 1:] ** 2).sum(axis=1))])


def grain_index(variance: float, paper_sd: float, r: float) -> float:
    """−r·p + √(v − p²(1 − r²)): relief's shading and settled pigment may sit in the same hollows (measurement.md 4); `r` is how far
    they go together."""
    return max(-r * paper_sd + float(np.sqrt(max(variance - paper_sd**2 * (1 - r * r), 0.0))), 0.0)


def _refusal(wash: ZonePixels, paper: PaperTexture | None, blur_mm: float | None) -> str | None:
    if wash.pixels_per_mm < MINIMUM_PIXELS_PER_MM:
        return f"the resolution of {wash.pixels_per_mm * 25.4:.0f} dpi is too low for grain; 300 dpi would be enough"
    if min(wash.good.shape) < MINIMUM_SIDE_MM * wash.pixels_per_mm:
        return f"the zone is too small for grain; {MINIMUM_SIDE_MM:.0f} mm each way would be enough"
    if wash.used_fraction < 0.5:
        return "too little of the wash could be used"
    if blur_mm is None:
        return "the capture's blur could not be measured on the tags"
    if paper is None:
        return "the card has no bare paper zone to compare with"
    return None


def _noise_of(pixels: ZonePixels, spectrum: Spectrum, noise_l: Floats, share: float = 1.0) -> float:
    """Pixel noise of a zone in L*, of which averaging leaves a `share`: patches tell it, where they are flat. Those printed in dots are
    not, but no zone has more noise than its own neighbours differ by."""
    return min(share * noise_at(noise_l, spectrum.mean_l), neighbours_noise(lightness(pixels.xyz[..., 1])))


def noise_at(noise_l: Floats, lightness: float) -> float:
    """Pixel noise in L* at `lightness`: the median of the patches nearest in lightness."""
    if len(noise_l) == 0:
        return 0.0
    nearest = np.argsort(np.abs(noise_l[:, 0] - lightness))[:7]
    return float(np.median(noise_l[nearest, 1]))


@dataclass(frozen=True, slots=True)
class _InBand:
    """The index in L* of a band beside that of grain, and its standard uncertainty."""

    index: float
    u: float


def _in_band(spectrum: Spectrum, paper: PaperTexture, band: tuple[float, float], noise: float, tooth: Tooth | None) -> _InBand:
    """As the grain's index."""
    variance, paper_sd = band_variance(spectrum, band, noise), paper.sd(band, spectrum.mean_l)
    index = grain_index(variance, paper_sd, 0.0 if tooth is None else tooth.with_shading)
    sampling = _sampling_u(spectrum, spectrum.response(band), index)
    shading = (_TOOTH_UNKNOWN if tooth is None else tooth.with_shading_u) * paper_sd
    return _InBand(index, float(np.sqrt(sampling**2 + shading**2 + _LEAST_TOLD**2)))


def _sampling_u(spectrum: Spectrum, response: Floats, index: float) -> float:
    """Uncertainty of an index from how few periods the zone holds: squares of a Gaussian field's cosines vary as χ² of one degree each,
    so that those of the band's variance add up to 2/3 of the sum of their own squares."""
    parts = spectrum.power(0.0) * response
    return float(np.sqrt(2 / 3 * np.vdot(parts, parts))) / (2 * max(index, _LEAST_TOLD))


_RING_EDGES = np.linspace(0, 6, 121)


def _rings(spectrum: Spectrum, noise: float) -> Floats:
    """Grain-band power, noise taken off, in 120 rings of frequency up to 6 cycles/mm."""
    power = spectrum.power(noise) * spectrum.response(GRAIN_BAND)
    step = _RING_EDGES[1] - _RING_EDGES[0]
    ring = (cosine_frequency(power.shape, spectrum.pixels_per_mm).ravel() / step).astype(np.intp)
    inside = ring < len(_RING_EDGES) - 1
    return np.bincount(ring[inside], power.ravel()[inside], minlength=len(_RING_EDGES) - 1).astype(float)


def _grain_width(spectrum: Spectrum, paper: PaperTexture, noise: float) -> float | None:
    """Full width at half height of the radial autocorrelation, from the ring spectrum by a Hankel sum (Wiener–Khinchin)."""
    from scipy.special import j0

    middle = (_RING_EDGES[1:] + _RING_EDGES[:-1]) / 2
    power = _rings(spectrum, noise) - paper.scale_to(spectrum.mean_l) ** 2 * paper.rings
    power = np.maximum(power, 0)
    if power.sum() <= 0:
        return None
    radius = np.arange(0, 2.0, 0.004)
    correlation = (power[None] * j0(2 * np.pi * radius[:, None] * middle)).sum(axis=1) / power.sum()
    below = int(np.argmax(correlation < 0.5))
    if below == 0:
        return None
    before, after = correlation[below - 1], correlation[below]
    return float(2 * (radius[below - 1] + (before - 0.5) / (before - after) * 0.004))


def _sectors(spectrum: Spectrum, noise: float) -> Floats:
    """Variance (4,) of L* in the grain band, the sensor's noise taken off, of waves that run in four sectors around 0, 45, 90 and
    135 degrees."""
    from scipy.fft import fft2

    window, response, sector = _waves_of(spectrum.lightness.shape, spectrum.pixels_per_mm)
    power = np.abs(fft2(spectrum.lightness * window)) ** 2 * response
    shares = np.bincount(sector.ravel(), power.ravel(), minlength=4)
    seen, true = band_variance(spectrum, GRAIN_BAND, 0.0), band_variance(spectrum, GRAIN_BAND, noise)
    # Noise goes all ways alike.
    return np.asarray(seen * shares / max(float(shares.sum()), 1e-12) - (seen - true) / 4)


@lru_cache(maxsize=8)
def _waves_of(shape: tuple[int, int], pixels_per_mm: float) -> tuple[Floats, Floats, Image]:
    """For a zone (h, w): the window that fades it out at its border, and of each of its waves the squared response of the grain band
    and the sector, 0 to 3."""
    height, width = shape
    window = np.hanning(height)[:, None] * np.hanning(width)[None]
    fy = np.fft.fftfreq(height, 1 / pixels_per_mm)[:, None]
    fx = np.fft.fftfreq(width, 1 / pixels_per_mm)[None]
    sector = np.round((np.degrees(np.arctan2(fy, fx)) % 180) / 45).astype(np.int8) % 4
    return window.astype(np.float32), (band_pass(np.hypot(fx, fy), GRAIN_BAND) ** 2).astype(np.float32), sector


@dataclass(frozen=True, slots=True)
class _Marks:
    """Anisotropy 0 to 1, the direction of the marks, and by how much variance the strongest sector exceeds the mean of the others."""

    anisotropy: float
    direction_deg: float
    excess: float


def _marks(wash: Floats, paper: Floats) -> _Marks:
    """From the variances (4,) of the wash and of the paper beneath it: the relief is shaded one way by a lamp on one side, which is no
    brush's doing."""
    own = np.maximum(wash - paper, _PAPER_KNOWN * float(paper.mean()) + 1e-9)
    strongest = int(np.argmax(own))
    others = float(np.delete(own, strongest).mean())
    spread = float((own.max() - own.min()) / (own.max() + own.min()))
    return _Marks(spread, float((45 * strongest + 90) % 180), float(own.max()) - others)


def _anisotropy_u(anisotropy: float, grains: float) -> float:
    """Of (max − min)/(max + min) of two sectors' variances, each told by a quarter of so many grains."""
    return float((1 - anisotropy**2) * from_variance_u(1.0, grains / 4) * np.sqrt(2))


def _skew(spectrum: Spectrum, variance: float) -> float:
    """Skewness of the band-passed darkness, of `variance` without the sensor's noise, which is not skewed: dark specks +, pale
    specks -."""
    from scipy.fft import idctn

    band = idctn(spectrum.coefficients * np.sqrt(spectrum.response(GRAIN_BAND)), norm="ortho")
    centred = band - band.mean()
    # Where nearly all is noise, a spread without it would be a division by nothing.
    spread = float(np.sqrt(max(variance, _LEAST_OF_SPREAD * float(centred.var()))))
    return float(-np.mean(centred * centred * centred) / spread**3) if spread > 1e-6 else 0.0
