"""What can be compared of two paints beside colour: every measured figure, and where it stands in a swatch (measurement.md 11)."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

Swatch = Mapping[str, Any]
Where = tuple[str | int, ...]
# Units of what has none: a share is written in hundredths, a number as it is.
SHARE, NUMBER = "", "1"


@dataclass(frozen=True, slots=True, kw_only=True)
class Property:
    """Figure and uncertainty by where they stand in a swatch of a measurement document. The `chief` ones are told of every pair, the
    others where both have them."""

    key: str
    title: str
    unit: str
    value: Where
    u: Where
    chief: bool = False


def figure(swatch: Swatch, where: Where) -> float | None:
    """None where it, or what it is a part of, was not measured; of a list the item of that effect or so many layers counts."""
    found: Any = swatch
    for key in where:
        if isinstance(found, list):
            found = next((item for item in found if key in (item.get("effect"), item.get("layers"))), None)
        else:
            found = found.get(key) if found else None
    return None if found is None else float(found)


def _of(part: str, name: str, key: str, title: str, unit: str, u: str | None = None, *, chief: bool = False) -> Property:
    """The figure `name` of a `part` of the swatch, its uncertainty under `u` or its own name."""
    return Property(key=key, title=title, unit=unit, value=(part, name), u=(part, u or f"{name}_u"), chief=chief)


def _at(where: Where, key: str, title: str, unit: str, u: Where, *, chief: bool = False) -> Property:
    """The figure that stands somewhere else than straight in a part."""
    return Property(key=key, title=title, unit=unit, value=where, u=u, chief=chief)


PROPERTIES: tuple[Property, ...] = (
    _at(("value_range", "masstone_L"), "masstone_L", "masstone lightness", "L*", ("masstone", "u"), chief=True),
    _at(("value_range", "wash_L"), "wash_L", "wash lightness", "L*", ("wash", "u"), chief=True),
    _of("value_range", "span_L", "span_L", "value span", "L*", "u", chief=True),
    _of("value_range", "reach", "reach", "value reach", SHARE),
    _of("hue_shift", "delta_h", "delta_h", "hue shift", "°", "u", chief=True),
    _of("hue_shift", "delta_H", "delta_H", "hue shift by its chroma", "ΔH*"),
    _of("hue_shift", "travel", "travel", "hue travel", "°"),
    _at(("dilution_shift",), "dilution_shift", "hue shift by dilution alone", "°", ("dilution_shift_u",)),
    _of("chroma_peak", "chroma", "chroma_peak", "most vivid", "C*", "u"),
    _of("flare", "delta_e", "flare", "flare", "ΔE", "u"),
    _of("gradient", "unevenness", "unevenness", "unevenness drawn out", NUMBER, "u"),
    _of("gradient", "backrun_strength", "backrun_strength", "strength of backruns", NUMBER),
    _at(("strength", "half_light", "fraction"), "half_light", "paint that halves the light", SHARE, ("strength", "half_light", "u"),
        chief=True),
    _of("strength", "slope", "strength", "slope of K/S", NUMBER, "u"),
    _of("granulation", "index", "granulation", "granulation", "L*", "u", chief=True),
    _of("granulation", "grain_mm", "grain_mm", "grain width", "mm", "grain_u", chief=True),
    _of("granulation", "mottle", "mottle", "mottle", "L*"),
    _of("granulation", "fine", "fine", "fine grain", "L*"),
    _of("granulation", "arms_length", "arms_length", "unevenness from arm's length", "L*"),
    _of("granulation", "anisotropy", "anisotropy", "streakiness", NUMBER),
    _of("granulation", "skew", "skew", "skew of the grain", NUMBER),
    _of("granulation", "tooth_correlation", "tooth", "settling in the tooth", NUMBER, "tooth_u"),
    _of("separation", "index", "separation", "separation", "ΔE", "u", chief=True),
    _of("sparkle", "density", "glints", "glints", "per cm²", "u", chief=True),
    _of("sparkle", "strength", "glint_strength", "light of the glints", "mm² per cm²"),
    _of("sparkle", "coverage", "glint_coverage", "area that glints", SHARE),
    _of("sparkle", "heavy", "glints_heavy", "glints in heavy colour", "per cm²"),
    _of("sparkle", "light", "glints_light", "glints in light colour", "per cm²"),
    _of("sparkle", "on_black", "glints_on_black", "glints on black paper", "per cm²"),
    _of("sheen", "delta_e00", "sheen", "sheen", "ΔE00", "u"),
    _of("sheen", "hue_travel", "sheen_travel", "turn of hue with the lamp", "°"),
    _of("hiding", "veil", "veil", "veil", SHARE, "u", chief=True),
    _at(("hiding", "wash", "veil"), "wash_veil", "veil of a wash", SHARE, ("hiding", "wash", "u")),
    _at(("hiding", "wash", "contrast_ratio"), "wash_contrast_ratio", "contrast ratio of a wash", NUMBER,
            ("hiding", "wash", "contrast_ratio_u")),
    _at(("hiding", "wash", "hiding"), "wash_hiding", "hiding of a wash", SHARE, ("hiding", "wash", "hiding_u")),
    _of("hiding", "glinting_veil", "glinting_veil", "veil with its glints", SHARE),
    _of("hiding", "contrast_ratio", "contrast_ratio", "contrast ratio", NUMBER),
    _of("hiding", "hiding", "hiding", "hiding", SHARE),
    _of("hiding", "transmits", "transmits", "light let through", SHARE),
    _of("lifting", "removed", "removed", "share lifted", SHARE, "u", chief=True),
    _of("lifting", "residual_de00", "residual", "left after lifting", "ΔE00"),
    _of("lifting", "glints", "residual_glints", "glints after lifting", "per cm²"),
    _of("lifting", "damage", "damage", "roughness from lifting", SHARE),
    _at(("glaze", "steps", 2, "delta_L"), "second_layer", "what a second layer adds", "L*", ("glaze", "steps", 2, "u")),
    _at(("glaze", "hiding", 2, "veil"), "second_veil", "veil of two layers", SHARE, ("glaze", "hiding", 2, "u")),
    _at(("drying", "masstone", "delta_e00"), "drying", "drying of the masstone", "ΔE00", ("drying", "masstone", "u")),
    _at(("drying", "wash", "delta_e00"), "drying_wash", "drying of the wash", "ΔE00", ("drying", "wash", "u")),
    _of("wet_drop", "reach_mm", "wet_drop", "how far a drop runs", "mm", "u"),
    _of("wet_drop", "parted", "wet_drop_parted", "parting in a drop", "ΔE"),
    _of("water_drop", "area_mm2", "water_drop", "what a drop of water clears", "mm²", "area_u"),
    _of("water_drop", "rim", "water_drop_rim", "rim of that drop", NUMBER, "u"),
    _of("tilt", "parted", "tilt", "parting on a tilted strip", "ΔE"),
    *(_at(("effects", effect, "contrast"), f"effect_{effect}", f"contrast of {effect}", "L*", ("effects", effect, "contrast_u"))
      for effect in ("salt", "gauze", "bloom", "splatter")),
)  # fmt: skip
