"""Measurements and comparisons as tables for people on a terminal."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from gelvet.core.compare.distance import Comparison

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
    return "\n".join([*lines, *_aligned(rows)])


def difference_table(comparison: "Comparison") -> str:
    """Each figure that both swatches have: theirs, the difference with its uncertainty, and how many times that it is; a star where it
    is real."""
    from gelvet.core.compare.properties import NUMBER, SHARE

    rows = [("figure", "first", "second", "difference", "times u", "")]
    for d in comparison.properties:
        if d.difference is not None:
            u = "" if d.u is None else f" ±{d.u:.2g}"
            unit = f" {d.of.unit}" if d.of.unit not in {SHARE, NUMBER} else ""
            times = "" if d.times_u is None else f"{d.times_u:.1f}"
            rows.append((d.of.title, f"{d.first:.4g}", f"{d.second:.4g}", f"{d.difference:+.3g}{u}{unit}", times, "*" if d.real else ""))
    return "\n".join(f"  {line}" for line in _aligned(rows))


def _aligned(rows: Sequence[tuple[str, ...]]) -> list[str]:
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    return ["  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip() for row in rows]


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
