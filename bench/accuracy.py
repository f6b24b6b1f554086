"""How far the measured figures lie from the simulator's truth, over random cards."""

import tempfile
from collections import defaultdict
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any, Literal, Protocol

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.measure.dilution.hue_shift import TOO_GREY_DEG
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import CameraKind, random_camera
from gelvet.core.simulate.faults import Fault
from gelvet.core.simulate.files import (
    PhotoFormat,
    SimulatedCapture,
    card_for_camera,
    simulate_scan,
    take_photograph,
    write_image,
)
from gelvet.core.simulate.paint import SimulatedPaint, invented_paint
from gelvet.core.simulate.scanner import ScannerKind, random_scanner
from gelvet.core.simulate.spectra import TargetKind
from gelvet.core.simulate.spoiling import spoil_camera, spoil_scanner
from gelvet.core.simulate.truth import card_truth

SWATCHES = 5
SCANNERS: tuple[ScannerKind, ...] = ("white-led", "three-led")
CAMERAS: tuple[CameraKind, ...] = ("daylight", "lamp-led")
Device = Literal["flatbed 300 dpi", "flatbed 600 dpi", "camera"]
DEVICES: tuple[Device, ...] = ("flatbed 300 dpi", "flatbed 600 dpi", "camera")
# Of so many cards on the first device the others photograph this share; they take longer.
_SHARES: dict[Device, float] = {"flatbed 300 dpi": 1.0, "flatbed 600 dpi": 0.4, "camera": 1.0}

_REFERENCES: tuple[tuple[bool, TargetKind], ...] = ((True, "many-inks"), (False, "many-inks"), (True, "three-inks"))

# Quantity: unit, wanted median and 95th percentile for flatbeds, then for cameras.
WANTED: dict[str, tuple[str, float, float, float, float]] = {
    "zone colour": ("ΔE00", 0.7, 2.8, 0.6, 2.2),
    "masstone": ("ΔE00", 1.0, 4.0, 0.8, 3.0),
    "wash": ("ΔE00", 0.7, 1.8, 0.6, 1.6),
    "hue shift": ("°", 2.0, 7.0, 1.2, 5.0),
    "value span": ("L*", 0.3, 1.0, 0.25, 0.8),
    "granulation index (true ≥ 1)": ("%", 5.0, 12.0, 5.0, 12.0),
    "grain width (true index ≥ 1)": ("%", 3.0, 12.0, 3.0, 12.0),
    "veil": ("", 0.003, 0.015, 0.003, 0.015),
    "share lifted": ("", 0.008, 0.03, 0.008, 0.03),
    "re-projection": ("px", 0.05, 0.15, 0.06, 0.12),
}


@dataclass(frozen=True, slots=True)
class Trial:
    """One card's errors by quantity, the same in units of their stated uncertainties, how often the rule for absent hue shifts
    was right and wrong, and how many zones have no colour."""

    errors: dict[str, list[float]]
    pulls: dict[str, list[float]]
    absent_right: int
    absent_wrong: int
    borderline: int
    refused: int


class WithErrors(Protocol):
    """A trial of any table: errors by quantity."""

    @property
    def errors(self) -> Mapping[str, list[float]]: ...


def run_trial(seed: int, index: int, device: Device, with_spectra: bool = True, target: TargetKind = "many-inks") -> Trial:
    """Paints, captures and measures card `index` of the run `seed`."""
    rng = np.random.default_rng([seed, index])
    layout = build_card(f"TRIAL-{seed}-{index:02d}", "A5", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)])
    paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
    capture = take(layout, paints, device, index, rng, target=target)
    reference = capture.reference if with_spectra else ReferenceTarget(ids=capture.reference.ids, xyz=capture.reference.xyz)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{capture.ending}"
        write_image(capture, path)
        measured = measure_image(path, layout, reference)
    beyond = {n: z["beyond_gamut"] for n, z in measured.document["zones"].items() if z["lab"] is not None}
    return judge(measured.document, card_truth(capture.card), beyond)


def take(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    device: Device,
    index: int,
    rng: np.random.Generator,
    fault: Fault | None = None,
    target: TargetKind = "many-inks",
) -> SimulatedCapture:
    """One shot by a random device of this sort."""
    seed = int(rng.integers(1 << 31))
    if device == "camera":
        camera = spoil_camera(random_camera(rng, CAMERAS[index % 2]), fault)
        card = card_for_camera(layout, paints, camera, seed, target=target, fault=fault)
        # Eight bits of linear light are no camera's choice.
        plain: PhotoFormat = "tiff-16" if camera.tone == "linear" or rng.random() < 0.4 else "jpeg-92"
        return take_photograph(card, camera, seed + 1, plain, fault=fault)
    dpi = 600 if device == "flatbed 600 dpi" else 300
    return simulate_scan(
        layout, paints, spoil_scanner(random_scanner(rng, SCANNERS[index % 2], dpi), fault), seed, target=target, fault=fault
    )


def judge(document: dict[str, Any], truth: dict[str, Any], beyond: dict[str, float] | None = None) -> Trial:
    """Errors of a measurement document against a truth of the same shape; `beyond` says how far outside the patches' hull
    the zones lie."""
    errors: dict[str, list[float]] = defaultdict(list)
    pulls: dict[str, list[float]] = defaultdict(list)
    errors["re-projection"].append(document["calibration"]["reprojection_px"])
    for name, true in truth["zones"].items():
        measured = document["zones"][name]["lab"]
        if measured is not None and not name.endswith(".gradient"):
            errors["zone colour"].append(_de00(measured, true["lab"]))
            outside = beyond is not None and beyond.get(name, 0) > 0
            for axis, value, right_value, u in zip("Lab", measured, true["lab"], document["zones"][name]["u_lab"], strict=True):
                pulls[f"{axis}*"].append((value - right_value) / u)
                pulls[f"{axis}* {'outside' if outside else 'inside'} the hull"].append((value - right_value) / u)
    right = wrong = borderline = 0
    for name, true in truth["swatches"].items():
        swatch = document["swatches"][name]
        _collect(errors, pulls, swatch, true)
        true_u = _true_hue_uncertainty(document, name, true)
        if true_u is None:
            continue
        if 0.6 * TOO_GREY_DEG < true_u < 1.6 * TOO_GREY_DEG:
            borderline += 1
        elif (swatch["hue_shift"]["absent"] is not None) == (true_u > TOO_GREY_DEG):
            right += 1
        else:
            wrong += 1
    refused = sum(document["zones"][name]["lab"] is None for name in truth["zones"] if not name.endswith(".gradient"))
    return Trial(dict(errors), dict(pulls), right, wrong, borderline, refused)


def _collect(errors: dict[str, list[float]], pulls: dict[str, list[float]], swatch: dict[str, Any], true: dict[str, Any]) -> None:
    for place in ("masstone", "wash"):
        if swatch[place]["lab"] is not None:
            errors[place].append(_de00(swatch[place]["lab"], true[place]["lab"]))
    shift = swatch["hue_shift"]["delta_h"]
    if shift is not None:
        apart = (shift - true["hue_shift"]["delta_h"] + 180) % 360 - 180
        errors["hue shift"].append(abs(apart))
        pulls["hue shift"].append(apart / swatch["hue_shift"]["u"])
    if swatch["value_range"]["absent"] is None:
        span = swatch["value_range"]["span_L"] - true["value_range"]["span_L"]
        errors["value span"].append(abs(span))
        pulls["value span"].append(span / swatch["value_range"]["u"])
    grain, true_grain = swatch["granulation"], true["granulation"]
    if true_grain["index"] >= 1 and grain["absent"] is None:
        errors["granulation index (true ≥ 1)"].append(100 * abs(grain["index"] / true_grain["index"] - 1))
        if grain["grain_mm"] is not None:
            errors["grain width (true index ≥ 1)"].append(100 * abs(grain["grain_mm"] / true_grain["grain_mm"] - 1))
    for name, quantity, figure in (("veil", "hiding", "veil"), ("share lifted", "lifting", "removed")):
        if swatch[quantity]["absent"] is None:
            errors[name].append(abs(swatch[quantity][figure] - true[quantity][figure]))


def _true_hue_uncertainty(document: dict[str, Any], swatch: str, true: dict[str, Any]) -> float | None:
    """u(Δh) from the true chroma at both ends and the measured a*b* uncertainty of both zones; None where one has no colour."""
    masstone, wash = true["hue_shift"]["chroma"]
    ends = [document["zones"][f"{swatch}.{kind}"] for kind in ("masstone", "wash")]
    if any(end["lab"] is None for end in ends):
        return None
    u = [float(np.mean(end["u_lab"][1:])) for end in ends]
    return float(np.degrees(np.hypot(u[0] / max(masstone, 1e-3), u[1] / max(wash, 1e-3))))


def _de00(one: list[float], two: list[float]) -> float:
    return float(ciede2000(np.array(one), np.array(two)))


def accuracy_table(cards: int, seed: int) -> str:
    """The tables as text; `seed` repeats a run."""
    lines = [f"Accuracy on random A5 cards of {SWATCHES} swatches (seed {seed})"]
    for device in DEVICES:
        count = max(2, round(cards * _SHARES[device]))
        for with_spectra, target in _REFERENCES if device == "flatbed 300 dpi" else _REFERENCES[:1]:
            trial = partial(run_trial, device=device, with_spectra=with_spectra, target=target)
            with ProcessPoolExecutor() as pool:
                trials = list(pool.map(trial, [seed] * count, range(count)))
            known = "with" if with_spectra else "without"
            title = f"{device}, {count} cards, reference target of {target.replace('-', ' ')} {known} spectra"
            lines += ["", title, *_rows(trials, device), *_coverage(trials)]
    return "\n".join([*lines, ""])


def _rows(trials: list[Trial], device: Device) -> list[str]:
    kinds = CAMERAS if device == "camera" else SCANNERS
    rows = [f"  {'quantity':32}{'n':>5}{'median':>10}{'wanted':>9}{'95 %':>10}{'wanted':>9}{kinds[0]:>16}{kinds[1]:>16}"]
    for name, (unit, *limits) in WANTED.items():
        median, p95 = limits[2:] if device == "camera" else limits[:2]
        values = errors_of(trials, name)
        if len(values) == 0:
            continue
        middle, high = float(np.median(values)), float(np.percentile(values, 95))
        mark = "" if middle <= median and high <= p95 else "  missed"
        wide, apart = name + (" " + unit if unit else ""), by_light(trials, name)
        rows.append(f"  {wide:32}{len(values):>5}{middle:>10.3f}{median:>9}{high:>10.3f}{p95:>9}{apart}{mark}")
    right, wrong, border = (sum(getattr(t, k) for t in trials) for k in ("absent_right", "absent_wrong", "borderline"))
    rows.append(f"  rule for absent hue shifts: right {right}, wrong {wrong}, borderline {border}")
    rows.append(f"  zones without a colour: {sum(t.refused for t in trials)}")
    return rows


def errors_of(trials: Sequence[WithErrors], name: str) -> Floats:
    """All errors (n,) of one quantity."""
    return np.array([v for t in trials for v in t.errors.get(name, [])])


def by_light(trials: Sequence[WithErrors], name: str) -> str:
    """Median and 95th percentile for cards of even and of odd number, two columns: devices of two sorts take turns, and what three
    narrow lamps leave unknown of a colour is not what a white one does."""
    halves = [errors_of(trials[start::2], name) for start in (0, 1)]
    return "".join(f"{np.median(h):>9.3f} /{np.percentile(h, 95):>5.2f}" if len(h) else f"{'–':>16}" for h in halves)


def _coverage(trials: list[Trial]) -> list[str]:
    """How often the truth lies within twice the stated uncertainty: wanted 92 to 98 %."""
    rows = [f"  {'within k = 2':32}{'n':>5}{'share':>10}{'wanted 92 to 98 %':>20}{'95 % of |error| / u':>22}"]
    for name in dict.fromkeys(n for t in trials for n in t.pulls):
        values = np.array([v for t in trials for v in t.pulls.get(name, [])])
        share = float(np.mean(np.abs(values) <= 2))
        mark = "" if 0.92 <= share <= 0.98 or len(values) < 20 else "  too wide" if share > 0.98 else "  missed"
        rows.append(f"  {name:32}{len(values):>5}{share:>10.1%}{mark:20}{float(np.percentile(np.abs(values), 95)):>22.2f}")
    return rows
