"""The printable sheet: vector PDF at true scale, with a ruler to check the printer."""

import io
from collections.abc import Sequence
from typing import Any

import numpy as np

from gelvet.core.card.code import code_modules
from gelvet.core.card.dictionary import tag_modules
from gelvet.core.card.furniture import ruler_rect
from gelvet.core.card.layout import Layout, Rect, Zone
from gelvet.core.colour.spaces import encode_srgb

_POINTS_PER_MM = 72 / 25.4
# Hairlines keep this far from the zone they frame and this pale, so that measuring never meets them.
_HAIRLINE_GAP_MM, _HAIRLINE_GREY, _HAIRLINE_MM = 0.5, 0.86, 0.08


def card_pdf(layout: Layout) -> bytes:
    """The card as a one-page PDF, the same bytes for the same layout."""
    return cards_pdf([layout], f"Swatch card {layout.card_id}")


def cards_pdf(layouts: Sequence[Layout], title: str) -> bytes:
    """One page for each card at true scale, the same bytes for the same layouts."""
    from reportlab.pdfgen.canvas import Canvas

    buffer = io.BytesIO()
    canvas = Canvas(buffer, invariant=1)
    canvas.setTitle(title)
    canvas.setCreator("Gelvet")
    for layout in layouts:
        width, height = layout.size_mm
        canvas.setPageSize((width * _POINTS_PER_MM, height * _POINTS_PER_MM))
        canvas.scale(_POINTS_PER_MM, _POINTS_PER_MM)
        _page(_Sheet(canvas, height), layout)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def _page(sheet: "_Sheet", layout: Layout) -> None:
    width, height = layout.size_mm
    for tag in layout.tags:
        sheet.modules(tag.rect, tag_modules(tag.id))
    for index, patch in enumerate(layout.patches):
        sheet.fill(patch.rect, patch_ink(index, len(layout.patches)))
    if "code" in layout.extra:
        sheet.modules(Rect(*layout.extra["code"]["rect_mm"]), code_modules(layout.card_id))
    _zones(sheet, layout)
    for window in layout.extra.get("windows", []):
        sheet.cut(Rect(*window))
    rect = ruler_rect(width, height)
    # Nothing may be printed near a tag, or it is not found again.
    _ruler(sheet, rect, min(t.rect.x for t in layout.tags if t.rect.x > rect.x and t.rect.bottom > height - 20) - rect.x - 2.5)
    # Beside the last tag, or over it where the foot is too short for both.
    right = width - 26 if width >= 200 else width - 2
    sheet.text(right, height - (9.5 if width >= 200 else 16.4), layout.card_id, 2.6, anchor="end")
    room = width - 26 - max(t.rect.right for t in layout.tags if t.rect.right < width - 26 and t.rect.bottom > height - 20) - 2.5
    sheet.text(width - 26, height - 6.5, "print at 100 %, unscaled" if room > 22 else "at 100 %", 1.9, anchor="end", room=room)


def patch_ink(index: int, count: int) -> tuple[float, float, float]:
    """What the printer is asked for, display RGB 0 to 1: greys first, then hues at four strengths.

    The printed colour is never trusted: the target is measured after printing.
    """
    greys = 8
    if index < greys:
        level = 1 - index / (greys - 1)
        return (level, level, level)
    turn = (index - greys) / max(count - greys, 1) * 3
    strength = (1.0, 0.62, 0.35)[int(turn) % 3]
    angle = 2 * np.pi * (turn % 1)
    channels = 0.5 + 0.5 * np.cos(angle - np.array([0, 2.0944, 4.1888]))
    linear = 1 - strength * (1 - channels**1.5)
    r, g, b = encode_srgb(linear * (0.55 if index % 3 == 1 else 1.0))
    return float(r), float(g), float(b)


class _Sheet:
    """Draws in card millimetres, y down, on a PDF canvas whose y goes up."""

    def __init__(self, canvas: Any, height_mm: float) -> None:
        self.canvas = canvas
        self.height = height_mm

    def fill(self, rect: Rect, rgb: tuple[float, float, float]) -> None:
        self.canvas.setFillColorRGB(*rgb)
        self.canvas.rect(rect.x, self.height - rect.bottom, rect.width, rect.height, stroke=0, fill=1)

    def frame(self, rect: Rect) -> None:
        self.canvas.setStrokeGray(_HAIRLINE_GREY)
        self.canvas.setLineWidth(_HAIRLINE_MM)
        outer = rect.inset(-_HAIRLINE_GAP_MM)
        self.canvas.rect(outer.x, self.height - outer.bottom, outer.width, outer.height, stroke=1, fill=0)

    def cut(self, rect: Rect) -> None:
        """An opening to be cut out of a window frame."""
        self.canvas.setStrokeGray(0.3)
        self.canvas.setLineWidth(0.2)
        self.canvas.setDash(2, 1)
        self.canvas.rect(rect.x, self.height - rect.bottom, rect.width, rect.height, stroke=1, fill=0)
        self.canvas.setDash()

    def modules(self, rect: Rect, modules: Any) -> None:
        """Black modules as one path each row run, touching exactly."""
        self.canvas.setFillGray(0)
        size = rect.width / modules.shape[1]
        path = self.canvas.beginPath()
        for row, line in enumerate(modules):
            for column in np.flatnonzero(line):
                path.rect(rect.x + column * size, self.height - rect.y - (row + 1) * size, size, size)
        self.canvas.drawPath(path, stroke=0, fill=1)

    def text(self, x: float, y: float, words: str, size_mm: float, anchor: str = "start", room: float | None = None) -> None:
        """Set smaller where it would be wider than `room`, and cut short where even that is not enough."""
        printed = words.encode("latin-1", "replace").decode("latin-1")
        if room is not None:
            size_mm = max(1.5, min(size_mm, size_mm * room / max(self.canvas.stringWidth(printed, "Helvetica", size_mm), 1e-6)))
            while len(printed) > 1 and self.canvas.stringWidth(printed, "Helvetica", size_mm) > room:
                printed = printed[:-1]
        self.canvas.setFillGray(0.25)
        self.canvas.setFont("Helvetica", size_mm)
        draw = self.canvas.drawRightString if anchor == "end" else self.canvas.drawString
        draw(x, self.height - y, printed)


_SHORT = {"ink": "ink", "over_ink": "over", "beside_ink": "beside", "unlifted": "leave", "lifted": "lift", "paper": "bare",
          "covered": "cover", "exposed": "to the light", "wet_drop": "drop of paint", "water_drop": "drop of water",
          "tilt": "tilt: let it run right", "black_paper": "black paper"}  # fmt: skip
_PLAIN = {"masstone", "gradient", "mix"}


def _zones(sheet: _Sheet, layout: Layout) -> None:
    labels = {s.id: s.label for s in layout.swatches}
    heads = layout.extra.get("heads", [])
    heads_of_rows = {z.rect.y for z in layout.zones if z.kind == "masstone"}
    for zone in layout.zones:
        sheet.frame(zone.rect)
        y = zone.rect.y - 1.0
        if zone.kind == "masstone" and not heads:
            sheet.text(zone.rect.x, y, f"{zone.swatch}  {labels.get(zone.swatch or '', '')}", 2.3, room=_label_room(layout, zone))
        elif zone.kind not in _PLAIN and zone.kind != "wash":
            words = _words(zone)
            if zone.kind == "paper" and zone.rect.y not in heads_of_rows and not heads:
                words = f"{zone.id.split('.')[0]} {words}"  # a row's further line says whose it is
            sheet.text(zone.rect.x, y, words, 1.6)
    for head in heads:
        x, y, width, height = head["rect_mm"]
        sheet.text(x, y + height - 0.8, head["text"], 2.3, room=width)


def _words(zone: Zone) -> str:
    """What stands over a cell: what is to be done there."""
    layers, share = zone.extra.get("layers"), zone.extra.get("dilution")
    if share is not None:
        return f"{100 * share:g} % paint"
    if layers is not None:
        return f"over {layers}" if zone.kind == "over_ink" else f"{layers} layer{'' if layers == 1 else 's'}"
    words = str(zone.extra.get("effect", _SHORT.get(zone.kind, zone.kind)))
    return f"{words}, pale" if zone.extra.get("strength") == "light" else words


def _label_room(layout: Layout, masstone: Zone) -> float:
    """Up to the first zone of the row that has a word of its own over it."""
    others = [
        z.rect.x
        for z in layout.zones
        if z.rect.y == masstone.rect.y and z.rect.x > masstone.rect.right and z.kind not in {"gradient", "wash", "masstone"}
    ]
    return min([*others, layout.size_mm[0] - 4]) - masstone.rect.x - 2


def _ruler(sheet: _Sheet, rect: Rect, room: float) -> None:
    """A scale of whole millimetres; it must measure its printed length with a real ruler."""
    canvas = sheet.canvas
    canvas.setStrokeGray(0.2)
    canvas.setLineWidth(0.12)
    top = sheet.height - rect.y
    canvas.line(rect.x, top, rect.right, top)
    for mm in range(int(rect.width) + 1):
        canvas.line(rect.x + mm, top, rect.x + mm, top - (2.4 if mm % 10 == 0 else 1.6 if mm % 5 == 0 else 1.0))
    words = f"{rect.width:.0f} mm: check with a ruler before painting" if room > 38 else f"{rect.width:.0f} mm: check it"
    sheet.text(rect.x, rect.y + 4.8, words, 1.9, room=room)
