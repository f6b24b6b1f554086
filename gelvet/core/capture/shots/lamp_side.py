"""From which side a low lamp shone, by where its light falls off: hollows read by a lamp on the wrong side come out as ridges."""

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.shots.registered import ShotFile

# Light that fades by less across the longer side (natural logarithm) tells no side.
_FADES, _NEAR_EDGE = 0.25, 0.1
# A person says the side by eye, to some 45°.
_FURTHEST_OFF_DEG = 60.0


def side_of_light(light: FlatField) -> float | None:
    """Degrees, 0 from the card's right and 90 from its foot; None where the light hardly falls off."""
    width, height = light.size_mm

    def level(x: float, y: float) -> float:
        return float(np.log(light.smooth_at(np.array(x * width), np.array(y * height))).mean())

    longer, far = max(width, height), 1 - _NEAR_EDGE
    across = (level(far, 0.5) - level(_NEAR_EDGE, 0.5)) * longer / width
    down = (level(0.5, far) - level(0.5, _NEAR_EDGE)) * longer / height
    return float(np.degrees(np.arctan2(down, across)) % 360) if np.hypot(across, down) > _FADES else None


def wrong_side(file: ShotFile, light: FlatField) -> str | None:
    """In a sentence, that a lamp's light comes from another side than was said; None where it does not, or nothing tells."""
    said, seen = file.azimuth_deg, side_of_light(light)
    if file.light == "diffuse" or said is None or seen is None or abs(turn_deg(seen, said)) <= _FURTHEST_OFF_DEG:
        return None
    return (
        f"{file.title}: its light comes from about {seen:.0f}°, not from {said:.0f}° as was said (0° is the card's right, 90° its foot); "
        "its side was not used. Say the side again, and let no other light in."
    )
