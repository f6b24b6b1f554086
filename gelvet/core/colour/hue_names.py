"""Names for directions of hue in the CIELAB plane."""

from gelvet.core import angles

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


_NOUNS = {"redder": "red", "yellower": "yellow", "greener": "green", "bluer": "blue", "more violet": "violet"}
# Hues from purple-red over orange to yellow-green are felt as warm.
_WARM_FROM, _WARM_TO = 340.0, 115.0


def nearest_hue(hue_deg: float) -> str:
    """The unique hue that lies nearest: red, yellow, green, blue or violet."""
    return _NOUNS[_nearest(hue_deg)[1]]


def neighbour(hue_deg: float, turn_deg: float) -> str:
    """The comparative of the hue beside the nearest one, on the side of a turn of `turn_deg` (+ anticlockwise)."""
    return leaning(_nearest(hue_deg)[0], turn_deg)


def _nearest(hue_deg: float) -> tuple[float, str]:
    return min(ANCHORS, key=lambda anchor: abs(angles.turn_deg(hue_deg, anchor[0])))


def temperature(hue_deg: float) -> str:
    """warm or cool."""
    hue = hue_deg % 360
    return "warm" if hue >= _WARM_FROM or hue <= _WARM_TO else "cool"
