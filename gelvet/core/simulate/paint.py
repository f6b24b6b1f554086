"""A simulated paint: pigments in proportion, and the colour of a layer of it."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.kubelka_munk import layer_reflectance
from gelvet.core.simulate.spectra import PIGMENTS, Pigment, invented_pigment

# Share of light that a dried, matte film sends back from its surface into a 0°/45° instrument.
MATTE_SURFACE = 0.008
# What is left of the scattering in a wet film, and the exponent by which wet paper is darker.
_WET_SCATTERING, _WET_PAPER = 0.7, 1.25


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedPaint:
    """One or two pigments. `drift` moves the mixture toward its second pigment as it is diluted.

    `masstone_amount` scales the heaviest application; `flakes_per_cm2` are mirror flakes for sparkle, of which the share
    `flakes_stay` is not lifted. `streaks` is how plain brush marks are, `backruns` how many closed ridges a gradient has,
    `parting` how far water carries two pigments apart, `stirs` how unevenly a layer gives way when another is laid over it,
    `scuffs` how much rougher the paper becomes where it was scrubbed to lift the paint, as a share.
    """

    name: str
    pigments: tuple[Pigment, ...]
    fractions: tuple[float, ...]
    drift: float = 0.0
    masstone_amount: float = 3.0
    flakes_per_cm2: float = 0.0
    flakes_stay: float = 0.3
    streaks: float = 0.0
    backruns: int = 0
    parting: float = 0.0
    stirs: float = 0.0
    scuffs: float = 0.0


def paint_of_codes(
    name: str,
    codes: tuple[str, ...],
    fractions: tuple[float, ...],
    *,
    drift: float = 0.0,
    masstone_amount: float = 3.0,
    flakes_per_cm2: float = 0.0,
    fading: float = 0.0,
    parting: float = 0.0,
) -> SimulatedPaint:
    """A paint made of catalogued pigments, all of which lose the share `fading` in 1000 hours of light; KeyError for a
    code without simulated optics."""
    return SimulatedPaint(
        name=name,
        pigments=tuple(replace(PIGMENTS[c], fading=fading) for c in codes),
        fractions=fractions,
        drift=drift,
        masstone_amount=masstone_amount,
        flakes_per_cm2=flakes_per_cm2,
        parting=parting,
    )


def invented_paint(rng: np.random.Generator, name: str) -> SimulatedPaint:
    """A random paint of one or two random pigments."""
    two = rng.random() < 0.4
    share = float(rng.uniform(0.3, 0.7))
    return SimulatedPaint(
        name=name,
        pigments=tuple(invented_pigment(rng) for _ in range(2 if two else 1)),
        fractions=(share, 1 - share) if two else (1.0,),
        drift=float(rng.uniform(-0.25, 0.25)) if two else 0.0,
        masstone_amount=float(rng.uniform(1.8, 3.6)),
    )


def pigment_amounts(paint: SimulatedPaint, amount: Floats) -> list[Floats]:
    """Amount of each pigment (…) in a layer of `amount` (…), with the drift of a dilution."""
    if len(paint.pigments) == 1:
        return [amount * paint.fractions[0]]
    dilution = 1 - np.clip(amount / paint.masstone_amount, 0, 1)
    first = np.clip(paint.fractions[0] - paint.drift * dilution, 0.05, 0.95)
    return [amount * first, amount * (1 - first)]


@dataclass(frozen=True, slots=True)
class LayerTable:
    """Reflectance of the paint on one substrate for a grid of pigment amounts, turned to channels by `weights`.

    Amounts are spaced by their square root: fine where the wash is pale.
    """

    channels: Floats  # (rows, columns, channels) float32
    largest: float

    def look_up(self, amounts: list[Floats]) -> Floats:
        """Channel values (h, w, c) float32 for one or two amount maps (h, w)."""
        import cv2

        steps = [np.sqrt(np.clip(a / self.largest, 0, 1)).astype(np.float32) for a in amounts]
        columns = steps[0] * (self.channels.shape[1] - 1)
        rows = steps[1] * (self.channels.shape[0] - 1) if len(steps) == 2 else np.zeros_like(columns)
        parts = [
            cv2.remap(np.ascontiguousarray(self.channels[..., i : i + 3]), columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            for i in range(0, self.channels.shape[2], 3)
        ]
        return np.concatenate(parts, axis=2)


def layer_table(paint: SimulatedPaint, substrate: Floats, weights: Floats, *, wet: bool = False) -> LayerTable:
    """Table over `substrate` (n,) with spectral `weights` (n, channels); channels a multiple of 3.

    Water between the grains takes away the surface's own haze and much of the scattering, so that wet colour is deeper."""
    largest = paint.masstone_amount * 6
    haze = 0.0 if wet else MATTE_SURFACE
    surface = haze * weights.sum(axis=0)
    weights = (1 - haze) * weights
    turbid = _WET_SCATTERING if wet else 1.0
    if wet:
        substrate = substrate**_WET_PAPER
    size = 320
    first = (np.linspace(0, 1, size) ** 2 * largest)[:, None]
    absorption, scattering = first * paint.pigments[0].absorption, turbid * first * paint.pigments[0].scattering
    if len(paint.pigments) == 1:
        channels = (layer_reflectance(absorption, scattering, substrate) @ weights)[None]
    else:
        channels = np.stack([
            layer_reflectance(
                absorption + a * paint.pigments[1].absorption, scattering + turbid * a * paint.pigments[1].scattering, substrate
            ) @ weights
            for a in first[:, 0]
        ])  # fmt: skip
    return LayerTable((channels + surface).astype(np.float32), largest)


def mixed_on_the_palette(parts: list[tuple[SimulatedPaint, float]]) -> SimulatedPaint:
    """An even mixture of paints by share of amount: one pigment whose optics and grain are the shares' sums."""
    weights = [(pigment, share * own) for paint, share in parts for pigment, own in zip(paint.pigments, paint.fractions, strict=True)]

    def total(of: Callable[[Pigment], float]) -> float:
        return float(sum(of(pigment) * weight for pigment, weight in weights))

    even = Pigment(
        absorption=np.sum([p.absorption * w for p, w in weights], axis=0),
        scattering=np.sum([p.scattering * w for p, w in weights], axis=0),
        settling=total(lambda p: p.settling),
        grain=total(lambda p: p.grain),
        clump_mm=total(lambda p: p.clump_mm),
        staining=total(lambda p: p.staining),
    )
    amount = sum(paint.masstone_amount * share for paint, share in parts)
    return SimulatedPaint(name="mix", pigments=(even,), fractions=(1.0,), masstone_amount=amount)
