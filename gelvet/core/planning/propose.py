"""Which paints a question should lay side by side, each with the reason why."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.colour.difference import ciede2000
from gelvet.core.planning.facts import PaintFacts, hue_of, likely_lab
from gelvet.core.planning.questions import QUESTIONS

NEAREST = 4
RING = 12


@dataclass(frozen=True, slots=True)
class Proposed:
    paint: int
    reason: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """`paints` in order; `partners` only where the question mixes."""

    paints: tuple[Proposed, ...]
    partners: tuple[Proposed, ...] = ()


def propose(question: str, subject: str, library: Sequence[PaintFacts]) -> Proposal:
    """`subject` is a paint's id, a colour name, a pigment code or a set, as the question starts. Unknown subjects give
    an empty proposal; KeyError for an unknown question."""
    by_start = {"name": same_name, "pigment": same_pigment, "set": same_set}
    start = QUESTIONS[question].start
    if start != "paint":
        return Proposal(_any(question, library) if start == "paints" else by_start[start](subject, library))
    paint = next((p for p in library if str(p.id) == subject), None)
    if paint is None:
        return Proposal(())
    own = (Proposed(paint.id, "the paint in question"),)
    if question == "make-myself":
        return make_it(paint, library)
    if question == "in-mixes":
        return Proposal(own, ring(paint, library))
    return Proposal(own + nearest(paint, library) if question == "replacement" else own)


def same_name(name: str, library: Sequence[PaintFacts]) -> tuple[Proposed, ...]:
    wanted = name.casefold().strip()
    found = [p for p in library if wanted and p.name.casefold() == wanted]
    return tuple(Proposed(p.id, f"{p.maker}'s version") for p in found)


def same_pigment(code: str, library: Sequence[PaintFacts]) -> tuple[Proposed, ...]:
    """Paints of this pigment alone first, then those that hold it beside others. PB15 includes PB15:3."""
    main = code.split(":", maxsplit=1)[0]

    def has(paint: PaintFacts) -> bool:
        return any(c == code or (":" not in code and c.split(":", maxsplit=1)[0] == main) for c in paint.pigments)

    found = sorted((p for p in library if has(p)), key=lambda p: len(p.pigments))
    return tuple(Proposed(p.id, f"{code} alone" if len(p.pigments) == 1 else f"{code} with others") for p in found)


def same_set(name: str, library: Sequence[PaintFacts]) -> tuple[Proposed, ...]:
    found = [p for p in library if name and f"{p.maker} · {p.range}" == name]
    found.sort(key=lambda p: (p.place is None, p.place or 0, p.name))
    return tuple(Proposed(p.id, f"number {p.place} of the set" if p.place is not None else "in the set") for p in found)


def nearest(paint: PaintFacts, library: Sequence[PaintFacts], count: int = NEAREST) -> tuple[Proposed, ...]:
    """By measured masstone and wash where both paints have them, else by pigments in common."""
    measured = [(p, _distance(paint, p)) for p in library if p.id != paint.id]
    ranked = sorted(((p, d) for p, d in measured if d is not None), key=lambda item: item[1])[:count]
    found = [Proposed(p.id, f"{d:.1f} ΔE00 away, as measured") for p, d in ranked]
    chosen = {p.paint for p in found}
    for other in library:
        common = set(other.pigments) & set(paint.pigments)
        if len(found) < count and common and other.id not in chosen | {paint.id}:
            found.append(Proposed(other.id, f"holds {' '.join(sorted(common))} too; not measured yet"))
    return tuple(found)


def _distance(one: PaintFacts, two: PaintFacts) -> float | None:
    """Mean CIEDE2000 of masstone and wash; None unless both are measured."""
    if one.masstone is None or one.wash is None or two.masstone is None or two.wash is None:
        return None
    pairs = ciede2000(np.array([one.masstone, one.wash]), np.array([two.masstone, two.wash]))
    return float(np.mean(pairs))


def ring(paint: PaintFacts, library: Sequence[PaintFacts], count: int = RING) -> tuple[Proposed, ...]:
    """Partners spread round the hue circle, single pigments and owned paints before others, in order of hue.

    The circle is cut into `count` equal parts; each gives its best paint. A part without one gives way to a paint
    that lies farthest from those already chosen.
    """
    hues = {p.id: hue for p in library if (hue := hue_of(p)) is not None}
    usable = [p for p in library if p.id != paint.id and p.owned and not p.sparkles and p.id in hues]
    usable.sort(key=lambda p: (len(p.pigments), p.name))
    part = 360 / count
    chosen: dict[int, PaintFacts] = {}
    for candidate in usable:
        chosen.setdefault(int(hues[candidate.id] // part), candidate)
    picked = list(chosen.values())
    rest = [p for p in usable if p not in picked]
    apart = {p.id: min(_gap(hues[p.id], hues[q.id]) for q in picked) for p in rest}
    while rest and len(picked) < count:
        farthest = max(rest, key=lambda p: apart[p.id])
        picked.append(farthest)
        rest.remove(farthest)
        for p in rest:
            apart[p.id] = min(apart[p.id], _gap(hues[p.id], hues[farthest.id]))
    picked.sort(key=lambda p: hues[p.id])
    return tuple(Proposed(p.id, f"hue {hues[p.id]:.0f}°{'' if p.wash else ', by its pigments'}") for p in picked)


def _gap(one: float, two: float) -> float:
    """Degrees between two hues, the shorter way round."""
    gap = abs(one - two) % 360
    return min(gap, 360 - gap)


def make_it(paint: PaintFacts, library: Sequence[PaintFacts]) -> Proposal:
    """The mixed paint's constituents as single-pigment paints: the first is mixed with the others."""
    found: list[Proposed] = []
    for code in paint.pigments:
        single = next((p for p in library if p.pigments == (code,) and p.id != paint.id), None)
        if single is not None:
            found.append(Proposed(single.id, f"{code} alone"))
    return Proposal(tuple(found[:1]), (*found[1:], Proposed(paint.id, "the paint to be matched")) if found else ())


def _any(question: str, library: Sequence[PaintFacts]) -> tuple[Proposed, ...]:
    keep: Callable[[PaintFacts], str | None]
    if question == "sparkle":

        def keep(p: PaintFacts) -> str | None:
            return "sparkles by its label" if p.sparkles else None
    elif question == "buy-again":

        def keep(p: PaintFacts) -> str | None:
            return "owned" if p.owned else None
    else:

        def keep(p: PaintFacts) -> str | None:
            doubted = p.claims.get("lightfastness", "")
            return f"its label says {doubted}" if doubted and doubted.upper() not in {"I", "EXCELLENT", "ASTM I"} else None

    found = [(p, keep(p)) for p in library]
    return tuple(Proposed(p.id, reason) for p, reason in found if reason is not None)


def colour_gaps(library: Sequence[PaintFacts]) -> list[tuple[float, float]]:
    """Stretches of the hue circle (from, to, degrees) of 45° or more in which no owned paint lies."""
    hues = sorted(h for h in (hue_of(p) for p in library if p.owned) if h is not None)
    if not hues:
        return []
    pairs = zip(hues, [*hues[1:], hues[0] + 360], strict=True)
    return [(a, b % 360) for a, b in pairs if b - a >= 45]


def by_colour(wanted: tuple[float, float, float], library: Sequence[PaintFacts]) -> list[tuple[int, float]]:
    """(paint, ΔE00) for every paint of known or likely masstone, nearest first."""
    known = [(p.id, lab) for p in library if (lab := likely_lab(p)) is not None]
    if not known:
        return []
    distances = ciede2000(np.array([lab for _, lab in known]), np.array(wanted))
    return sorted(((paint, float(d)) for (paint, _), d in zip(known, distances, strict=True)), key=lambda item: item[1])
