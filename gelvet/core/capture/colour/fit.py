"""Tone curve and colour model fitted together to the reference patches; the model picked by leave-one-out CIEDE2000."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Integers, Mask
from gelvet.core.capture.colour.gamut import Gamut, gamut_of
from gelvet.core.capture.colour.likely_spectra import LIKELY_NM, likely_spectra
from gelvet.core.capture.colour.models import EXPANSIONS, ColourModel, perceptual_weights
from gelvet.core.capture.colour.paint_paths import PaintPaths
from gelvet.core.capture.colour.tone_curve import KNOTS, ToneCurve, power_curve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab

# Neutral patches carry the tone curve and the paper: they count more.
_NEUTRAL_CHROMA = 6.0
_NEUTRAL_WEIGHT = 1.5
# How stiff the tone curve is: one unit of bend in the log-slope costs as much as this many ΔE.
_BEND_COST = 1.2
_OFFSET_COST = 1 / 0.004
SPECTRAL_MINIMUM_PATCHES = 20
SPECTRAL_BENEFIT = 1.35
# How far, in L*, the device that the spectra show may misread left-out patches and still be known well.
WELL_READ_L = 0.5
# An ink's colour guessed as a paint's errs by a few ΔE00; by more than this, in the mean, the spectra are not these patches'.
STRANGE_DE00 = 8.0
_PATCH_REACH, _PAINT_REACH = 14.0, 5.0
# Greys, and colours of chroma 40 and more, that a model of patches alone sees as paints.
_GREY_STRETCH, _VIVID_STRETCH, _VIVID = 1.4, 3.0, 40.0
PATCH_PART = 0.7
# A patch is left out beyond both of these, if at most this share of all is.
_STRAY_DE00, _STRAY_TIMES, _STRAY_SHARE = 9.0, 7.0, 0.25
_DRAWN, _DRAWS, _OF_SUBSETS = 9, 300, "root-polynomial-2"
_RIDGES = (1e-4, 3e-3, 3e-2, 0.3)


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownErrors:
    """What a model gets wrong on colours whose truth is known: L*a*b* (n, 3), CIEDE2000 (n,), error vectors (n, 3)."""

    lab: Floats
    de00: Floats
    error_lab: Floats

    def near(self, lab: Floats, reach: float) -> tuple[float, Floats]:
        """RMS of CIEDE2000, and (3,) of the L*, a*, b* errors, of the colours around `lab` (3,).

        `reach` is the σ of the neighbourhood in ΔE*ab near grey; it widens with chroma as tolerances do. Beyond all known
        colours the errors are enlarged with the distance.
        """
        scale = 1 + 0.02 * np.hypot(self.lab[:, 1], self.lab[:, 2])
        distance = np.linalg.norm(self.lab - lab, axis=1) / scale
        weight = np.exp(-0.5 * (distance / reach) ** 2) + 1e-3 / len(self.lab)
        weight /= weight.sum()
        beyond = 1 + max(0.0, float(np.sort(distance)[:2].mean()) - 10) / 40
        return float(np.sqrt(weight @ self.de00**2)) * beyond, np.sqrt(weight @ self.error_lab**2) * beyond


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourFit:
    """A device described: `tone`, `model`, and what they leave at the patches (n,) in CIEDE2000.

    `on_paints` are the errors to be expected on paints, and `paths` those along whole paints, where spectra tell of them.
    `gamut` encloses the patches. `plain_at_patches` is what the best model that knows the patches alone gets wrong on them.
    """

    tone: ToneCurve
    model: ColourModel
    residual_de00: Floats
    cross_validated_de00: Floats
    cross_validated_lab: Floats  # (n, 3) error vectors, predicted less known
    reference_lab: Floats  # (n, 3)
    on_paints: KnownErrors | None = None
    paths: PaintPaths | None = None
    gamut: Gamut | None = None
    plain_at_patches: KnownErrors | None = None

    @property
    def at_patches(self) -> KnownErrors:
        """What is wrong with the capture at each patch when it is left out: of the two models the one that knows inks better.
        A model for paints cannot know a left-out ink as one of like inks does, and that is no fault of the capture."""
        own = KnownErrors(lab=self.reference_lab, de00=self.cross_validated_de00, error_lab=self.cross_validated_lab)
        plain = self.plain_at_patches
        return own if plain is None or own.de00.mean() <= plain.de00.mean() else plain

    def uncertainty(self, lab: Floats) -> tuple[float, Floats]:
        """Standard uncertainty near `lab` (3,): CIEDE2000, and (3,) in L*, a*, b*."""
        de, parts = self.at_patches.near(lab, _PATCH_REACH)
        if self.on_paints is None:
            # Paints are not the target's inks: in trials their errors are this much larger, growing from grey to vivid.
            stretch = float(np.interp(np.hypot(lab[1], lab[2]), [0, _VIVID], [_GREY_STRETCH, _VIVID_STRETCH]))
            return de * stretch, parts * stretch
        # What paints make of the model, and what the patches show to be wrong with it, come together; the second is
        # partly the first again. The share is set so that twice the sum holds 95 % of the errors in trials.
        paint_de, paint_parts = self.on_paints.near(lab, _PAINT_REACH)
        return float(np.hypot(PATCH_PART * de, paint_de)), np.hypot(PATCH_PART * parts, paint_parts)


@dataclass(frozen=True, slots=True, kw_only=True)
class PatchReadings:
    """Mean code values (n, 3) 0 to 1, known XYZ (n, 3), and the light (n, 3) that falls on each patch, about 1."""

    code: Floats
    xyz: Floats
    light: Floats
    wavelengths_nm: Floats | None = None
    spectra: Floats | None = None  # (n, m) reflectance 0 to 1
    guessed: bool = False  # the spectra are those that the colours make likely

    def only(self, kept: Mask) -> "PatchReadings":
        """Those where `kept` (n,) is True."""
        spectra = None if self.spectra is None else self.spectra[kept]
        return replace(self, code=self.code[kept], xyz=self.xyz[kept], light=self.light[kept], spectra=spectra)


def fit_colour(readings: PatchReadings, start: ToneCurve) -> ColourFit:
    """The best candidate, each with its own tone curve, sought from `start` on."""
    from gelvet.core.capture.colour.spectral_fit import fit_with_spectra, judged_on_paints

    candidates = [_fit_candidate(readings, name, [start]) for name in _affordable(len(readings.code))]
    plain = min(candidates, key=_score)
    if len(readings.code) < SPECTRAL_MINIMUM_PATCHES:
        return plain
    if readings.spectra is None:
        readings = replace(readings, wavelengths_nm=LIKELY_NM, spectra=likely_spectra(readings.xyz), guessed=True)
    # Inks on a target say little about paints beyond them, and nothing where they are few: a model that knows no more than
    # they do may still win on them. Where the device that the spectra show reads the patches as they are, it knows better.
    spectral = fit_with_spectra(readings, plain)
    if spectral.fit.cross_validated_de00.mean() > STRANGE_DE00:
        return plain
    well_read = not readings.guessed and spectral.misread_l <= WELL_READ_L
    if well_read or _score(spectral.fit) <= SPECTRAL_BENEFIT * _score(plain):
        return replace(spectral.fit, plain_at_patches=plain.at_patches)
    return judged_on_paints(plain, readings)


def stray_patches(fit: ColourFit, readings: PatchReadings) -> Mask:
    """Patches (n,) that stand far outside all others: covered, stained or mirroring a lamp. None where many seem to.

    A few bad ones draw a model toward them, and make good ones look bad; so the rest is judged by the model, of those through a few
    patches drawn at random, that suits most of them best (P. J. Rousseeuw, J. Am. Stat. Assoc. 79 (1984) 871-880).
    """
    count = len(readings.code)
    none = np.zeros(count, dtype=bool)
    if float(fit.at_patches.de00.max()) <= _STRAY_DE00 or count < 2 * _DRAWN:
        return none
    judged = _Subset(readings, fit.tone)
    rng = np.random.default_rng(0)
    drawn = (judged.off_by(rng.choice(count, _DRAWN, replace=False)) for _ in range(_DRAWS))
    de = min(drawn, key=lambda off: float(np.percentile(off, 100 * (1 - _STRAY_SHARE))))
    for share in (0.5, 1 - _STRAY_SHARE):
        de = judged.off_by(np.argsort(de)[: int(share * count)])
    stray = _far_off(de)
    if stray.any():
        # The tone curve was fitted to them all, and a bent one makes good patches look bad.
        tone = _fit_candidate(readings.only(~stray), _OF_SUBSETS, [fit.tone]).tone
        stray &= _far_off(_Subset(readings, tone).off_by(np.flatnonzero(~stray)))
    return stray if stray.mean() <= _STRAY_SHARE else none


def _far_off(de00: Floats) -> Mask:
    return de00 > max(_STRAY_DE00, _STRAY_TIMES * float(np.median(de00)))


class _Subset:
    """Models through some of the patches, on one tone curve."""

    def __init__(self, readings: PatchReadings, tone: ToneCurve) -> None:
        weights = _all_weights(readings)
        self._known = xyz_to_lab(readings.xyz)
        self._target = np.einsum("nij,nj->ni", weights, readings.xyz)
        self._terms = EXPANSIONS[_OF_SUBSETS](light_of(readings, tone))
        self._design = np.einsum("nij,nt->nitj", weights, self._terms).reshape(len(readings.code), 3, -1)

    def off_by(self, chosen: Integers) -> Floats:
        """CIEDE2000 (n,) by which the model through the `chosen` patches misses each."""
        design = self._design[chosen].reshape(-1, self._design.shape[-1])
        solution = _ridge_solve(design, self._target[chosen].ravel(), _RIDGES[0])
        return ciede2000(xyz_to_lab(np.maximum(self._terms @ solution.reshape(-1, 3), 1e-4)), self._known)


def fit_tone(readings: PatchReadings) -> ToneCurve:
    """A tone curve from nothing, good enough for placing tags and judging the light."""
    name = "root-polynomial-2" if len(readings.code) >= 13 else "linear"
    return _fit_candidate(readings, name, [power_curve(1.0), power_curve(2.2)]).tone


def _affordable(patches: int) -> list[str]:
    """Models with clearly fewer terms than patches."""
    terms = {"linear": 3, "root-polynomial-2": 6, "root-polynomial-3": 13}
    return [name for name in EXPANSIONS if patches >= 1.6 * terms[name] + 3]


def _score(fit: ColourFit) -> float:
    """Mean and tail both count: a model that fails on a few vivid colours is no good."""
    return float(fit.cross_validated_de00.mean() + 0.5 * np.percentile(fit.cross_validated_de00, 90))


def _fit_candidate(readings: PatchReadings, name: str, starts: list[ToneCurve]) -> ColourFit:
    from scipy.optimize import least_squares

    weights = _all_weights(readings)
    target = np.einsum("nij,nj->ni", weights, readings.xyz).ravel()

    def cost(parameters: Floats) -> Floats:
        tone = ToneCurve(parameters[:KNOTS], float(parameters[KNOTS]))
        rgb = light_of(readings, tone)
        design = perceptual_design(rgb, name, weights)
        solution = _ridge_solve(design, target, _RIDGES[0])
        bend = np.diff(parameters[:KNOTS], 2) * _BEND_COST
        return np.concatenate([design @ solution - target, bend, [parameters[KNOTS] * _OFFSET_COST]])

    fits = [
        least_squares(cost, np.append(s.log_slopes, s.offset), method="trf", x_scale="jac", loss="soft_l1", f_scale=3.0, max_nfev=40)
        for s in starts
    ]
    best = min(fits, key=lambda f: f.cost)
    tone = ToneCurve(best.x[:KNOTS], float(best.x[KNOTS]))
    return fitted_to_patches(readings, tone, name)


def _all_weights(readings: PatchReadings) -> Floats:
    return perceptual_weights(readings.xyz) * patch_weights(readings.xyz)[:, None, None]


def patch_weights(xyz: Floats) -> Floats:
    lab = xyz_to_lab(xyz)
    return np.where(np.hypot(lab[:, 1], lab[:, 2]) < _NEUTRAL_CHROMA, _NEUTRAL_WEIGHT, 1.0)


def light_of(readings: PatchReadings, tone: ToneCurve) -> Floats:
    return np.maximum(tone.linearise(readings.code), 1e-5) / readings.light


def perceptual_design(rgb: Floats, name: str, weights: Floats) -> Floats:
    """(3n, 3·terms): the perceptual error is linear in the coefficients."""
    terms = EXPANSIONS[name](rgb)
    return np.asarray(np.einsum("nij,nt->nitj", weights, terms).reshape(3 * len(rgb), -1))


def _ridge_solve(design: Floats, target: Floats, ridge: float) -> Floats:
    gram = design.T @ design
    scale = np.diag(gram).mean()
    return np.linalg.solve(gram + ridge * 1e-3 * scale * np.eye(len(gram)), design.T @ target)


def fitted_to_patches(readings: PatchReadings, tone: ToneCurve, name: str) -> ColourFit:
    """The model `name` of the patches alone on a known tone curve, its ridge chosen by leave-one-out, with both kinds of residual."""
    weights = _all_weights(readings)
    rgb = light_of(readings, tone)
    design = perceptual_design(rgb, name, weights)
    target = np.einsum("nij,nj->ni", weights, readings.xyz).ravel()
    reference_lab = xyz_to_lab(readings.xyz)
    options = []
    for ridge in _RIDGES:
        solution = _ridge_solve(design, target, ridge)
        left_out = _leave_one_out_xyz(design, target, solution, ridge, weights, readings.xyz)
        options.append((float(ciede2000(xyz_to_lab(left_out), reference_lab).mean()), ridge, solution, left_out))
    _, _, solution, left_out = min(options, key=lambda o: o[0])
    model = ColourModel(name, solution.reshape(-1, 3))
    return described(readings, tone, model, left_out)


def described(readings: PatchReadings, tone: ToneCurve, model: ColourModel, left_out: Floats) -> ColourFit:
    """The fit with what it leaves at the patches; `left_out` XYZ (n, 3) of each patch by a fit without it."""
    reference_lab, left_out_lab = xyz_to_lab(readings.xyz), xyz_to_lab(left_out)
    fitted = xyz_to_lab(model.to_xyz(light_of(readings, tone)))
    return ColourFit(
        tone=tone,
        model=model,
        residual_de00=ciede2000(fitted, reference_lab),
        cross_validated_de00=ciede2000(left_out_lab, reference_lab),
        cross_validated_lab=left_out_lab - reference_lab,
        reference_lab=reference_lab,
        gamut=gamut_of(reference_lab),
    )


def _leave_one_out_xyz(design: Floats, target: Floats, solution: Floats, ridge: float, weights: Floats, xyz: Floats) -> Floats:
    """XYZ (n, 3) predicted for each patch by a fit without it, from the hat matrix: e₋ᵢ = (I - Hᵢᵢ)⁻¹ eᵢ."""
    gram = design.T @ design
    inverse = np.linalg.inv(gram + ridge * 1e-3 * np.diag(gram).mean() * np.eye(len(gram)))
    residual = (design @ solution - target).reshape(-1, 3)
    predicted = np.empty_like(xyz)
    for i in range(len(xyz)):
        rows = design[3 * i : 3 * i + 3]
        hat = rows @ inverse @ rows.T
        error = np.linalg.solve(np.eye(3) - hat, residual[i])
        predicted[i] = xyz[i] + np.linalg.solve(weights[i], error)
    return np.clip(predicted, 1e-3, 2 * WHITE_D50)
