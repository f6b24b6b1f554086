"""Measurements and comparisons as tables for people on a terminal."""

from typing import Any

_COLUMNS = ("swatch", "masstone L* a* b*", "wash L* a* b*", "hue shift", "span L*", "grain", "grain mm", "veil", "removed")


def measurement_table(document: dict[str, Any]) -> str:
    """A heading about the capture and one row a swatch."""
    cal = document["calibration"]
    error = cal["cross_validated_de00"]
    resolution = f"{cal['pixels_per_mm'] * 25.4:.0f} dpi" if cal["pixels_per_mm"] else "scale unknown"
    patches = f"patches ±{error['mean']:.2f} ΔE00" if error else "no reference"
    lines = [f"card {document['card_id']}  tier {cal['tier']}  model {cal['model']}  {resolution}  {patches}"]
    lines += [f"  {g['state']}: {g['advice']}" for g in cal["gates"] if g["state"] != "pass"]
    rows = [_COLUMNS, *[_row(name, swatch) for name, swatch in document["swatches"].items()]]
    widths = [max(len(row[i]) for row in rows) for i in range(len(_COLUMNS))]
    lines += ["  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip() for row in rows]
    return "\n".join(lines)


def _row(name: str, swatch: dict[str, Any]) -> tuple[str, ...]:
    shift, values, grain = swatch["hue_shift"], swatch["value_range"], swatch["granulation"]
    return (
        name,
        _lab(swatch["masstone"]["lab"]),
        _lab(swatch["wash"]["lab"]),
        shift["absent"] or f"{shift['delta_h']:+.1f}° ±{shift['u']:.1f}",
        _figure(values["span_L"], 1),
        _figure(grain["index"], 2),
        _figure(grain["grain_mm"], 2),
        _figure(swatch["hiding"]["veil"], 3),
        _figure(swatch["lifting"]["removed"], 2),
    )


def _lab(lab: list[float] | None) -> str:
    return "–" if lab is None else " ".join(f"{v:.1f}" for v in lab)


def _figure(value: float | None, digits: int) -> str:
    return "–" if value is None else f"{value:.{digits}f}"
