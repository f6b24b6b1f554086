"""In which order the swatches of a card are painted: the brush should carry nothing into the next one."""

from collections.abc import Sequence

from gelvet.core.planning.facts import PaintFacts, character, likely_lab

_UNKNOWN_LIGHTNESS = 50.0


def painting_order(paints: Sequence[PaintFacts]) -> list[int]:
    """Light and clean before dark and staining; sparkling ones last and apart, for flakes stay in the brush."""

    def key(paint: PaintFacts) -> tuple[bool, bool, float]:
        lab = likely_lab(paint)
        lightness = _UNKNOWN_LIGHTNESS if lab is None else lab[0]
        # A staining dark is the last that clean water should meet; a staining yellow does little harm.
        return (paint.sparkles, character(paint, "staining") and lightness < 45, -lightness)

    return [p.id for p in sorted(paints, key=key)]
