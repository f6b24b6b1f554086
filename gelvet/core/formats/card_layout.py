"""`*.card.json`: card layouts."""

import math
from pathlib import Path
from typing import Any

from gelvet.core.card.layout import Layout, Patch, Placement, Rect, Swatch, Tag, Zone
from gelvet.core.errors import LayoutError
from gelvet.core.formats.documents import check_document, parse_document, read_text

_FEWEST_TAGS = 3
# Of the smallest card, with room: a sheet in inches or centimetres has a shorter side.
_LEAST_SIDE_MM = 30.0
_KNOWN_ZONE_KEYS = {"id", "swatch", "kind", "rect_mm", "axis"}
_KNOWN_KEYS = {"format", "version", "card_id", "size_mm", "fiducials", "reference", "zones", "swatches", "placement"}


def read_layout(path: Path) -> Layout:
    """The layout in `path`; raises LayoutError."""
    return layout_from_document(parse_document(read_text(path, LayoutError), "card-layout", str(path), LayoutError), str(path))


def layout_from_document(document: Any, source: str) -> Layout:
    """A Layout from parsed JSON; raises LayoutError naming `source`."""
    checked = check_document(document, "card-layout", source, LayoutError)
    layout = Layout(
        card_id=checked["card_id"],
        size_mm=(float(checked["size_mm"][0]), float(checked["size_mm"][1])),
        tags=tuple(
            Tag(id=t["id"], centre_mm=(t["center_mm"][0], t["center_mm"][1]), size_mm=t["size_mm"]) for t in checked["fiducials"]["tags"]
        ),
        patches=tuple(Patch(id=p["id"], rect=Rect(*p["rect_mm"])) for p in (checked.get("reference") or {}).get("patches", [])),
        zones=tuple(_zone(z) for z in checked["zones"]),
        swatches=_swatches(checked),
        placement=_placement(checked["placement"], source) if checked.get("placement") else None,
        extra={k: v for k, v in checked.items() if k not in _KNOWN_KEYS},
    )
    _check_consistency(layout, source)
    return layout


def _zone(item: dict[str, Any]) -> Zone:
    return Zone(
        id=item["id"],
        kind=item["kind"],
        rect=Rect(*item["rect_mm"]),
        swatch=item.get("swatch"),
        axis=item.get("axis"),
        extra={k: v for k, v in item.items() if k not in _KNOWN_ZONE_KEYS},
    )


def _placement(item: dict[str, Any], source: str) -> Placement:
    placement = Placement(
        corners_px=tuple((float(x), float(y)) for x, y in item["corners_px"]),
        image_px=(item["image_px"][0], item["image_px"][1]),
        scale=item.get("scale", "unknown"),
    )
    if not placement.is_upright:
        raise LayoutError(f"{source} has corners that do not go round a sheet clockwise from its top-left; pull them to its corners.")
    return placement


def _swatches(document: dict[str, Any]) -> tuple[Swatch, ...]:
    """Listed swatches first, then those that only zones name."""
    listed = [
        Swatch(id=s["id"], label=s.get("label") or "", extra={k: v for k, v in s.items() if k not in {"id", "label"}})
        for s in document.get("swatches", [])
    ]
    known = {s.id for s in listed}
    for zone in document["zones"]:
        name = zone.get("swatch")
        if name and name not in known:
            known.add(name)
            listed.append(Swatch(id=name))
    return tuple(listed)


def _check_consistency(layout: Layout, source: str) -> None:
    if layout.placement is None and len(layout.tags) < _FEWEST_TAGS:
        raise LayoutError(f"{source} has fewer than three tags, and does not say where its sheet lies in the image; use a card with tags.")
    if layout.placement is not None and (layout.tags or layout.patches):
        raise LayoutError(f"{source} has tags or patches and corners pulled by hand; keep one or the other.")
    if layout.placement is None and min(layout.size_mm) < _LEAST_SIDE_MM:
        across, down = layout.size_mm
        raise LayoutError(f"{source} gives a card of {across:.4g} × {down:.4g} mm, too small for tags and swatches; check its units.")
    for what, ids in (
        ("zone", [z.id for z in layout.zones]),
        ("tag", [t.id for t in layout.tags]),
        ("reference patch", [p.id for p in layout.patches]),
        ("swatch", [s.id for s in layout.swatches]),
    ):
        seen: set[object] = set()
        for item in ids:
            if item in seen:
                raise LayoutError(f"{source} names the {what} {item} twice; give each its own id.")
            seen.add(item)
    card = Rect(-5, -5, layout.size_mm[0] + 10, layout.size_mm[1] + 10)
    for name, rect in [(z.id, z.rect) for z in layout.zones] + [(p.id, p.rect) for p in layout.patches]:
        numbers = (rect.x, rect.y, rect.right, rect.bottom)
        if not all(math.isfinite(v) for v in numbers) or rect.x < card.x or rect.y < card.y \
                or rect.right > card.right or rect.bottom > card.bottom:  # fmt: skip
            raise LayoutError(f"{source} places {name} outside the card; check rect_mm and size_mm.")


def layout_to_document(layout: Layout) -> dict[str, Any]:
    """JSON-ready form of `layout`; unknown keys that were read are kept."""
    return {
        "format": "gelvet.card-layout",
        "version": 1,
        "card_id": layout.card_id,
        "size_mm": list(layout.size_mm),
        "fiducials": {
            "dictionary": "APRILTAG_36H11",
            "tags": [{"id": t.id, "center_mm": list(t.centre_mm), "size_mm": t.size_mm} for t in layout.tags],
        },
        "reference": {"patches": [{"id": p.id, "rect_mm": p.rect.as_list()} for p in layout.patches]},
        "zones": [_zone_to_document(z) for z in layout.zones],
        "swatches": [{"id": s.id, "label": s.label, **s.extra} for s in layout.swatches],
        **({} if layout.placement is None else {"placement": _placement_to_document(layout.placement)}),
        **layout.extra,
    }


def _placement_to_document(placement: Placement) -> dict[str, Any]:
    corners = [[round(x, 2), round(y, 2)] for x, y in placement.corners_px]
    return {"corners_px": corners, "image_px": list(placement.image_px), "scale": placement.scale}


def _zone_to_document(zone: Zone) -> dict[str, Any]:
    item: dict[str, Any] = {"id": zone.id, "swatch": zone.swatch, "kind": zone.kind, "rect_mm": zone.rect.as_list()}
    if zone.axis is not None:
        item["axis"] = zone.axis
    return {**item, **zone.extra}
