"""The printable sheet: vector PDF at true scale, with a ruler to check the printer."""

import io
from typing import Any

import numpy as np

from gelvet.core.card.builder import ruler_rect
from gelvet.core.card.code import code_modules
from gelvet.core.card.dictionary import tag_modules
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.colour.spaces import encode_srgb

_POINTS_PER_MM = 72 / 25.4
# Hairlines keep this far from the zone they frame and this pale, so that measuring never meets them.
_HAIRLINE_GAP_MM, _HAIRLINE_GREY, _HAIRLINE_MM = 0.5, 0.86, 0.08


def card_pdf(layout: Layout) -> bytes:
    """The card as a one-page PDF, the same bytes for the same layout."""
    from reportlab.pdfgen.canvas import Canvas

    width, height = layout.size_mm
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=(width * _POINTS_PER_MM, height * _POINTS_PER_MM), invariant=1)
    canvas.setTitle(f"Swatch card {layout.card_id}")
    canvas.setCreator("Gelvet")
    canvas.scale(_POINTS_PER_MM, _POINTS_PER_MM)
    sheet = _Sheet(canvas, height)
    for tag in layout.tags:
        sheet.modules(tag.rect, tag_modules(tag.id))
    for index, patch in enumerate(layout.patches):
        sheet.fill(patch.rect, patch_ink(index, len(layout.patches)))
    if "code" in layout.extra:
        sheet.modules(Rect(*layout.extra["code"]["rect_mm"]), code_modules(layout.card_id))
    _zones(sheet, layout)
    _ruler(sheet, ruler_rect(width, height))
    sheet.text(width - 26, height - 9.5, layout.card_id, 2.6, anchor="end")
    sheet.text(width - 26, height - 6.5, "print at 100 %, unscaled", 1.9, anchor="end")
    canvas.showPage()
    canvas.save()
    return buffer.getvalue()


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

    def modules(self, rect: Rect, modules: Any) -> None:
        """Black modules as one path each row run, touching exactly."""
        self.canvas.setFillGray(0)
        size = rect.width / modules.shape[1]
        path = self.canvas.beginPath()
        for row, line in enumerate(modules):
            for column in np.flatnonzero(line):
                path.rect(rect.x + column * size, self.height - rect.y - (row + 1) * size, size, size)
        self.canvas.drawPath(path, stroke=0, fill=1)

    def text(self, x: float, y: float, words: str, size_mm: float, anchor: str = "start") -> None:
        self.canvas.setFillGray(0.25)
        self.canvas.setFont("Helvetica", size_mm)
        draw = self.canvas.drawRightString if anchor == "end" else self.canvas.drawString
        draw(x, self.height - y, words.encode("latin-1", "replace").decode("latin-1"))


_SHORT = {"masstone": "masstone", "gradient": "draw out to the palest wash", "wash": "wash", "ink": "ink", "over_ink": "over",
          "beside_ink": "beside", "unlifted": "leave", "lifted": "lift", "paper": "bare"}  # fmt: skip


def _zones(sheet: _Sheet, layout: Layout) -> None:
    labels = {s.id: s.label for s in layout.swatches}
    for zone in layout.zones:
        sheet.frame(zone.rect)
        y = zone.rect.y - 1.0
        if zone.kind == "masstone":
            sheet.text(zone.rect.x, y, f"{zone.swatch}  {labels.get(zone.swatch or '', '')}", 2.3)
        elif zone.kind not in {"gradient", "wash"}:
            sheet.text(zone.rect.x, y, _SHORT.get(zone.kind, zone.kind), 1.6)


def _ruler(sheet: _Sheet, rect: Rect) -> None:
    """A scale of whole millimetres; it must measure its printed length with a real ruler."""
    canvas = sheet.canvas
    canvas.setStrokeGray(0.2)
    canvas.setLineWidth(0.12)
    top = sheet.height - rect.y
    canvas.line(rect.x, top, rect.right, top)
    for mm in range(int(rect.width) + 1):
        canvas.line(rect.x + mm, top, rect.x + mm, top - (2.4 if mm % 10 == 0 else 1.6 if mm % 5 == 0 else 1.0))
    sheet.text(rect.x, rect.y + 4.8, f"{rect.width:.0f} mm: check with a ruler before painting", 1.9)
