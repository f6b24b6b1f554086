"""One capture's way through the core: pictures, layout and reference in, a measurement out."""

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gelvet.core.arrays import Image
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Progress
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.colour.icc import read_profile
from gelvet.core.capture.colour.likely_spectra import LIKELY_NM, prepare_likely_spectra
from gelvet.core.capture.colour.spectral_fit import prepare_for_spectra
from gelvet.core.capture.judging.drift import EarlierErrors, drift
from gelvet.core.capture.judging.gates import Gate, drift_gate
from gelvet.core.capture.placing.card_code import code_of_card, refuse_other_card
from gelvet.core.capture.placing.fiducials import FoundTags, cards_in, place_card, see_tags
from gelvet.core.capture.placing.same_card import refuse_strangers
from gelvet.core.capture.reading import read_picture
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.capture.shots.lit_shots import with_wet_film
from gelvet.core.capture.shots.other_light import judged_in_other_light
from gelvet.core.capture.shots.registered import RegisteredShot, ShotFile, register
from gelvet.core.card.layout import Layout
from gelvet.core.errors import CaptureError, NothingMeasurable
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.formats.measurement_file import measurement_document
from gelvet.core.loose_sheet.calibration import calibrate_sheet
from gelvet.core.measure.card import measure_card

# Scanners hold their resolution to a few parts in a thousand.
_SCALE_TOLERANCE = 0.012


@dataclass(frozen=True, slots=True)
class Measured:
    """The calibrated pixels, the shots laid over them, the document made from them and each swatch's pictures of what its figures
    rest on."""

    capture: CalibratedCapture
    shots: tuple[RegisteredShot, ...]
    document: dict[str, Any]
    views: dict[str, dict[str, Image]]

    @property
    def failed_gates(self) -> list[str]:
        return [g.advice for g in self.capture.calibration.gates if g.state == "fail"]


@dataclass(frozen=True, slots=True)
class NotMeasured:
    """A card in an image of several that could not be measured, and why."""

    reason: str


def measure_image(
    image: Path,
    layout: Layout,
    reference: ReferenceTarget | None,
    *,
    state: str = "dry",
    other_shots: Sequence[ShotFile] = (),
    earlier: EarlierErrors | None = None,
    progress: Progress = lambda stage, share: None,
    with_views: bool = False,
) -> Measured:
    """Reads, calibrates and measures one diffuse shot; raises UnreadableInput or NothingMeasurable.

    Where the image shows several cards, the one whose printed code the layout names is measured. `other_shots` of the
    same capture must show the same card, and are laid over the first; one that shows no card at all, or whose tags do not stand on
    one plane, is left out with a warning. `earlier` are the patches' errors in captures of the
    same target, by the name of their camera ("" for none), against which a drift shows. `with_views` makes the pictures as well.
    """
    progress("reading the image", 0.02)
    if layout.placement is not None:
        if other_shots:
            raise CaptureError(f"{image} shows a sheet without tags, over which no other shot can be laid; give the flat shot alone.")
        return _measured(
            calibrate_sheet(read_picture(image), layout, layout.placement, state, progress), state, (), progress, with_views=with_views
        )
    with _paints_prepared(reference):
        picture = read_picture(image)
        found = _the_card(picture, layout)
    # Two files at a time: decoding is what takes long, and each is large.
    with ThreadPoolExecutor(max_workers=2) as pool:
        looked_at = list(pool.map(lambda file: _seen(file, layout), other_shots))
    others = [seen for seen in looked_at if not isinstance(seen, str)]
    left_out = [words for words in looked_at if isinstance(words, str)]
    if others:
        refuse_strangers([(picture, found), *((other, tags) for _, other, tags in others)], layout)
    return _measure(picture, found, layout, reference, state, others, progress, earlier, with_views, left_out)


def measure_sheet(
    image: Path,
    layouts: Sequence[Layout],
    reference: ReferenceTarget | None,
    *,
    state: str = "dry",
    progress: Progress = lambda stage, share: None,
) -> list[Measured | NotMeasured]:
    """Every card in one image, each with the layout that its printed code names; the image is decoded once.

    A card without a readable code takes the only layout there is. Raises UnreadableInput, and NothingMeasurable where no
    card is seen at all.
    """
    if len(layouts) == 1 and layouts[0].placement is not None:
        return [measure_image(image, layouts[0], None, state=state, progress=progress)]
    progress("reading the image", 0.02)
    with _paints_prepared(reference):
        picture = read_picture(image)
    size = (picture.pixels.shape[1], picture.pixels.shape[0])
    seen = see_tags(picture.pixels)
    if any(layout.placement is not None for layout in layouts):
        raise CaptureError(f"{image} was given the layout of a sheet without tags beside others; measure that sheet on its own.")
    by_arrangement = list({layout.tags: layout for layout in layouts}.values())
    found: list[tuple[FoundTags, Layout]] = []
    for layout in by_arrangement:
        taken = {id(c) for tags, _ in found for c in tags.corners.values()}
        free = [tag for tag in seen if id(tag.corners) not in taken]
        try:
            found += [(tags, layout) for tags in cards_in(free, layout, size)]
        except NothingMeasurable:
            if layout is by_arrangement[-1] and not found:
                raise
    results: list[Measured | NotMeasured] = []
    for number, (tags, arrangement) in enumerate(found):
        results.append(_one_of_several(picture, tags, arrangement, layouts, reference, state, _part(progress, number, len(found))))
    return results


def _seen(file: ShotFile, layout: Layout) -> tuple[ShotFile, Picture, FoundTags] | str:
    """The shot and its tags, or in a sentence why it cannot be laid over the flat one."""
    try:
        picture = read_picture(file.path)
        found = _the_card(picture, layout)
        place_card(found, layout)
    except NothingMeasurable as problem:
        return f"Measured without {file.title}: {problem}"
    return file, picture, found


@contextmanager
def _paints_prepared(reference: ReferenceTarget | None) -> Iterator[None]:
    """While a file is decoded another processor makes the sample of paints that its colours will be judged by."""
    if reference is None:
        yield
        return
    wavelengths = reference.wavelengths_nm
    with ThreadPoolExecutor(max_workers=1) as pool:
        made = [pool.submit(prepare_for_spectra, LIKELY_NM if wavelengths is None else wavelengths)]
        if wavelengths is None:
            made.append(pool.submit(prepare_likely_spectra))
        yield
        for sample in made:
            sample.result()


def _one_of_several(
    picture: Picture,
    found: FoundTags,
    arrangement: Layout,
    layouts: Sequence[Layout],
    reference: ReferenceTarget | None,
    state: str,
    progress: Progress,
) -> Measured | NotMeasured:
    try:
        geometry, _ = place_card(found, arrangement)
        code = code_of_card(picture, geometry, arrangement)
        named = [layout for layout in layouts if layout.card_id == code] if code else list(layouts) if len(layouts) == 1 else []
        if not named and len(layouts) == 1:
            refuse_other_card(picture, geometry, layouts[0])
        if not named:
            return NotMeasured(
                f"The image shows card {code}, for which no layout was given."
                if code
                else "The code of a card in the image cannot be read."
            )
        return _measure(picture, found, named[0], reference, state, [], progress)
    except NothingMeasurable as problem:
        return NotMeasured(str(problem))


def _part(progress: Progress, number: int, of: int) -> Progress:
    return lambda stage, share: progress(stage, (number + share) / of)


def _the_card(picture: Picture, layout: Layout) -> FoundTags:
    """The tags of the one card in the picture, or of the one that carries this layout's code."""
    cards = cards_in(see_tags(picture.pixels), layout, (picture.pixels.shape[1], picture.pixels.shape[0]))
    if len(cards) == 1:
        return cards[0]
    named = [found for found in cards if code_of_card(picture, place_card(found, layout)[0], layout) == layout.card_id]
    if len(named) == 1:
        return named[0]
    raise NothingMeasurable(
        f"The image shows {len(cards)} cards, and the code of card {layout.card_id} is read on {len(named) or 'none'} of them; "
        "show each card with its code, or give each its own image."
    )


def _measure(
    picture: Picture,
    found: FoundTags,
    layout: Layout,
    reference: ReferenceTarget | None,
    state: str,
    others: list[tuple[ShotFile, Picture, FoundTags]],
    progress: Progress,
    earlier: EarlierErrors | None = None,
    with_views: bool = False,
    more_warnings: Sequence[str] = (),
) -> Measured:
    capture = calibrate(picture, layout, reference, found=found, state=state, progress=progress)
    shots: list[RegisteredShot] = []
    if others:
        progress("laying the shots over each other", 0.38)
        shots, gate = register((picture, capture.calibration.geometry), others, layout)
        capture = _with_gate(capture, gate)
        if state == "dry":
            capture, shots, told = judged_in_other_light(capture, shots)
            more_warnings = [*more_warnings, *told]
    by_this_camera = (earlier or {}).get(str(picture.provenance.get("camera", "")), ())
    moved = drift(capture.calibration.patch_errors, by_this_camera)
    if moved is not None:
        capture = _with_gate(capture, drift_gate(moved, [p.rect for p in layout.patches if p.id == moved.patch]))
    warnings = [*more_warnings, *scale_warnings(picture.stated_dpi, capture.calibration.geometry.pixels_per_mm)]
    return _measured(capture, state, tuple(shots), progress, warnings, with_views=with_views)


def _measured(
    capture: CalibratedCapture,
    state: str,
    shots: tuple[RegisteredShot, ...],
    progress: Progress,
    more_warnings: Sequence[str] = (),
    *,
    with_views: bool = False,
) -> Measured:
    if state == "wet":
        capture = with_wet_film(capture)
    card = measure_card(capture, state, progress, shots, with_views=with_views)
    document = measurement_document(capture, card, state, shots)
    warnings = [*capture.picture.warnings, *_profile_warnings(capture.picture), *more_warnings]
    if warnings:
        document["calibration"]["warnings"] = warnings
    progress("done", 1.0)
    return Measured(capture, shots, document, card.views)


def _with_gate(capture: CalibratedCapture, gate: Gate) -> CalibratedCapture:
    return replace(capture, calibration=replace(capture.calibration, gates=(*capture.calibration.gates, gate)))


def _profile_warnings(picture: Picture) -> list[str]:
    if picture.icc_profile is None or read_profile(picture.icc_profile) is not None:
        return []
    return ["The file's colour profile is damaged or not one for RGB, and was not used; scan again with a sound one, or without."]


def scale_warnings(stated_dpi: float | None, pixels_per_mm: float) -> list[str]:
    """Whether the card is as large as it was laid out, by the file's own resolution: printers that fit to the page
    scale it. Resolutions that are nowhere near the card's are nonsense, and say nothing."""
    if stated_dpi is None:
        return []
    scale = pixels_per_mm * 25.4 / stated_dpi
    if not 0.85 < scale < 1.15 or abs(scale - 1) < _SCALE_TOLERANCE:
        return []
    return [
        f"By the file's own {stated_dpi:.0f} dpi the card is {100 * scale:.1f} % of its size: if it was printed scaled, lengths such as "
        "the grain's width are off by as much; print at 100 % next time."
    ]
