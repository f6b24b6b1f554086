"""The answer to a session's question, in sentences and a table, by rules from what was measured."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np

from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.hue_names import nearest_hue, temperature
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.compare.distance import COVERAGE, Comparison, compare_swatches
from gelvet.core.compare.profile_words import profile_phrases
from gelvet.core.compare.wording import difference_words, with_minus

# A mix below this chroma is a grey; one that keeps this share of its parents' mean chroma is clean.
GREY_CHROMA, CLEAN_SHARE = 10.0, 0.85
_NEXT_DOOR_DE00 = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class AnsweredSwatch:
    """A measured swatch of the session. `figures` as the measurement file has them."""

    paint: int
    name: str
    paper: str
    figures: Mapping[str, Any]
    claims: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class AnsweredMix:
    """A measured mix: its parts as (paint's name, share, masstone Lab or None), its colour, and where low lamps told the number of
    its glints per cm² with its uncertainty."""

    parts: tuple[tuple[str, float, Sequence[float] | None], ...]
    lab: Sequence[float]
    u: float
    glints: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Answer:
    """`table` has a heading row first."""

    sentences: tuple[str, ...]
    table: tuple[tuple[str, ...], ...] = ()


def answer(question: str, swatches: Sequence[AnsweredSwatch], mixes: Sequence[AnsweredMix] = ()) -> Answer:
    """What the measured part of a session says so far; each sentence stands on figures that are real beyond k = 2."""
    if not swatches and not mixes:
        return Answer(("Nothing of this session is measured yet.",))
    match question:
        case "one-paint":
            return _one_paint(swatches)
        case "in-mixes":
            return _in_mixes(mixes)
        case "make-myself":
            return _make_myself(swatches, mixes)
        case "replacement":
            return _replacement(swatches)
        case "sparkle":
            return _sparkle(swatches)
        case "lasting":
            return _lasting(swatches)
        case "paper":
            return _paper(swatches)
        case _:
            return _side_by_side(swatches)


def _first_of_each(swatches: Sequence[AnsweredSwatch]) -> list[AnsweredSwatch]:
    return list({s.paint: s for s in reversed(swatches)}.values())[::-1]


def _one_paint(swatches: Sequence[AnsweredSwatch]) -> Answer:
    first = swatches[0]
    sentences = [p.text for p in profile_phrases(first.figures)]
    sentences += claim_sentences(first)
    same = [s for s in swatches if s.paint == first.paint]
    if len(same) > 1:
        labs = [np.array(s.figures["masstone"]["lab"]) for s in same if s.figures["masstone"]["lab"] is not None]
        if len(labs) > 1:
            spread = max(float(ciede2000(a, b)) for a, b in combinations(labs, 2))
            sentences.append(f"Its {len(labs)} swatches lie within {spread:.1f} ΔE00 of each other at masstone.")
    return Answer(tuple(sentences), _figures_table(same))


def claim_sentences(swatch: AnsweredSwatch) -> list[str]:
    """The label's claims against what was measured, where both are known."""
    said = []
    measured = {"transparency": swatch.figures["hiding"].get("class"), "staining": swatch.figures["lifting"].get("class")}
    for what, found in measured.items():
        claimed = swatch.claims.get(what, "").strip().lower()
        if claimed and found:
            agrees = claimed == str(found).lower()
            said.append(
                f"The label says {what} is {claimed}; measured as {found}, which agrees."
                if agrees
                else f"The label says {what} is {claimed}; measured as {found}."
            )
    claimed = swatch.claims.get("granulation", "").strip().lower()
    index = swatch.figures["granulation"].get("index")
    if claimed in {"yes", "no"} and index is not None:
        grainy = index >= 1.0
        verdict = "which agrees" if grainy == (claimed == "yes") else "which does not agree"
        said.append(f"The label says granulating: {claimed}; measured {index:.1f} L*, {verdict}.")
    return said


def _side_by_side(swatches: Sequence[AnsweredSwatch]) -> Answer:
    paints = _first_of_each(swatches)
    pairs = [(a, b, compare_swatches(a.figures, b.figures)) for a, b in combinations(paints, 2)]
    known = [(a, b, c, next(d for d in c.distances if d.place == "path")) for a, b, c in pairs]
    ranked = sorted(((a, b, c, d.de00) for a, b, c, d in known if d.de00 is not None), key=lambda item: item[3])
    if not ranked:
        return Answer(("Too little is measured to set the paints side by side.",), _figures_table(paints))
    sentences = []
    a, b, c, nearest = ranked[0]
    sentences.append(f"Nearest are {a.name} and {b.name}, {nearest:.1f} ΔE00 along the path{_second(b, c)}.")
    if len(ranked) > 1:
        a, b, c, farthest = ranked[-1]
        sentences.append(f"Farthest apart are {a.name} and {b.name}, {farthest:.1f} ΔE00{_second(b, c)}.")
    twins = [f"{a.name} and {b.name}" for a, b, c, d in ranked if not any(x.real for x in c.distances) or d < _NEXT_DOOR_DE00]
    if twins:
        sentences.append(f"Hard to tell apart by colour: {'; '.join(twins)}.")
    grain = [(s.figures["granulation"]["index"], s.name) for s in paints if s.figures["granulation"].get("index") is not None]
    if len(grain) > 1:
        sentences.append(f"Grainiest is {max(grain)[1]} ({max(grain)[0]:.1f} L*), smoothest {min(grain)[1]} ({min(grain)[0]:.1f} L*).")
    return Answer(tuple(sentences), _figures_table(paints))


def _second(swatch: AnsweredSwatch, comparison: Comparison) -> str:
    words = difference_words(comparison)
    return f"; {swatch.name} against the other: {words}" if words else ""


def _in_words(words: str) -> str:
    return f": {words}" if words else ""


def _replacement(swatches: Sequence[AnsweredSwatch]) -> Answer:
    wanted, *others = _first_of_each(swatches)
    rows = []
    for other in others:
        comparison = compare_swatches(wanted.figures, other.figures)
        at = {d.place: d.de00 for d in comparison.distances}
        if at["masstone"] is not None and at["wash"] is not None:
            rows.append((at["masstone"] + at["wash"], other.name, at["masstone"], at["wash"], difference_words(comparison)))
    rows.sort(key=lambda row: row[0])
    if not rows:
        return Answer((f"Nothing measured stands beside {wanted.name} yet.",))
    best = rows[0]
    words = f"The nearest to {wanted.name} is {best[1]}: {best[2]:.1f} ΔE00 at masstone, {best[3]:.1f} at wash{_in_words(best[4])}."
    table = [("paint", "masstone ΔE00", "wash ΔE00", "in words")]
    table += [(name, f"{masstone:.1f}", f"{wash:.1f}", said or "not to be told apart") for _, name, masstone, wash, said in rows]
    return Answer((words,), tuple(table))


def _mix_name(mix: AnsweredMix) -> str:
    return " + ".join(f"{100 * share:.0f} % {name}" for name, share, _ in mix.parts)


def _in_mixes(mixes: Sequence[AnsweredMix]) -> Answer:
    if not mixes:
        return Answer(("No mix of this session is measured yet.",))
    rows = [(mix, lab_to_lch(np.array(mix.lab)), _kept(mix)) for mix in mixes]
    sentences = []
    greyest = min(rows, key=lambda r: float(r[1][1]))
    if greyest[1][1] < GREY_CHROMA:
        hue = float(greyest[1][2])
        lean = f"{temperature(hue)}, leaning {nearest_hue(hue)}" if greyest[1][1] > 2 * greyest[0].u else "without a lean that is real"
        sentences.append(f"{_mix_name(greyest[0])} makes the truest grey: chroma {greyest[1][1]:.1f}, {lean}.")
    else:
        sentences.append(f"No partner neutralises it: the dullest mix, {_mix_name(greyest[0])}, keeps a chroma of {greyest[1][1]:.0f}.")
    judged = [(kept, mix) for mix, _, kept in rows if kept is not None]
    if judged:
        most, cleanest = max(judged, key=lambda r: r[0])
        sentences.append(f"Cleanest is {_mix_name(cleanest)}: it keeps {100 * most:.0f} % of its parents' chroma.")
    darkest = min(rows, key=lambda r: float(r[1][0]))
    sentences.append(f"The darkest dark is {_mix_name(darkest[0])}, at L* {darkest[1][0]:.0f}.")
    sentences += _sparkle_of_mixes(mixes)
    table = [("mix", "L*", "C*", "h", "chroma kept", "")]
    for mix, lch, kept in rows:
        word = "grey" if lch[1] < GREY_CHROMA else "" if kept is None else "clean" if kept >= CLEAN_SHARE else "dull"
        table.append(
            (_mix_name(mix), f"{lch[0]:.0f}", f"{lch[1]:.0f}", f"{lch[2]:.0f}°", "" if kept is None else f"{100 * kept:.0f} %", word)
        )
    return Answer(tuple(sentences), tuple(table))


def _sparkle_of_mixes(mixes: Sequence[AnsweredMix]) -> list[str]:
    seen = [(m.glints[0], m.glints[1], m) for m in mixes if m.glints is not None]
    if not seen:
        return []
    density, u, most = max(seen, key=lambda row: row[0])
    if density <= COVERAGE * u:
        return ["None of the mixes sparkles."]
    return [f"{_mix_name(most)} keeps most sparkle: {density:.0f} glints a cm²."]


def _kept(mix: AnsweredMix) -> float | None:
    """The mix's chroma over its parents' masstones', by their shares; None where a parent is not measured or all are grey."""
    chroma = [share * float(np.hypot(lab[1], lab[2])) for _, share, lab in mix.parts if lab is not None]
    if len(chroma) != len(mix.parts) or sum(chroma) < GREY_CHROMA:
        return None
    return float(np.hypot(mix.lab[1], mix.lab[2]) / sum(chroma))


def _make_myself(swatches: Sequence[AnsweredSwatch], mixes: Sequence[AnsweredMix]) -> Answer:
    """The target is the last paint of the session: the one that is to be matched."""
    targets = [s for s in swatches if s.figures["masstone"]["lab"] is not None]
    if not targets:
        return Answer(("The paint to be matched is not measured yet.",))
    target = targets[-1]
    wanted = np.array(target.figures["masstone"]["lab"])
    rows = [(float(ciede2000(np.array(m.lab), wanted)), m) for m in mixes if all(name != target.name for name, _, _ in m.parts)]
    rows.sort(key=lambda row: row[0])
    if not rows:
        return Answer((f"No mix without {target.name} itself is measured yet.",))
    best, mix = rows[0]
    real = best > COVERAGE * float(np.hypot(mix.u, target.figures["masstone"]["u"]))
    words = f"{_mix_name(mix)} comes nearest to {target.name}: {best:.1f} ΔE00 at masstone remain" if real \
        else f"{_mix_name(mix)} cannot be told from {target.name} at masstone"  # fmt: skip
    table = [("mix", "ΔE00 to the masstone"), *((_mix_name(m), f"{de:.1f}") for de, m in rows)]
    return Answer((f"{words}.",), tuple(table))


def _sparkle(swatches: Sequence[AnsweredSwatch]) -> Answer:
    seen = [s for s in swatches if not (s.figures.get("sparkle") or {}).get("absent", "none")]
    if seen:
        best = max(seen, key=lambda s: s.figures["sparkle"]["density"])
        return Answer((f"{best.name} sparkles most: {best.figures['sparkle']['density']:.0f} glints a cm².",), _figures_table(swatches))
    return Answer(
        ("Sparkle itself is not measured: a flat scan holds no low lamp to see it by. What follows is their colour.",),
        _figures_table(_first_of_each(swatches)),
    )


def _lasting(swatches: Sequence[AnsweredSwatch]) -> Answer:
    rows = [(s.name, s.figures.get("fade") or {}) for s in swatches]
    known = [(f["delta_e_ab"], name, f) for name, f in rows if f.get("delta_e_ab") is not None]
    if not known:
        reasons = {str(f["absent"]) for _, f in rows if f.get("absent")}
        return Answer((f"Not to be said yet: {'; '.join(sorted(reasons)) or 'no strip of this session is measured'}.",))
    known.sort(key=lambda row: row[0])
    steady, moved = known[0], known[-1]
    sentences = [f"Steadiest is {steady[1]}: {steady[0]:.1f} ΔE*ab after {steady[2]['hours']:.0f} hours."]
    if len(known) > 1:
        sentences.append(f"{moved[1]} has moved most: {moved[0]:.1f} ΔE*ab, category {moved[2]['category']}.")
    sentences.append("This is the bench's own screening, not a certificate.")
    table = [("paint", "ΔE*ab", "± k=2", "hours", "category")]
    table += [(name, f"{de:.1f}", f"{2 * f['u']:.1f}", f"{f['hours']:.0f}", f["category"]) for de, name, f in known]
    return Answer(tuple(sentences), tuple(table))


def _paper(swatches: Sequence[AnsweredSwatch]) -> Answer:
    by_paint: dict[int, dict[str, AnsweredSwatch]] = {}
    for swatch in swatches:
        by_paint.setdefault(swatch.paint, {}).setdefault(swatch.paper or "unnamed paper", swatch)
    sentences = []
    for papers in by_paint.values():
        for (one, a), (two, b) in combinations(papers.items(), 2):
            words = difference_words(compare_swatches(a.figures, b.figures))
            sentences.append(f"{a.name}, {two} against {one}: {words or 'no difference that is real'}.")
    if not sentences:
        return Answer(("Only one paper is measured yet.",), _figures_table(swatches, papers=True))
    return Answer(tuple(sentences), _figures_table(swatches, papers=True))


def _figures_table(swatches: Sequence[AnsweredSwatch], papers: bool = False) -> tuple[tuple[str, ...], ...]:
    heading = ["paint", *(["paper"] if papers else []), "masstone L*", "wash L*", "hue shift", "grain L*", "transparency", "staining"]
    rows = [tuple(heading)]
    for swatch in swatches:
        f = swatch.figures
        cells = [
            _number((f["masstone"]["lab"] or [None])[0]),
            _number((f["wash"]["lab"] or [None])[0]),
            _number(f["hue_shift"].get("delta_h"), "°"),
            _number(f["granulation"].get("index"), digits=1),
            f["hiding"].get("class") or "–",
            f["lifting"].get("class") or "–",
        ]
        rows.append((swatch.name, *([swatch.paper] if papers else []), *cells))
    return tuple(rows)


def _number(value: float | None, unit: str = "", digits: int = 0) -> str:
    return "–" if value is None else with_minus(f"{value:.{digits}f}{unit}")
