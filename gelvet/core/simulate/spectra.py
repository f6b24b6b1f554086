"""The wavelength grid of the simulator and the stuff that papers, inks and pigments are made of."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats

WAVELENGTHS_NM = np.arange(390.0, 731.0, 10.0)

TargetKind = Literal["many-inks", "three-inks"]


def band(centre_nm: float, width_nm: float, height: float) -> Floats:
    """A Gaussian absorption band (n,)."""
    return height * np.exp(-(((WAVELENGTHS_NM - centre_nm) / width_nm) ** 2))


def edge(at_nm: float, width_nm: float, height: float) -> Floats:
    """Absorption of everything shorter than `at_nm` (n,), as in yellows, reds and earths."""
    return height / (1 + np.exp((WAVELENGTHS_NM - at_nm) / width_nm))


@dataclass(frozen=True, slots=True, kw_only=True)
class Pigment:
    """Optics and behaviour of one pigment at unit amount.

    `absorption` and `scattering` are K·X and S·X (n,). `settling` -1 to 1 is how far the grain follows the hollows
    of the paper, `grain` the strength of its unevenness (log-normal σ), `clump_mm` the size of its own clumps,
    `staining` 0 to 1 the share that scrubbing leaves behind, `fading` the share lost in 1000 hours of light (exponential).
    """

    absorption: Floats
    scattering: Floats
    settling: float = 0.0
    grain: float = 0.02
    clump_mm: float = 0.3
    staining: float = 0.4
    fading: float = 0.0


def _scatter(amount: float) -> Floats:
    return np.asarray(amount * (550 / WAVELENGTHS_NM))


def _pigment(absorption: Floats, scatter: float, *, settling: float, grain: float, clump_mm: float, staining: float) -> Pigment:
    return Pigment(
        absorption=absorption + 0.004,
        scattering=_scatter(scatter),
        settling=settling,
        grain=grain,
        clump_mm=clump_mm,
        staining=staining,
    )


# Keyed by the public colour-index codes; the optics are invented in the manner of each kind.
PIGMENTS: dict[str, Pigment] = {
    "PY150": _pigment(edge(485, 14, 1.5), 0.004, settling=0, grain=0.02, clump_mm=0.3, staining=0.55),
    "PY35": _pigment(edge(508, 8, 1.6), 0.16, settling=0.1, grain=0.04, clump_mm=0.3, staining=0.35),
    "PY43": _pigment(edge(530, 26, 0.9) + 0.05, 0.07, settling=0.4, grain=0.10, clump_mm=0.3, staining=0.3),
    "PO71": _pigment(edge(560, 14, 1.5), 0.006, settling=0, grain=0.02, clump_mm=0.3, staining=0.6),
    "PR254": _pigment(edge(585, 8, 1.6), 0.02, settling=0, grain=0.03, clump_mm=0.3, staining=0.65),
    "PR101": _pigment(edge(578, 20, 1.2) + 0.08, 0.09, settling=0.5, grain=0.14, clump_mm=0.32, staining=0.35),
    "PV19": _pigment(band(535, 42, 1.5) + band(470, 40, 0.35), 0.004, settling=0, grain=0.03, clump_mm=0.3, staining=0.5),
    "PV23": _pigment(band(570, 55, 1.7) + band(480, 30, 0.15), 0.003, settling=0, grain=0.03, clump_mm=0.3, staining=0.8),
    "PB29": _pigment(band(597, 58, 1.5) + band(690, 60, 0.12), 0.012, settling=0.6, grain=0.28, clump_mm=0.34, staining=0.2),
    "PB28": _pigment(band(590, 62, 0.9), 0.07, settling=0.7, grain=0.30, clump_mm=0.4, staining=0.15),
    "PB35": _pigment(band(610, 75, 0.7), 0.10, settling=0.7, grain=0.36, clump_mm=0.45, staining=0.12),
    "PB15": _pigment(band(650, 75, 1.9) + band(585, 35, 0.6), 0.004, settling=0, grain=0.02, clump_mm=0.3, staining=0.9),
    "PG7": _pigment(band(640, 70, 1.8) + band(420, 40, 0.8), 0.004, settling=0, grain=0.02, clump_mm=0.3, staining=0.85),
    "PG18": _pigment(band(620, 80, 0.8) + band(430, 45, 0.8), 0.06, settling=0.6, grain=0.30, clump_mm=0.4, staining=0.15),
    "PBr7": _pigment(edge(600, 45, 1.1) + 0.25, 0.05, settling=0.5, grain=0.22, clump_mm=0.35, staining=0.35),
    "PBk11": _pigment(np.full(WAVELENGTHS_NM.shape, 1.2), 0.03, settling=0.1, grain=0.34, clump_mm=0.55, staining=0.3),
    "PBk9": _pigment(np.full(WAVELENGTHS_NM.shape, 1.5), 0.008, settling=0.1, grain=0.05, clump_mm=0.3, staining=0.7),
    "PW6": _pigment(edge(405, 6, 0.3), 0.6, settling=0.1, grain=0.04, clump_mm=0.3, staining=0.3),
}


def invented_pigment(rng: np.random.Generator) -> Pigment:
    """A pigment of a random kind for trials: its hue, grain and staining come from `rng` alone."""
    kind = rng.choice(["edge", "band", "double", "flat"], p=[0.35, 0.35, 0.25, 0.05])
    if kind == "edge":
        absorption = edge(rng.uniform(475, 600), rng.uniform(13, 38), rng.uniform(0.7, 1.4)) + rng.uniform(0, 0.1)
    elif kind == "band":
        absorption = band(rng.uniform(520, 660), rng.uniform(48, 85), rng.uniform(0.6, 1.4))
    elif kind == "double":
        absorption = band(rng.uniform(580, 660), rng.uniform(48, 85), rng.uniform(0.6, 1.3))
        absorption = absorption + band(rng.uniform(410, 480), rng.uniform(36, 65), rng.uniform(0.2, 0.9))
    else:
        absorption = np.full(WAVELENGTHS_NM.shape, rng.uniform(0.6, 1.4))
    granulating = rng.random() < 0.5
    return _pigment(
        absorption,
        float(np.exp(rng.uniform(np.log(0.003), np.log(0.2)))),
        settling=float(rng.uniform(0, 0.8)) if granulating else 0.0,
        grain=float(rng.uniform(0.1, 0.4)) if granulating else float(rng.uniform(0.01, 0.05)),
        clump_mm=float(rng.uniform(0.26, 0.6)),
        staining=float(rng.uniform(0.1, 0.9)),
    )


def paper_reflectance(warmth: float = 0.5) -> Floats:
    """Bare watercolour paper (n,): high and flat, a little weaker in the blue as `warmth` goes from 0 to 1."""
    return 0.90 - (0.03 + 0.07 * warmth) * np.exp(-(WAVELENGTHS_NM - 390) / 75)


def black_paper_reflectance() -> Floats:
    """Dyed black paper (n,): grey, a little warm, paler than ink."""
    return np.asarray(0.035 + 0.01 * (WAVELENGTHS_NM - 380) / 400)


def ink_reflectance() -> Floats:
    """Waterproof black line ink (n,)."""
    return 0.038 + 0.012 * (WAVELENGTHS_NM - 390) / 340


def target_spectra(kind: TargetKind, count: int, rng: np.random.Generator) -> Floats:
    """Printed reference patches (count, n) of a target of this `kind`."""
    return patch_spectra(count, rng) if kind == "many-inks" else three_ink_spectra(count, rng)


def patch_spectra(count: int, rng: np.random.Generator) -> Floats:
    """Printed reference patches (count, n): the first 8 a neutral ramp, the rest chromatic.

    Nine inks in Beer's law over coated paper, a neighbouring pair in each patch at one of three depths, so that the
    target holds spectra of many shapes, as a good one does.
    """
    base = 0.90 - 0.06 * np.exp(-(WAVELENGTHS_NM - 390) / 40)
    black = np.full(WAVELENGTHS_NM.shape, 1.0)
    inks = [
        edge(485, 16, 1.0), edge(525, 18, 1.0), edge(560, 12, 1.0), edge(592, 12, 1.0) + 0.03,
        band(540, 46, 1.0) + band(395, 40, 0.3), band(570, 60, 1.0), band(605, 60, 1.0), band(650, 75, 1.0) + band(600, 30, 0.2),
        band(640, 65, 0.9) + band(425, 42, 0.6),
    ]  # fmt: skip
    spectra = [base * np.exp(-1.4 * k * black) for k in np.linspace(0, 2.2, 8)]
    for i in range(count - 8):
        first = i % 9
        share = (0.0, 0.5, 0.25)[i // 9 % 3]
        dyes = (1 - share) * inks[first] + share * inks[(first + 1) % 9] + 0.015
        depth = (3.4, 1.6, 0.6, 2.4)[i // 9 % 4] * rng.uniform(0.85, 1.15)
        full = base * np.exp(-depth * dyes - (0.0, 0.35, 0.1)[i % 3] * black)
        spectra.append(0.985 * full + 0.015 * base)
    return np.asarray(np.clip(np.stack(spectra[:count]) if count else np.empty((0, len(base))), 0.005, 1))


def three_ink_spectra(count: int, rng: np.random.Generator) -> Floats:
    """The same from an office printer: cyan, magenta, yellow and black dots, whose spectra hold few shapes.

    Dots and the paper between them mix as J. A. C. Yule and W. J. Nielsen have it (TAGA Proc. 3 (1951) 65-76).
    """
    paper = 0.92 - 0.05 * np.exp(-(WAVELENGTHS_NM - 390) / 30)
    cyan = band(645, 75, 1.3) + band(400, 30, 0.15)
    magenta = band(548, 34, 1.1) + band(518, 30, 0.7) + band(430, 40, 0.12)
    yellow, black = edge(490, 12, 1.4), np.full(WAVELENGTHS_NM.shape, 1.2)
    spectra = [paper * np.exp(-1.95 * k * black) for k in np.linspace(0, 1.25, 8)]
    for i in range(count - 8):
        inks = np.array([(1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 1, 1), (0, 0, 1), (1, 0, 1)][i % 6]) * rng.uniform(0.5, 1, 3)
        solid = paper * np.exp(-2 * (inks @ np.stack([cyan, magenta, yellow]) + (0.25 if i % 4 == 3 else 0) * black + 0.01))
        covered = min(1.0, (1.0, 0.3, 0.62, 0.16, 1.0)[i // 6 % 5] * rng.uniform(0.8, 1.2))
        spectra.append((covered * solid ** (1 / 1.8) + (1 - covered) * paper ** (1 / 1.8)) ** 1.8)
    return np.asarray(np.clip(np.stack(spectra[:count]) if count else np.empty((0, len(paper))), 0.004, 1))
