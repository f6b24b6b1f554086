"""One paint's profile in sentences, each tied to its figure."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from gelvet.core.colour.hue_names import leaning
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.compare.wording import Phrase
from gelvet.core.measure.granulation import BRUSH_MARKS_ABOVE

# Limits of the index in L* for words: a difference of about 1 L* between neighbours is just seen at arm's length.
GRAIN_WORDS: tuple[tuple[float, str], ...] = ((0.5, "Smooth"), (1.0, "Slightly granulating"), (2.0, "Granulating"))
_STILL_DEG = 3.0


def profile_phrases(swatch: Mapping[str, Any]) -> list[Phrase]:
    """Sentences on what was measured, in the order of the measuring; absent quantities say why."""
    said = [_hue(swatch), _values(swatch), _grain(swatch["granulation"]), _hiding(swatch["hiding"]), _lifting(swatch["lifting"])]
    return [p for p in said if p is not None]


def _hue(swatch: Mapping[str, Any]) -> Phrase | None:
    shift = swatch["hue_shift"]
    if shift["absent"]:
        return Phrase("hue_shift", f"Hue shift not measured: {shift['absent']}.", 0)
    turn = shift["delta_h"]
    if abs(turn) <= max(2 * shift["u"], _STILL_DEG):
        return Phrase("hue_shift", f"The wash keeps the masstone's hue (within {max(2 * shift['u'], _STILL_DEG):.0f}°).", 0)
    hue = float(lab_to_lch(np.array(swatch["masstone"]["lab"]))[2])
    return Phrase("hue_shift", f"The wash leans {abs(turn):.0f}° {leaning(hue, turn)} than the masstone.", 0)


def _values(swatch: Mapping[str, Any]) -> Phrase | None:
    values = swatch["value_range"]
    if values["span_L"] is None:
        return Phrase("value_range", f"Value range not measured: {values.get('absent')}.", 0)
    ends = f"from value {values['masstone_L'] / 10:.1f} to {values['wash_L'] / 10:.1f}"
    short = " The gradient does not reach a true wash; its pale end was interpolated." if swatch["gradient_ends_at"] else ""
    return Phrase("value_range", f"Spans {values['span_L']:.0f} L*, {ends}.{short}", 0)


def _grain(grain: Mapping[str, Any]) -> Phrase:
    if grain["absent"]:
        return Phrase("granulation", f"Granulation not measured: {grain['absent']}.", 0)
    word = next((w for limit, w in GRAIN_WORDS if grain["index"] < limit), "Strongly granulating")
    if grain["anisotropy"] > BRUSH_MARKS_ABOVE:
        return Phrase("granulation", f"The unevenness runs one way, as brush marks do; apart from them {grain['index']:.1f} L*.", 0)
    size = f", grains {grain['grain_mm']:.2f} mm wide" if grain["grain_mm"] else ""
    return Phrase("granulation", f"{word} ({grain['index']:.1f} L*{size}).", 0)


def _hiding(hiding: Mapping[str, Any]) -> Phrase:
    if hiding["absent"]:
        return Phrase("hiding", f"Hiding not measured: {hiding['absent']}.", 0)
    return Phrase(
        "hiding", f"{hiding['class'].capitalize()} over the ink line: the layer sends back {100 * hiding['veil']:.1f} % of the light.", 0
    )


def _lifting(lifting: Mapping[str, Any]) -> Phrase:
    if lifting["absent"]:
        return Phrase("lifting", f"Lifting not measured: {lifting['absent']}.", 0)
    word = {"non-staining": "Does not stain", "low": "Stains little", "medium": "Stains", "high": "Stains strongly"}[lifting["class"]]
    return Phrase("lifting", f"{word}: a damp brush takes {100 * lifting['removed']:.0f} % of its depth away.", 0)
