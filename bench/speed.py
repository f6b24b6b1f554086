"""What measuring costs, as a ratio to the least that any program must do with the same file."""

import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.colour.spaces import WHITE_D50, XYZ_D50_FROM_SRGB

_ROUNDS = 3
_STRIP_ROWS = 256


def speed_table(seed: int) -> str:
    """All cards as text."""
    lines = ["Speed: medians of three runs, whole processes, on this machine"]
    with tempfile.TemporaryDirectory() as folder:
        for title, arguments in (
            ("A5 at 300 dpi", ["--sheet", "A5", "--dpi", "300", "--swatches", "5", "--scanner", "white-led"]),
            ("A5 photographed", ["--sheet", "A5", "--swatches", "5", "--camera", "daylight"]),
            ("A4 at 600 dpi", ["--sheet", "A4", "--dpi", "600", "--swatches", "12", "--scanner", "white-led"]),
        ):
            lines += _one(Path(folder), title, arguments, seed)
    return "\n".join([*lines, ""])


def _one(folder: Path, title: str, arguments: list[str], seed: int) -> list[str]:
    # In a process of its own: a child inherits the peak memory of the process that starts it.
    command = [sys.executable, "-m", "gelvet.cli.main", "simulate", "--out", str(folder), "--seed", str(seed), *arguments]
    made = subprocess.run(command, check=True, capture_output=True, text=True)
    path = Path(made.stdout.strip())
    image = next(f for f in folder.glob("sim-*") if f.suffix in {".tif", ".jpg"})
    width, height = _size(image)
    floors, names, runs, peaks = [], [], [], []
    for _ in range(_ROUNDS):  # in turn, so that a drifting machine hurts both alike
        name, seconds = _floor(image)
        floors.append(seconds)
        names.append(name)
        seconds, peak = _measure(path)
        runs.append(seconds)
        peaks.append(peak)
    floor, whole = float(np.median(floors)), float(np.median(runs))
    size_mb = image.stat().st_size / 1e6
    image.unlink()
    return [
        f"  {title}, {width * height / 1e6:.1f} megapixels, {size_mb:.0f} MB",
        f"    floor (read with {names[-1]}, warp, Lab)  {floor:6.2f} s",
        f"    gelvet measure, start to end          {whole:6.2f} s   {whole / floor:.1f} × floor   peak {max(peaks):.0f} MB",
    ]


def _size(path: Path) -> tuple[int, int]:
    from PIL import Image as Pillow

    Pillow.MAX_IMAGE_PIXELS = None
    with Pillow.open(path) as header:
        return header.size


def _measure(path: Path) -> tuple[float, float]:
    """Wall seconds and peak resident megabytes of one `gelvet measure` process."""
    command = [sys.executable, "-m", "gelvet.cli.main", "measure", str(path), "--out", str(path.with_suffix(".measure.json"))]
    # As on a user's machine, where Python keeps the compiled modules after the first run.
    surroundings = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    start = time.perf_counter()
    process = subprocess.Popen(command, stderr=subprocess.DEVNULL, env=surroundings)
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode not in {0, 1}:
        raise RuntimeError(f"measuring {path} ended with status {process.returncode}")
    json.loads(path.with_suffix(".measure.json").read_text("utf-8"))
    return seconds, usage.ru_maxrss / 1024


def _floor(path: Path) -> tuple[str, float]:
    """The fastest reader's name, and seconds for reading, one linear warp and one conversion of the whole page to Lab."""
    best_name, best, pixels = "", float("inf"), np.empty(0)
    for name, read in _readers(path).items():
        start = time.perf_counter()
        picture = read()
        seconds = time.perf_counter() - start
        if seconds < best:
            best_name, best, pixels = name, seconds, picture
    start = time.perf_counter()
    _to_lab(_warp(pixels))
    return best_name, best + time.perf_counter() - start


def _readers(path: Path) -> dict[str, Callable[[], Image]]:
    import cv2
    import imagecodecs
    import tifffile

    everywhere: dict[str, Callable[[], Image]] = {
        "imagecodecs": lambda: np.asarray(imagecodecs.imread(str(path))),
        "OpenCV": lambda: np.asarray(cv2.imread(str(path), cv2.IMREAD_COLOR_RGB | cv2.IMREAD_ANYDEPTH)),
    }
    if path.suffix == ".tif":
        everywhere["tifffile"] = lambda: np.asarray(tifffile.imread(path))
    return everywhere


def _warp(pixels: Image) -> Image:
    import cv2

    turn = np.array([[1, 0.004, 2.0], [-0.004, 1, 3.0], [0, 0, 1]])
    return np.asarray(cv2.warpPerspective(pixels, turn, (pixels.shape[1], pixels.shape[0]), flags=cv2.INTER_LINEAR))


def _to_lab(pixels: Image) -> None:
    """Every pixel to CIELAB in strips that stay in the cache; the result is thrown away."""
    import cv2

    table = np.linspace(0, 1, np.iinfo(pixels.dtype).max + 1, dtype=np.float32) ** np.float32(2.2)
    to_xyz = (XYZ_D50_FROM_SRGB / WHITE_D50[:, None]).astype(np.float32)
    to_lab = np.array([[0, 116, 0], [500, -500, 0], [0, 200, -200]], dtype=np.float32)
    for top in range(0, len(pixels), _STRIP_ROWS):
        linear = cv2.LUT(np.ascontiguousarray(pixels[top : top + _STRIP_ROWS]), table)
        cv2.transform(cv2.pow(cv2.transform(linear, to_xyz), 1 / 3), to_lab)
