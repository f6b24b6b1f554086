"""Layers, drying and water in sentences; nothing is said where a card has no place for them."""

from collections.abc import Mapping, Sequence
from typing import Any

from gelvet.core.compare.wording import Phrase, with_minus

_WORTH_PARTED = 2.0
_WORTH_STIRRED = 0.05
_WORTH_RIM = 1.15


def water_phrases(swatch: Mapping[str, Any]) -> list[Phrase]:
    """Sentences on glazes, drying, backruns, drops, the tilted strip and effects."""
    said = [
        _glaze(swatch.get("glaze")),
        _drying(swatch.get("drying")),
        _backruns(swatch.get("gradient")),
        _wet_drop(swatch.get("wet_drop")),
        _water_drop(swatch.get("water_drop")),
        _tilt(swatch.get("tilt")),
        *(_effect(e) for e in swatch.get("effects") or []),
    ]
    return [p for p in said if p is not None]


def _glaze(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or found["absent"]:
        return None
    last = found["stops_deepening_at"]
    each = ", ".join(f"{-s['delta_L']:.1f}" for s in found["steps"])
    until = f"; it deepens no further after {last}" if last is not None else ""
    return Phrase("glaze", f"Layer by layer it deepens by {each} L*{until}.{_stirred(found['steps'])}{_over_ink(found['hiding'])}", 0)


def _stirred(steps: Sequence[Mapping[str, Any]]) -> str:
    """Which layers stirred the one below, where that is beyond doubt."""
    stirred = [s for s in steps if s["disturbance"] is not None and s["disturbance"] > max(_WORTH_STIRRED, 2 * s["disturbance_u"])]
    if not stirred:
        return "" if any(s["disturbance"] is None for s in steps) else " No layer stirs the one below."
    most = max(stirred, key=lambda s: float(s["disturbance"]))
    return f" Layer {most['layers']} stirs what lies below: its depth varies by {100 * most['disturbance']:.0f} % more than one layer's."


def _over_ink(found: Sequence[Mapping[str, Any]]) -> str:
    if not found:
        return ""
    listed = ", ".join(f"{100 * o['veil']:.1f} % after {o['layers']}" for o in found)
    return f" Over the ink line its veil is {listed}."


def _drying(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or found.get("absent"):
        return None
    at = found["masstone"]
    if at["delta_e00"] <= 2 * at.get("u", found["u"]):
        return Phrase("drying", "Dries to the colour that it had wet, as far as can be told.", 0)
    lighter = f"{abs(at['delta_L']):.1f} L* {'lighter' if at['delta_L'] > 0 else 'darker'}"
    duller = f"{abs(at['delta_C']):.1f} C* {'duller' if at['delta_C'] < 0 else 'more vivid'}"
    in_wash = with_minus(f"{found['wash']['delta_L']:+.1f}")
    return Phrase("drying", f"Dries {lighter} and {duller} in masstone ({in_wash} L* in the wash).", 0)


def _backruns(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or not found.get("backruns"):
        return None
    count = found["backruns"]
    return Phrase("gradient", f"{count} backrun{'s' if count > 1 else ''} lie{'' if count > 1 else 's'} in its gradient.", 0)


def _wet_drop(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found:
        return None
    if found["absent"]:
        return Phrase("wet_drop", f"The drop of paint was not measured: {found['absent']}.", 0)
    ran = "to the edge of its cell" if found["reach_mm"] is None else f"{found['reach_mm']:.1f} mm"
    return Phrase("wet_drop", f"Touched into a wet patch it runs {ran}{_parting(found['parted'], 'centre and rim')}.", 0)


def _water_drop(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found:
        return None
    if found["absent"]:
        return Phrase("water_drop", f"The drop of water was not measured: {found['absent']}.", 0)
    rim = f", with a rim {found['rim']:.1f} times as deep as the wash" if found["rim"] > _WORTH_RIM else ", without a dark rim"
    return Phrase("water_drop", f"A drop of water clears {found['area_mm2']:.0f} mm²{rim}.", 0)


def _tilt(found: Mapping[str, Any] | None) -> Phrase | None:
    if not found or found["absent"] or found["parted"] is None:
        return None
    if found["parted"] < _WORTH_PARTED:
        return Phrase("tilt", "Its parts stay together on a tilted strip.", 0)
    return Phrase("tilt", f"On a tilted strip its parts run apart: head and tail differ by {found['parted']:.1f} ΔE beyond dilution.", 0)


def _parting(parted: float | None, places: str) -> str:
    if parted is None or parted < _WORTH_PARTED:
        return ""
    return f", and its parts run apart ({parted:.1f} ΔE between {places})"


def _effect(found: Mapping[str, Any]) -> Phrase:
    size = "" if found["size_mm"] is None else f", marks {found['size_mm']:.1f} mm wide"
    return Phrase("effects", f"{found['effect'].capitalize()}: {found['contrast']:.1f} L* beyond the plain wash{size}.", 0)
