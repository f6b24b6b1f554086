"""How long a paint is woken before it is painted."""

from gelvet.core.planning.facts import PaintFacts

_BY_FORM_S = {"tube": 0, "pan": 60, "dot": 60, "dry": 300}
_MINERAL_S = 480


def soak_seconds(paint: PaintFacts) -> int:
    """Seconds under clean water: none for tubes, a minute for pans and dots, five to ten for dry cakes and minerals."""
    usual = _BY_FORM_S.get(paint.form, 60)
    mineral = any(p.family == "earth" or "natural" in p.name for p in paint.listed)
    return max(usual, _MINERAL_S) if usual and mineral else usual
