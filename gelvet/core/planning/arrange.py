"""Orders in which swatches are laid out."""

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from gelvet.core.colour.difference import ciede2000
from gelvet.core.planning.facts import PaintFacts, hue_of, likely_lab

ARRANGEMENTS: dict[str, str] = {
    "hand": "by hand", "hue": "by hue", "pigment": "by first pigment", "set": "in the set's order", "lightness": "light to dark",
    "likeness": "by likeness",
}  # fmt: skip
# Yellow first, as painters lay a palette out; the circle then runs through red, violet, blue and green.
_FIRST_HUE = 110.0


def arrange(paints: Sequence[PaintFacts], arrangement: str) -> list[int]:
    """Ids of `paints` in the order of `arrangement`; what cannot be placed comes last. KeyError for an unknown one."""
    if arrangement not in ARRANGEMENTS:
        raise KeyError(arrangement)
    if arrangement == "likeness":
        return _by_likeness(paints)
    keys: dict[str, Callable[[PaintFacts], Any]] = {"hue": _hue_key, "pigment": _pigment_key, "set": _set_key, "lightness": _lightness_key}
    if arrangement == "hand":
        return [p.id for p in paints]
    return [p.id for p in sorted(paints, key=keys[arrangement])]


def _hue_key(paint: PaintFacts) -> tuple[float, ...]:
    hue = hue_of(paint)
    return (1.0, 0.0) if hue is None else (0.0, (_FIRST_HUE - hue) % 360)


def _pigment_key(paint: PaintFacts) -> tuple[object, ...]:
    letters = ["PY", "PO", "PR", "PV", "PB", "PG", "PBr", "PBk", "PW", "PM"]
    if not paint.pigments:
        return (len(letters), 0, 0)
    first = paint.pigments[0]
    kind = first.rstrip("0123456789:")
    number = first[len(kind) :].split(":")[0]
    return (letters.index(kind) if kind in letters else len(letters), int(number or 0), len(paint.pigments))


def _set_key(paint: PaintFacts) -> tuple[object, ...]:
    return (paint.maker, paint.range, paint.place is None, paint.place or 0, paint.name)


def _lightness_key(paint: PaintFacts) -> float:
    lab = likely_lab(paint)
    return math.inf if lab is None else -lab[0]


def _by_likeness(paints: Sequence[PaintFacts]) -> list[int]:
    """From the lightest, each time to the nearest that is left: neighbours on the card are neighbours in colour."""
    known = [(p.id, lab) for p in paints if (lab := likely_lab(p)) is not None]
    unknown = [p.id for p in paints if likely_lab(p) is None]
    if not known:
        return unknown
    labs = np.array([lab for _, lab in known])
    distance = ciede2000(labs[:, None], labs[None])
    here = int(np.argmax(labs[:, 0]))
    order, left = [here], set(range(len(known))) - {here}
    while left:
        here = min(left, key=lambda i: (float(distance[order[-1], i]), i))
        order.append(here)
        left.remove(here)
    return [known[i][0] for i in order] + unknown
