"""Paints as planning sees them: the label, and the newest measured colours."""

from collections.abc import Iterable

from gelvet.core.planning.facts import PaintFacts
from gelvet.site.library.models import Paint
from gelvet.site.results.colours import PaintColours, newest_colours

_UNMEASURED = PaintColours(None, None)


def paint_facts(paints: Iterable[Paint]) -> dict[int, PaintFacts]:
    """Facts by paint id; `paints` with maker and range at hand."""
    rows = list(paints)
    colours = newest_colours({p.pk for p in rows})
    return {
        p.pk: PaintFacts(
            id=p.pk,
            maker=p.maker.name,
            name=p.name,
            pigments=tuple(p.pigments),
            form=p.form,
            range=p.range.name if p.range else "",
            place=p.place,
            claims=p.claims,
            owned=p.owned,
            sparkles=p.sparkles,
            masstone=colours.get(p.pk, _UNMEASURED).masstone,
            wash=colours.get(p.pk, _UNMEASURED).wash,
        )
        for p in rows
    }


def library_facts() -> dict[int, PaintFacts]:
    return paint_facts(Paint.objects.filter(binned=None).select_related("maker", "range"))
