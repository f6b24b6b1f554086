"""Names for directions of hue in the CIELAB plane."""

# Unique hues in CIELAB (R. W. G. Hunt & M. R. Pointer, Measuring Colour, 4th ed., 2011, 3.8) with violet between blue and red.
ANCHORS: tuple[tuple[float, str], ...] = (
    (25.0, "redder"),
    (92.0, "yellower"),
    (164.0, "greener"),
    (255.0, "bluer"),
    (312.0, "more violet"),
)


def leaning(hue_deg: float, turn_deg: float) -> str:
    """The comparative toward which a turn of `turn_deg` (+ anticlockwise) moves a colour of `hue_deg`."""
    hue = hue_deg % 360
    if turn_deg >= 0:
        return next((name for angle, name in ANCHORS if angle > hue + 1e-9), ANCHORS[0][1])
    return next((name for angle, name in reversed(ANCHORS) if angle < hue - 1e-9), ANCHORS[-1][1])
