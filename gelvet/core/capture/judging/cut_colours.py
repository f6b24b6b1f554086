"""Colours that are more vivid than a picture can hold: one of their channels is cut off at black under another that is not dark."""

from collections.abc import Sequence
from dataclasses import dataclass

from gelvet.core.arrays import Mask, channel_maximum
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Rect

_CHANNELS = ("red", "green", "blue")
# What is sharpened has rims, and what is placed by tags may lie a little beside its place: edges tell nothing.
_EDGE = 0.17
# Print and ink are dark in all channels: beside one stored as nothing another must have so much of the largest value.
_VIVID = 0.1
_STRIDE = 2  # every other pixel each way tells as well
# Of a zone that has lost so much no figure can be fair.
_MUCH = 0.2


@dataclass(frozen=True, slots=True)
class CutColours:
    """The zones that lost much of a channel, of how `many`, and the channels' names."""

    where: tuple[Rect, ...] = ()
    many: int = 0
    channels: tuple[str, ...] = ()


NOTHING_CUT = CutColours()


def cut_colours(picture: Picture, geometry: Geometry, zones: Sequence[Rect]) -> CutColours:
    """Of `zones` on the card, those that are more vivid than the picture can hold."""
    found = {rect: names for rect in zones if (names := cut_channels(picture, geometry, rect))}
    channels = tuple(name for name in _CHANNELS if any(name in names for names in found.values()))
    return CutColours(tuple(found), len(zones), channels)


def cut_channels(picture: Picture, geometry: Geometry, rect: Rect) -> tuple[str, ...]:
    """Names of the channels that are cut off at black over much of `rect`."""
    return tuple(name for name, share in zip(_CHANNELS, _shares(picture, geometry, rect), strict=True) if share > _MUCH)


def cut_share(picture: Picture, geometry: Geometry, rect: Rect) -> float:
    """How much of `rect`, 0 to 1, has lost the channel that lost most."""
    return max(_shares(picture, geometry, rect))


def said(channels: Sequence[str]) -> str:
    """That these channels are cut off, in words."""
    return f"{' and '.join(channels)} {'are' if len(channels) > 1 else 'is'} cut off at black"


def _shares(picture: Picture, geometry: Geometry, rect: Rect) -> tuple[float, float, float]:
    place = geometry.bounds_px(rect.inset(_EDGE * min(rect.width, rect.height)), picture.pixels.shape, 0)
    if place is None:
        return 0.0, 0.0, 0.0
    stored = picture.pixels[place][::_STRIDE, ::_STRIDE]
    vivid: Mask = channel_maximum(stored) > _VIVID * picture.full_scale
    red, green, blue = (float(((stored[..., c] == 0) & vivid).mean()) for c in range(3))
    return red, green, blue
