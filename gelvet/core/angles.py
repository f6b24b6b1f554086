"""Directions and hues, which come round again after 360°."""


def turn_deg(first: float, second: float) -> float:
    """The shorter way from one direction to another, degrees, -180 to below 180; + where the angle grows."""
    return float((second - first + 180) % 360 - 180)
