"""Lifting: how much of the paint a damp brush takes away, and what stays (measurement.md 8)."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.quantities.layers import Lifting
from gelvet.core.measure.quantities.texture import Component
from gelvet.core.measure.separation.components import unmix
from gelvet.core.measure.uncertainty import hue_u_deg
from gelvet.core.measure.values import Absent, Figure, ZoneColour, tint_depth

_MINIMUM_DEPTH = 0.04
# Where a component's share of the depth rises by less, both stay alike.
_STAYS_MORE = 0.05
# A residue paler or greyer than this has no hue of its own.
_COLOURED = 2.0
# Of a tint depth beside another of the same paint, at best, and for each ΔE00 that the two colours are unsure by, most of which they
# share (k = 1): 95 % of the errors of shares lifted lie within twice what comes of it on 123 swatches of another simulator.
_DEPTH_U, _NOT_SHARED = 0.0035, 0.0013


def lifting(
    paper: ZoneColour,
    unlifted: ZoneColour,
    lifted: ZoneColour,
    *,
    before: bool = False,
    components: Sequence[Component] = (),
    glints: Figure | None = None,
    damage: Figure | None = None,
) -> Lifting | Absent:
    """Figures of a scrubbed place against the same paint beside it, or against itself `before`."""
    deep, pale = (float(tint_depth(z.xyz, paper.xyz)) for z in (unlifted, lifted))
    if deep < _MINIMUM_DEPTH:
        return Absent("the unlifted paint is hardly darker than the bare paper")
    spatial, colour = (float(np.hypot(*us)) for us in ((unlifted.u_spatial, lifted.u_spatial), (unlifted.u, lifted.u)))
    depth_u = 0.01 * spatial + _NOT_SHARED * colour + _DEPTH_U
    residue = lifted.relative_to(paper.xyz)
    _, chroma, hue = lab_to_lch(residue)
    which, share, share_before = _what_stays(paper, unlifted, lifted, components)
    return Lifting(
        removed=1 - pale / deep,
        u=depth_u / deep,
        residual_de00=Figure(float(ciede2000(lifted.lab, paper.lab)), float(np.hypot(lifted.u, paper.u_spatial))),
        staining=USUAL.staining(1 - pale / deep),
        before=before,
        residue_hue=Figure(float(hue), hue_u_deg(residue, lifted.u_lab)) if chroma > _COLOURED else None,
        residue_component=which,
        residue_share=share,
        residue_share_before=share_before,
        residue_share_u=None if which is None else components[which].share_u,
        glints=glints,
        damage=damage,
    )


def _what_stays(
    paper: ZoneColour, unlifted: ZoneColour, lifted: ZoneColour, components: Sequence[Component]
) -> tuple[int, float, float] | tuple[None, None, None]:
    """Which of two components stays more than the other, its share of the residue's density, and its share before."""
    shares = [_shares(paper, zone, components) for zone in (unlifted, lifted)]
    before, after = shares
    if before is None or after is None or np.abs(after - before).max() < _STAYS_MORE:
        return None, None, None
    which = int(np.argmax(after - before))
    return which, float(after[which]), float(before[which])


def _shares(paper: ZoneColour, zone: ZoneColour, components: Sequence[Component]) -> Floats | None:
    """Share (2,) of two components of the zone's density; None where there are not two, or one is as pale as the paper."""
    if len(components) != 2:
        return None
    ends = np.array([-np.log10(np.clip(c.xyz / paper.xyz, 1e-4, 1.0)) for c in components])
    largest = ends.max(axis=1, keepdims=True)
    if largest.min() < 1e-3:
        return None
    ends = ends / largest
    amounts = unmix(-np.log10(np.clip(zone.xyz / paper.xyz, 1e-4, 1.0)), ends) * ends.sum(axis=1)
    return np.asarray(amounts / amounts.sum()) if amounts.sum() > 0 else None
