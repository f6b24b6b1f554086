"""How a hand lays paint into the zones of a card: nominal amounts of it at each place."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.layout import Zone
from gelvet.core.simulate.paint import SimulatedPaint
from gelvet.core.simulate.texture import smooth_noise, streaks
from gelvet.core.simulate.water import PATTERNS, backruns, drop_of_paint, drop_of_water

# Zones that stand beside a twin are painted in one go, more evenly.
_EVEN = {"over_ink", "beside_ink", "unlifted", "lifted", "covered", "exposed", "mix", "black_paper"}
_ONE_LAYER = 0.12


@dataclass(frozen=True, slots=True, kw_only=True)
class Application:
    """How heavily a swatch was painted: amounts of paint at its places."""

    masstone: float
    gradient_end: float
    wash: float
    over: float
    lift: float


def apply_paint(paint: SimulatedPaint, rng: np.random.Generator) -> Application:
    """A hand's choice of how much paint goes where."""
    masstone = paint.masstone_amount
    return Application(
        masstone=masstone,
        gradient_end=masstone * float(rng.uniform(0.015, 0.06)),
        wash=masstone * float(rng.uniform(0.05, 0.11)),
        over=masstone * float(rng.uniform(0.5, 0.9)),
        lift=masstone * float(rng.uniform(0.25, 0.45)),
    )


def amount_of_paint(
    zone: Zone, paint: SimulatedPaint, application: Application, shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator
) -> Floats | None:
    """Nominal amount (h, w) with a hand's slow unevenness; None where the zone holds no paint."""
    level = _level(zone, paint, application, shape, pixels_per_mm, rng)
    if level is None:
        return None
    uneven = 1 + smooth_noise(shape, rng, 4.0 * pixels_per_mm) * (0.008 if zone.kind in _EVEN else 0.025)
    layers = int(zone.extra.get("layers", 1))
    if paint.stirs and layers > 1:
        # All but the last layer were wetted once more, and gave way in places.
        uneven = uneven * np.maximum(1 + paint.stirs * (1 - 1 / layers) * smooth_noise(shape, rng, 0.35 * pixels_per_mm), 0.05)
    if paint.streaks and zone.kind not in _EVEN:
        uneven = uneven * np.maximum(1 + paint.streaks * streaks(shape, rng, pixels_per_mm), 0.1)
    return np.asarray(level * uneven, dtype=np.float32)


def _level(
    zone: Zone, paint: SimulatedPaint, application: Application, shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator
) -> Floats | None:
    even = _even_level(zone, application)
    if even is not None:
        return np.full(shape, even)
    match zone.kind:
        case "gradient":
            ramp = along(zone, shape) ** float(rng.uniform(0.8, 1.2))
            level = application.masstone * (application.gradient_end / application.masstone) ** ramp
            return level if not paint.backruns else level * backruns(shape, pixels_per_mm, paint.backruns, rng)
        case "tilt":
            # The bead gathers where the strip ran to.
            return application.wash * (1.5 + 1.5 * along(zone, shape) ** 3)
        case "wet_drop":
            return application.masstone * 0.35 * drop_of_paint(shape, pixels_per_mm, rng)
        case "water_drop":
            return 2 * application.wash * drop_of_water(shape, pixels_per_mm, rng)
        case "effect":
            return 3 * application.wash * PATTERNS[str(zone.extra.get("effect", "salt"))](shape, pixels_per_mm, rng)
        case _:
            return None


def _even_level(zone: Zone, application: Application) -> float | None:
    """The one amount of a zone that is painted evenly."""
    masstone, strength = application.masstone, zone.extra.get("strength")
    over = application.wash if strength == "light" else application.over
    levels = {
        "masstone": masstone,
        "wash": 0.45 * masstone if strength == "heavy" else application.wash,
        "step": masstone * float(zone.extra.get("dilution", 0.0)),
        "glaze": _layers_of(zone, masstone),
        "mix": 0.6 * masstone,
        **dict.fromkeys(("over_ink", "beside_ink", "black_paper"), over),
        **({"over_ink": _layers_of(zone, masstone)} if "layers" in zone.extra else {}),
        **dict.fromkeys(("unlifted", "lifted", "covered", "exposed"), application.lift),
    }
    return levels.get(zone.kind)


def _layers_of(zone: Zone, masstone: float) -> float:
    return masstone * _ONE_LAYER * int(zone.extra.get("layers", 0))


def along(zone: Zone, shape: tuple[int, int]) -> Floats:
    """0 where the zone's axis starts to 1 where it points, (h, w)."""
    axis = zone.axis or "+x"
    line = np.linspace(0, 1, shape[0 if "y" in axis else 1])
    line = line[::-1] if axis.startswith("-") else line
    return np.asarray(np.broadcast_to(line[:, None] if "y" in axis else line[None], shape))


def parted(zone: Zone, paint: SimulatedPaint, shape: tuple[int, int], pixels_per_mm: float) -> list[Floats] | None:
    """How many times its even share each of two pigments has at each place (h, w), where water carried them apart; None where
    it did not."""
    if len(paint.pigments) != 2 or not paint.parting:
        return None
    if zone.kind == "tilt":
        way = 2 * along(zone, shape) - 1
    elif zone.kind == "wet_drop":
        y, x = np.mgrid[: shape[0], : shape[1]]
        radius = np.hypot(y - (shape[0] - 1) / 2, x - (shape[1] - 1) / 2) / (0.35 * min(shape))
        way = np.clip(2 * radius - 1, -1, 1)
    else:
        return None
    return [np.asarray(1 + paint.parting * way, dtype=np.float32), np.asarray(1 - paint.parting * way, dtype=np.float32)]
