"""The shots of one capture: the flat one that colour is measured on, and others laid exactly over it."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.judging.gates import Gate, registration_gate
from gelvet.core.capture.placing.fiducials import FoundTags, place_card
from gelvet.core.capture.placing.fringes import with_fringes
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.placing.registration import registration_mm
from gelvet.core.capture.placing.tag_edges import refine_tags
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout

# Glints and relief need lamps that differ by at least this (measurement.md 6).
_OTHER_SIDE_DEG = 60.0
# The light of a flatbed rides with the sensor: a card turned by this much is lit from another side.
TURNED_DEG = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotFile:
    """A file and the light it was taken in. Azimuth 0 is a lamp at the card's right, 90 at its foot."""

    path: Path
    light: str = "diffuse"
    azimuth_deg: float | None = None
    elevation_deg: float | None = None
    name: str = ""
    state: str = "dry"

    @property
    def title(self) -> str:
        """What people call the file."""
        return self.name or self.path.name


@dataclass(frozen=True, slots=True, kw_only=True)
class RegisteredShot:
    """A shot placed on the card, and how far (mm) it lies from the flat shot; None where that could not be judged."""

    file: ShotFile
    picture: Picture
    geometry: Geometry
    registration_mm: float | None
    blur_px: float | None = None
    other_colours: bool = False  # stored, lit or seen otherwise than the flat shot, so that its colours are not comparable


def register(
    flat: tuple[Picture, Geometry], others: list[tuple[ShotFile, Picture, FoundTags]], layout: Layout
) -> tuple[list[RegisteredShot], Gate]:
    """The other shots placed by their own tags, and the gate on how well they lie on the flat one."""
    import cv2

    placed = []
    for file, picture, found in others:
        lookup = _near_linear(picture)
        green = cv2.LUT(np.ascontiguousarray(picture.pixels[..., 1]), np.ascontiguousarray(lookup[:, 1]))
        refined = refine_tags(np.asarray(green), found, layout)
        geometry, rejected = place_card(refined, layout)
        geometry = with_fringes(geometry, picture.pixels, lookup, refined.without(rejected), layout)
        apart = registration_mm(flat, (picture, geometry), layout)
        placed.append(RegisteredShot(file=file, picture=picture, geometry=geometry, registration_mm=apart, blur_px=refined.blur_px))
    return placed, registration_gate([(s.file.title, s.registration_mm) for s in placed])


def _near_linear(picture: Picture) -> Floats:
    """Lookup (levels, 3): an ordinary curve brings the light near enough to linear for placing."""
    curve = power_curve(1.0 if picture.linear else 2.2).lookup(int(picture.full_scale) + 1)[:, 1]
    return np.repeat(curve[:, None], 3, axis=1)


def lacking_shots(
    kinds: set[str], wants_sparkle: bool, lamps_deg: Sequence[float | None], has_flat: bool, turned_deg: Sequence[float] = ()
) -> list[str]:
    """What the card's tests still lack, each a plain phrase. `kinds` are those of its zones, `lamps_deg` the azimuths of
    its low-lamp shots, `turned_deg` how far the card lay turned on other shots in even light."""
    lacking = [] if has_flat else ["a flat shot in even light, dry"]
    if (wants_sparkle or "black_paper" in kinds) and not any(abs(turn) >= TURNED_DEG for turn in turned_deg):
        apart = _sides(lamps_deg)
        if apart < 2:
            more = "two shots with a low lamp from different sides" if apart == 0 else "one more shot with the low lamp from another side"
            lacking.append(more)
    return lacking


def telling_shots(kinds: set[str], lamps_deg: Sequence[float | None], turned_deg: Sequence[float] = ()) -> list[str]:
    """What further shots would tell of a card that lacks none, each a plain phrase; arguments as of `lacking_shots`."""
    if not kinds & {"masstone", "wash", "gradient"} or _sides(lamps_deg) >= 2:
        return []
    # A scan of the card turned round has told glints and sheen already.
    besides = "" if any(abs(turn) >= TURNED_DEG for turn in turned_deg) else "glints, sheen, and "
    return [f"two shots with a low lamp from different sides: {besides}whether its grain follows the paper"]


def _sides(lamps_deg: Sequence[float | None]) -> int:
    """How many clearly different sides the lamp stood on."""
    sides: list[float] = []
    for azimuth in lamps_deg:
        if azimuth is not None and all(abs(turn_deg(s, azimuth)) >= _OTHER_SIDE_DEG for s in sides):
            sides.append(azimuth)
    return len(sides)
