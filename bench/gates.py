"""Whether the gates catch what they are for, and leave good captures alone: random cards, each spoilt in one way or in none."""

import tempfile
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from bench.accuracy import Device, take
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.errors import NothingMeasurable
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.faults import FAULTS, Fault
from gelvet.core.simulate.files import write_image
from gelvet.core.simulate.paint import invented_paint

SWATCHES = 2
# The gates that may speak up for each fault; a wrong white balance harms by what it clips.
RIGHT_GATES: dict[Fault, set[str]] = {
    "glare": {"glare", "clipping"}, "thumb": {"tags"}, "overexposed": {"clipping"}, "blur": {"focus"}, "noise": {"noise"},
    "fall-off": {"fall-off"}, "tilt": {"tilt"}, "coarse": {"resolution"}, "stain": {"paper-shade"}, "wrong-target": {"residual"},
    "white-balance": {"clipping"}, "two-lights": {"fall-off"}, "veil": {"glare"}, "shadow": {"paper-shade"},
    "underexposed": {"exposure", "noise"}, "yellowed": {"residual"},
    "narrow-colours": {"clipping"},
}  # fmt: skip
_NOT_ON_A_FLATBED = {"tilt", "white-balance", "veil", "shadow", "two-lights", "underexposed", "narrow-colours"}


def gates_of(seed: int, index: int, device: Device, fault: Fault | None) -> set[str] | None:
    """Names of the gates that warned or failed; None where nothing could be measured, with its reason said."""
    rng = np.random.default_rng([seed, index, 5])
    layout = build_card(f"GATES-{index:03d}", "A6", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)])
    paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
    capture = take(layout, paints, device, index, rng, fault)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{capture.ending}"
        write_image(capture, path)
        try:
            document = measure_image(path, layout, capture.reference).document
        except NothingMeasurable:
            return None
    return {g["id"] for g in document["calibration"]["gates"] if g["state"] != "pass"}


def gates_table(captures: int, seed: int) -> str:
    """As many spoilt captures as clean ones, by flatbed and camera in turn."""
    jobs: list[tuple[Device, Fault | None]] = []
    for index in range(captures):
        device: Device = "camera" if index % 2 else "flatbed 300 dpi"
        possible = [f for f in FAULTS if device == "camera" or f not in _NOT_ON_A_FLATBED]
        jobs.append((device, possible[index // 2 % len(possible)]))
    jobs += [("camera" if index % 2 else "flatbed 300 dpi", None) for index in range(captures)]
    with ProcessPoolExecutor() as pool:
        said = list(pool.map(gates_of, [seed] * len(jobs), range(len(jobs)), *zip(*jobs, strict=True)))
    lines = [f"Gates on {captures} spoilt and {captures} clean captures (seed {seed})"]
    for fault in FAULTS:
        own = [gates for gates, (_, f) in zip(said, jobs, strict=True) if f == fault]
        caught = sum(gates is None or bool(gates & RIGHT_GATES[fault]) for gates in own)
        others = Counter(g for gates in own for g in (gates or set()) - RIGHT_GATES[fault])
        beside = f"   beside: {', '.join(f'{n} {g}' for g, n in others.most_common(3))}" if others else ""
        lines.append(f"  {fault:16} caught {caught:>3} of {len(own):>3}{'' if caught == len(own) else '  missed'}{beside}")
    clean = [gates for gates, (_, f) in zip(said, jobs, strict=True) if f is None]
    alarms = [gates for gates in clean if gates is None or gates]
    names = Counter(g for gates in alarms for g in gates or {"nothing measured"})
    listed = ", ".join(f"{n} {g}" for g, n in names.most_common())
    lines.append(f"  clean            false alarms {len(alarms)} of {len(clean)} (wanted at most 2 %) {listed}")
    return "\n".join([*lines, ""])
