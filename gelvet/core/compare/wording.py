"""Differences in words, by rules from the figures; nothing is said that is not real beyond k = 2."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.colour.hue_names import leaning, nearest_hue
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.compare.distance import COVERAGE, Comparison, PropertyDifference

# Differences below these are not worth a word even where they are real.
_WORTH_L, _WORTH_C, _WORTH_HUE_DEG, _WORTH_HUE_DE = 1.5, 3.0, 2.0, 1.5
_WORTH_RATIO = 1.25
_NEIGHBOURS_DEG = 60.0


@dataclass(frozen=True, slots=True)
class Phrase:
    """A few words and the figure behind them: `key` names it, for example `wash.hue`."""

    key: str
    text: str
    weight: float


def with_minus(figure: str) -> str:
    """A figure with a minus sign in place of a hyphen, as all pages write it."""
    return figure.replace("-", "−")


def phrases(comparison: Comparison) -> list[Phrase]:
    """What can be said of the second paint against the first, the plainest difference first."""
    said = [p for place in ("masstone", "wash") for p in _colour_phrases(comparison, place)]
    said += [p for d in comparison.properties if (p := _property_phrase(d)) is not None]
    return sorted(said, key=lambda p: -p.weight)


def difference_words(comparison: Comparison) -> str:
    """The phrases as one line, such as "wash 9° greener, masstone 6 L* darker"."""
    return ", ".join(p.text for p in phrases(comparison))


def _colour_phrases(comparison: Comparison, place: str) -> list[Phrase]:
    one, two = comparison.first[place]["lab"], comparison.second[place]["lab"]
    distance = next(d for d in comparison.distances if d.place == place)
    if one is None or two is None or not distance.real or distance.u is None:
        return []
    first, second = lab_to_lch(np.array(one)), lab_to_lch(np.array(two))
    said = []
    light = float(second[0] - first[0])
    if abs(light) > max(_WORTH_L, COVERAGE * distance.u):
        said.append(Phrase(f"{place}.L", f"{place} {abs(light):.0f} L* {'lighter' if light > 0 else 'darker'}", abs(light)))
    chroma = float(second[1] - first[1])
    if abs(chroma) > max(_WORTH_C, COVERAGE * distance.u * (1 + 0.045 * first[1])):
        said.append(Phrase(f"{place}.C", f"{place} {abs(chroma):.0f} C* {'more vivid' if chroma > 0 else 'duller'}", abs(chroma) / 2))
    turn = turn_deg(first[2], second[2])
    apart = float(2 * np.sqrt(first[1] * second[1]) * abs(np.sin(np.radians(turn) / 2)))
    if abs(turn) > _WORTH_HUE_DEG and apart > max(_WORTH_HUE_DE, COVERAGE * distance.u * (1 + 0.015 * first[1])):
        said.append(Phrase(f"{place}.h", f"{place} {_turn_words(float(first[2]), turn)}", apart))
    return said


def _turn_words(hue: float, turn: float) -> str:
    """A leaning for neighbours; for colours that are no neighbours, what they are."""
    one, two = nearest_hue(hue), nearest_hue(hue + turn)
    if abs(turn) > _NEIGHBOURS_DEG and one != two:
        return f"{two} instead of {one}"
    return f"{abs(turn):.0f}° {leaning(hue, turn)}"


def _property_phrase(difference: PropertyDifference) -> Phrase | None:
    if not difference.real or difference.first is None or difference.second is None:
        return None
    low, high = sorted((difference.first, difference.second))
    more = difference.second > difference.first
    match difference.of.key:
        case "half_light" if high > _WORTH_RATIO * low:
            ratio = high / low
            return Phrase("half_light", f"needs {ratio:.1f}× as much paint" if more else f"tints {ratio:.1f}× as strongly", 3 * ratio)
        case "granulation" if high > _WORTH_RATIO * max(low, 0.1):
            ratio = high / max(low, 0.1)
            return Phrase("granulation", f"{ratio:.1f}× {'as' if more else 'less'} grainy", 3 * ratio)
        case "separation" if high > 0.8 and high > _WORTH_RATIO * max(low, 0.2):
            return Phrase("separation", "separates more" if more else "separates less", 3 * (high - low))
        case "glints" if high > _WORTH_RATIO * max(low, 0.1):
            return Phrase("glints", "sparkles more" if more else "sparkles less", 3 * min(high - low, 3))
        case "veil" if high - low > 0.02:
            return Phrase("veil", "hides more" if more else "more transparent", 40 * (high - low))
        case "removed" if high - low > 0.08:
            return Phrase(
                "removed",
                f"lifts {'more' if more else 'less'} ({100 * difference.second:.0f} % against {100 * difference.first:.0f} %)",
                10 * (high - low),
            )
        case _:
            return None
