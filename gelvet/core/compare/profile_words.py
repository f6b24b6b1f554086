"""One paint's profile in sentences, each tied to its figure."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.colour.hue_names import leaning, nearest_hue, neighbour
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.compare.distance import COVERAGE
from gelvet.core.compare.water_words import water_phrases
from gelvet.core.compare.wording import Phrase
from gelvet.core.measure.grain.granulation import BRUSH_MARKS_ABOVE

# Limits of the index in L* for words: a difference of about 1 L* between neighbours is just seen at arm's length.
GRAIN_WORDS: tuple[tuple[float, str], ...] = ((0.5, "Smooth"), (1.0, "Slightly granulating"), (2.0, "Granulating"))
_STILL_DEG = 3.0
# Unevenness in L* below which an eye at arm's length sees an even tint.
_JUST_SEEN_L = 0.4
# Paints of one pigment read up to this, by the capture's own doing.
_ONE_PIGMENT_DE = 0.4
_WORTH_VEIL, _ROUGHER = 0.003, 0.15
_SEATS_APART = 0.25
_GREY = 4.0
# Fewer glints a square centimetre than this may be chance.
_A_GLINT = 0.1


def profile_phrases(swatch: Mapping[str, Any]) -> list[Phrase]:
    """Sentences on what was measured, in the order of the measuring; absent quantities say why."""
    said = [
        _hue(swatch),
        _values(swatch),
        _strength(swatch.get("strength")),
        _flare(swatch.get("flare")),
        _grain(swatch["granulation"]),
        _separation(swatch.get("separation")),
        _sparkle(swatch.get("sparkle")),
        _sheen(swatch.get("sheen")),
        _on_black(swatch.get("sparkle"), swatch.get("sheen")),
        _hiding(swatch["hiding"]),
        _lifting(swatch["lifting"], swatch.get("separation")),
        *water_phrases(swatch),
        _fade(swatch.get("fade")),
    ]
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
    short = " Nothing was painted as pale as a true wash, which was interpolated." if swatch["gradient_ends_at"] else ""
    return Phrase("value_range", f"Spans {values['span_L']:.0f} L*, {ends}.{short}", 0)


def _strength(strength: Mapping[str, Any] | None) -> Phrase | None:
    half = (strength or {}).get("half_light")
    if not half:
        return None
    relative, beside = half["relative"], ""
    # The reference itself is its own whole.
    if relative is not None and relative != 1:
        level = abs(relative - 1) <= COVERAGE * half["relative_u"]
        beside = ", as of the reference's" if level else f": in tints {relative:.1f} times as strong as the reference"
    return Phrase("half_light", f"{100 * half['fraction']:.0f} % of its paint takes half of the light{beside}.", 0)


def _grain(grain: Mapping[str, Any]) -> Phrase:
    if grain["absent"]:
        return Phrase("granulation", f"Granulation not measured: {grain['absent']}.", 0)
    word = next((w for limit, w in GRAIN_WORDS if grain["index"] < limit), "Strongly granulating")
    if grain["anisotropy"] > BRUSH_MARKS_ABOVE:
        rest = f"{grain['index']:.1f} L*" if grain["index"] >= 0.05 else "it is smooth"
        return Phrase("granulation", f"The unevenness runs one way, as brush marks do; apart from them {rest}.", 0)
    size = f", grains {grain['grain_mm']:.2f} mm wide" if grain["grain_mm"] else ""
    return Phrase("granulation", f"{word} ({grain['index']:.1f} L*{size}).{_seen_from_afar(grain)}{_where_it_grains(grain)}", 0)


def _seen_from_afar(grain: Mapping[str, Any]) -> str:
    """Only where there is grain at all."""
    afar = grain.get("arms_length")
    if afar is None or grain["index"] < GRAIN_WORDS[0][0]:
        return ""
    return f" From arm's length the eye sees {afar:.1f} L* of unevenness." if afar >= _JUST_SEEN_L else " From arm's length it looks even."


def _where_it_grains(grain: Mapping[str, Any]) -> str:
    """Where grain is plainest, if elsewhere it differs by more than can be chance."""
    places = grain.get("by_depth") or []
    if len(places) < 2:
        return ""
    most = max(places, key=lambda place: float(place["index"]))
    ends = {"heavy": places[0], "light": places[-1]}
    lower = {side: end for side, end in ends.items() if most["index"] - end["index"] > 2 * float(np.hypot(most["u"], end["u"]))}
    if len(lower) == 2:
        return f" It grains most in half tints ({most['index']:.1f} L*)."
    if len(lower) == 1:
        other = next(side for side in ends if side not in lower)
        against = next(iter(lower.values()))
        return f" It grains most in {other} colour ({ends[other]['index']:.1f} against {against['index']:.1f} L*)."
    return ""


def _flare(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found:
        return None
    return Phrase("flare", f"Its mid-tones flare: {found['delta_e']:.0f} ΔE off their neighbours at depth {found['depth']:.2f}.", 0)


def _separation(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or found["absent"]:
        return None
    if len(found["components"]) < 2:
        spots = f"single spots lie {found['index']:.1f} ΔE off its path"
        if found["index"] > max(_ONE_PIGMENT_DE, COVERAGE * found["u"]):
            return Phrase("separation", f"Separates a little: {spots}, too little to tell what colours its parts have.", 0)
        return Phrase("separation", f"Does not separate ({spots}).", 0)
    named = zip(_names(found["components"]), found["components"], strict=True)
    parts = [f"a {name} ({100 * part['share']:.0f} %)" for name, part in named]
    return Phrase("separation", f"Separates by {found['index']:.1f} ΔE, into {parts[0]} and {parts[1]}.{_seats(found)}", 0)


def _seats(found: Mapping[str, Any]) -> str:
    """Which component lies in the paper's hollows, where the two differ plainly."""
    seats = [c.get("tooth") for c in found["components"]]
    if None in seats or abs(seats[0] - seats[1]) < _SEATS_APART:
        return ""
    deeper = int(seats[1] > seats[0])
    return f" The {_names(found['components'])[deeper]} lies more in the hollows."


def _names(parts: Sequence[Mapping[str, Any]]) -> list[str]:
    """Of two components; where one word does for both, the second has one more."""
    first, second = (np.array(part["lab"]) for part in parts)
    names = [_colour_name(first), _colour_name(second)]
    if names[0] == names[1]:
        names[1] = f"{_unlike(first, second)} {names[1]}"
    return names


def _unlike(first: Floats, second: Floats) -> str:
    """What tells the second colour from the first, which have one name: most of all hue, then how vivid, then how light they are."""
    (first_l, first_c, first_h), (second_l, second_c, second_h) = lab_to_lch(first), lab_to_lch(second)
    turn = turn_deg(float(first_h), float(second_h))
    across = np.sqrt(first_c * second_c) * np.radians(abs(turn))
    vivid, light = second_c - first_c, second_l - first_l
    if min(first_c, second_c) >= _GREY and across >= max(abs(vivid), abs(light)):
        return neighbour(float(first_h), turn)
    if abs(vivid) > abs(light):
        return "more vivid" if vivid > 0 else "duller"
    return "lighter" if light > 0 else "darker"


def _colour_name(lab: Floats) -> str:
    _, chroma, hue = lab_to_lch(lab)
    return "grey" if chroma < _GREY else nearest_hue(float(hue))


def _sparkle(found: Mapping[str, Any] | None) -> Phrase | None:
    """Without low-lamp shots nothing is said: most paints are never asked."""
    if not found or found["absent"] or found["density"] is None:
        return None
    if found["density"] <= max(2 * found["u"], _A_GLINT):
        return Phrase("sparkle", "Does not sparkle under a low lamp.", 0)
    more = ""
    if found.get("heavy") is not None and found.get("light") is not None:
        more = f", {found['heavy']:.1f} in heavy colour and {found['light']:.1f} in light"
    tinted = "" if found.get("hue") is None else f" The glints' own light is {nearest_hue(found['hue'])}."
    clipped = " Some glints were too bright for the shot, so their strength is at least what is said." if found.get("clipped") else ""
    return Phrase("sparkle", f"Sparkles: {found['density']:.1f} glints a square centimetre{more}.{tinted}{clipped}", 0)


def _sheen(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or found["absent"]:
        return None
    if not found.get("claimed"):
        return None
    return Phrase("sheen", f"Its body colour changes with the light's side by {_turn(found)}.", 0)


def _on_black(sparkle: Mapping[str, Any] | None, sheen: Mapping[str, Any] | None) -> Phrase | None:
    """What low lamps show of it on black paper, where the card has some."""
    glints, turn = (sparkle or {}).get("on_black"), (sheen or {}).get("on_black")
    if glints is None or turn is None:
        return None
    shines = f"it sparkles by {glints:.1f} glints a square centimetre" if glints > _A_GLINT else "it does not sparkle"
    changes = f"its colour changes with the light's side by {_turn(turn)}" if turn["claimed"] else "its colour stays the same"
    return Phrase("on_black", f"On black paper {shines}, and {changes}.", 0)


def _turn(found: Mapping[str, Any]) -> str:
    still = not found.get("hue_travel") or found["hue_travel"] < _STILL_DEG
    return f"{found['delta_e00']:.1f} ΔE00" + ("" if still else f", its hue by {found['hue_travel']:.0f}°")


def _hiding(hiding: Mapping[str, Any]) -> Phrase:
    if hiding["absent"]:
        return Phrase("hiding", f"Hiding not measured: {hiding['absent']}.", 0)
    word = f"{hiding['class'].capitalize()} over" if hiding["class"] else "Over"
    said = [f"{word} the ink line: the layer sends back {100 * hiding['veil']:.1f} % of the light"]
    glinting = hiding.get("glinting_veil")
    if glinting is not None and glinting - hiding["veil"] > _WORTH_VEIL:
        said.append(f"{100 * glinting:.1f} % with its glints")
    if hiding.get("wash"):
        said.append(f"{100 * hiding['wash']['veil']:.1f} % in a wash")
    return Phrase("hiding", f"{', '.join(said)}.", 0)


def _lifting(lifting: Mapping[str, Any], separation: Mapping[str, Any] | None) -> Phrase:
    if lifting["absent"]:
        return Phrase("lifting", f"Lifting not measured: {lifting['absent']}.", 0)
    words = {"non-staining": "Does not stain: a", "low": "Stains little: a", "medium": "Stains: a", "high": "Stains strongly: a"}
    said = f"{words.get(lifting['class'], 'A')} damp brush takes {100 * lifting['removed']:.0f} % of its depth away."
    said += _what_stays(lifting, (separation or {}).get("components") or [])
    if (lifting.get("damage") or 0) > _ROUGHER:
        said += f" The paper is {100 * lifting['damage']:.0f} % rougher there."
    return Phrase("lifting", said, 0)


def _what_stays(lifting: Mapping[str, Any], parts: Sequence[Mapping[str, Any]]) -> str:
    which, before = lifting.get("residue_component"), lifting.get("residue_share_before")
    if which is not None and before is not None and len(parts) == 2:
        names = _names(parts)
        shares = f"{100 * lifting['residue_share']:.0f} % of what is left, {100 * before:.0f} % of the paint"
        return f" Its {names[which]} stays more than its {names[1 - which]}: {shares}."
    return "" if lifting.get("residue_hue") is None else f" What stays is {nearest_hue(lifting['residue_hue'])}."


def _fade(fade: Mapping[str, Any] | None) -> Phrase | None:
    if not fade:
        return None
    if fade["absent"]:
        return Phrase("fade", f"Fading not measured: {fade['absent']}.", 0)
    hours = f"after {fade['hours']:.0f} hours of light"
    if fade["delta_e_ab"] <= 2 * fade["u"]:
        return Phrase("fade", f"Has not moved {hours} by more than can be told (category {fade['category']} in this bench's screening).", 0)
    way = "paler" if fade["delta_L"] > 0.5 else "darker" if fade["delta_L"] < -0.5 else "of other hue"
    words = f"Has become {way} by {fade['delta_e_ab']:.1f} ΔE*ab {hours}: category {fade['category']} in this bench's screening."
    return Phrase("fade", words, 0)
