"""Classes of hiding and staining: their limits, which a bench may set otherwise, and how near a figure lies to the next."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from gelvet.core.errors import ClassLimitsError

# Usual limits (measurement.md 7; the shares lifted are this project's own).
VEIL_LIMITS = (0.05, 0.12, 0.30)
REMOVED_LIMITS = (0.30, 0.60, 0.85)
TRANSPARENCY = ("transparent", "semi-transparent", "semi-opaque", "opaque")
STAINING = ("high", "medium", "low", "non-staining")
# A dark paint that hides wholly: next to nothing comes through, and what comes back is its own.
_HIDES_WHOLLY_TRANSMITS, _HIDES_WHOLLY_VEIL = 0.05, 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassLimits:
    """Rising limits, 0 to 1: of the veil between the four classes of transparency, and of the share lifted between the four of
    staining."""

    veil: tuple[float, ...] = VEIL_LIMITS
    removed: tuple[float, ...] = REMOVED_LIMITS

    def checked(self) -> "ClassLimits":
        """Itself; raises ClassLimitsError for limits that do not part four classes."""
        for limits, what in ((self.veil, "veil"), (self.removed, "share lifted")):
            rising = all(a < b for a, b in zip((0.0, *limits), (*limits, 1.0), strict=True))
            if len(limits) != 3 or not all(math.isfinite(v) for v in limits) or not rising:
                raise ClassLimitsError(f"The three limits of the {what} must rise between 0 and 100 %.")
        return self

    def transparency(self, veil: float, transmits: float) -> str:
        """Class of a veil (0 to 1); `transmits` is the largest share of light through the layer and back."""
        if transmits < _HIDES_WHOLLY_TRANSMITS and veil > _HIDES_WHOLLY_VEIL:
            return "opaque"
        return TRANSPARENCY[sum(veil >= limit for limit in self.veil)]

    def staining(self, removed: float) -> str:
        """Class of the share of tint depth removed."""
        return STAINING[sum(removed >= limit for limit in self.removed)]


USUAL = ClassLimits()


def classed(swatch: Mapping[str, Any], limits: ClassLimits) -> dict[str, Any]:
    """A swatch of a measurement document with its classes by `limits`, and `next_class` with how far away it begins. Figures
    that may have no class keep none."""
    hiding, lifting = dict(swatch["hiding"]), dict(swatch["lifting"])
    if hiding["class"] is not None:
        # Measurements from before light through the layer was kept say so by their class alone.
        transmits = hiding.get("transmits")
        wholly = hiding["class"] == "opaque" and hiding["veil"] < VEIL_LIMITS[-1]
        hiding["class"] = limits.transparency(hiding["veil"], transmits if transmits is not None else 0.0 if wholly else 1.0)
        hiding["next_class"] = _next(hiding["veil"], limits.veil, TRANSPARENCY) if hiding["class"] != "opaque" or not wholly else None
    if lifting["class"] is not None:
        lifting["class"] = limits.staining(lifting["removed"])
        lifting["next_class"] = _next(lifting["removed"], limits.removed, STAINING)
    return {**swatch, "hiding": hiding, "lifting": lifting}


def _next(value: float, limits: tuple[float, ...], names: tuple[str, ...]) -> dict[str, Any]:
    """The class on the other side of the nearest limit, and how far that is."""
    nearest = min(range(len(limits)), key=lambda i: abs(limits[i] - value))
    return {"class": names[nearest + 1] if value < limits[nearest] else names[nearest], "away": abs(limits[nearest] - value)}
