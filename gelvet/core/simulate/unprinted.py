"""A sheet painted without a printed card: what people have from before."""

from dataclasses import replace

from gelvet.core.card.layout import Layout

_ON_INK = {"ink", "over_ink", "beside_ink"}


def unprinted(layout: Layout) -> Layout:
    """The card's paint on paper without tags, patches and ink lines. Its code and labels stay: they are no paint."""
    zones = tuple(z for z in layout.zones if z.kind not in _ON_INK)
    return replace(layout, tags=(), patches=(), zones=zones)
