"""How far the measured figures lie from the simulator's truth, over random cards."""

import tempfile
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.measure.hue_shift import TOO_GREY_DEG
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.files import simulate_scan, write_scan
from gelvet.core.simulate.paint import invented_paint
from gelvet.core.simulate.scanner import ScannerKind, random_scanner
from gelvet.core.simulate.truth import card_truth

SWATCHES = 5
KINDS: tuple[ScannerKind, ...] = ("white-led", "three-led")

# Quantity: unit, wanted median, wanted 95th percentile.
WANTED: dict[str, tuple[str, float, float]] = {
    "zone colour": ("ΔE00", 1.2, 4.0),
    "masstone": ("ΔE00", 1.6, 5.0),
    "wash": ("ΔE00", 1.0, 2.2),
    "hue shift": ("°", 3.0, 9.0),
    "value span": ("L*", 0.5, 1.5),
    "granulation index (true ≥ 1)": ("%", 5.0, 12.0),
    "grain width (true index ≥ 1)": ("%", 3.0, 12.0),
    "veil": ("", 0.003, 0.015),
    "share lifted": ("", 0.008, 0.03),
    "re-projection": ("px", 0.1, 0.2),
}


@dataclass(frozen=True, slots=True)
class Trial:
    """One card's errors by quantity, and how often the rule for absent hue shifts was right and wrong."""

    errors: dict[str, list[float]]
    absent_right: int
    absent_wrong: int
    borderline: int


def run_trial(seed: int, index: int, with_spectra: bool = True) -> Trial:
    """Paints, scans and measures card `index` of the run `seed`."""
    rng = np.random.default_rng([seed, index])
    layout = build_card(f"TRIAL-{seed}-{index:02d}", "A5", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)])
    paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
    capture = simulate_scan(layout, paints, random_scanner(rng, KINDS[index % 2]), int(rng.integers(1 << 31)))
    reference = capture.reference if with_spectra else ReferenceTarget(ids=capture.reference.ids, xyz=capture.reference.xyz)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "scan.tif"
        write_scan(capture.image, path, capture.scanner.dpi)
        document = measure_image(path, layout, reference).document
    return judge(document, card_truth(capture.card))


def judge(document: dict[str, Any], truth: dict[str, Any]) -> Trial:
    """Errors of a measurement document against a truth of the same shape."""
    errors: dict[str, list[float]] = defaultdict(list)
    errors["re-projection"].append(document["calibration"]["reprojection_px"])
    for name, true in truth["zones"].items():
        measured = document["zones"][name]["lab"]
        if measured is not None and not name.endswith(".gradient"):
            errors["zone colour"].append(_de00(measured, true["lab"]))
    right = wrong = borderline = 0
    for name, true in truth["swatches"].items():
        swatch = document["swatches"][name]
        _collect(errors, swatch, true)
        true_u = _true_hue_uncertainty(document, name, true)
        if 0.6 * TOO_GREY_DEG < true_u < 1.6 * TOO_GREY_DEG:
            borderline += 1
        elif (swatch["hue_shift"]["absent"] is not None) == (true_u > TOO_GREY_DEG):
            right += 1
        else:
            wrong += 1
    return Trial(dict(errors), right, wrong, borderline)


def _collect(errors: dict[str, list[float]], swatch: dict[str, Any], true: dict[str, Any]) -> None:
    for place in ("masstone", "wash"):
        errors[place].append(_de00(swatch[place]["lab"], true[place]["lab"]))
    shift = swatch["hue_shift"]["delta_h"]
    if shift is not None:
        errors["hue shift"].append(abs((shift - true["hue_shift"]["delta_h"] + 180) % 360 - 180))
    errors["value span"].append(abs(swatch["value_range"]["span_L"] - true["value_range"]["span_L"]))
    grain, true_grain = swatch["granulation"], true["granulation"]
    if true_grain["index"] >= 1:
        errors["granulation index (true ≥ 1)"].append(100 * abs(grain["index"] / true_grain["index"] - 1))
        if grain["grain_mm"] is not None:
            errors["grain width (true index ≥ 1)"].append(100 * abs(grain["grain_mm"] / true_grain["grain_mm"] - 1))
    errors["veil"].append(abs(swatch["hiding"]["veil"] - true["hiding"]["veil"]))
    errors["share lifted"].append(abs(swatch["lifting"]["removed"] - true["lifting"]["removed"]))


def _true_hue_uncertainty(document: dict[str, Any], swatch: str, true: dict[str, Any]) -> float:
    """u(Δh) from the true chroma at both ends and the measured a*b* uncertainty of both zones."""
    masstone, wash = true["hue_shift"]["chroma"]
    u = [float(np.mean(document["zones"][f"{swatch}.{kind}"]["u_lab"][1:])) for kind in ("masstone", "wash")]
    return float(np.degrees(np.hypot(u[0] / max(masstone, 1e-3), u[1] / max(wash, 1e-3))))


def _de00(one: list[float], two: list[float]) -> float:
    return float(ciede2000(np.array(one), np.array(two)))


def accuracy_table(cards: int, seed: int) -> str:
    """The table as text; `seed` repeats a run."""
    lines = [f"Accuracy on {cards} random A5 cards, {cards * SWATCHES} swatches, 300 dpi, both scanner kinds (seed {seed})"]
    for with_spectra in (True, False):
        with ProcessPoolExecutor() as pool:
            trials = list(pool.map(run_trial, [seed] * cards, range(cards), [with_spectra] * cards))
        lines += ["", f"Reference target with{'' if with_spectra else 'out'} spectra", *_rows(trials)]
    return "\n".join([*lines, ""])


def _rows(trials: list[Trial]) -> list[str]:
    rows = [f"  {'quantity':32}{'n':>5}{'median':>10}{'wanted':>9}{'95 %':>10}{'wanted':>9}"]
    for name, (unit, median, p95) in WANTED.items():
        values: Floats = np.array([v for t in trials for v in t.errors.get(name, [])])
        if len(values) == 0:
            continue
        middle, high = float(np.median(values)), float(np.percentile(values, 95))
        mark = "" if middle <= median and high <= p95 else "  missed"
        rows.append(f"  {name + (' ' + unit if unit else ''):32}{len(values):>5}{middle:>10.3f}{median:>9}{high:>10.3f}{p95:>9}{mark}")
    right, wrong, border = (sum(getattr(t, k) for t in trials) for k in ("absent_right", "absent_wrong", "borderline"))
    rows.append(f"  rule for absent hue shifts: right {right}, wrong {wrong}, borderline {border}")
    return rows
