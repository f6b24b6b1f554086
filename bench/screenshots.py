"""`make screenshots`: one picture of each main view, from the demo data, into docs/screenshots/."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator

    from playwright.sync_api import Page

ROOT = Path(__file__).resolve().parents[1]
OUT = ROOT / "docs" / "screenshots"
PORT = 8765
BROWSER_FLAGS = (
    "--disable-gpu", "--disable-dev-shm-usage", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-extensions", "--font-render-hinting=none", "--force-color-profile=srgb",
)  # fmt: skip


@contextmanager
def demo_server() -> "Iterator[str]":
    """A fresh demo on its own data folder and port."""
    with tempfile.TemporaryDirectory(prefix="gelvet-shots-") as data:
        command = [sys.executable, "-m", "gelvet.cli.main", "serve", "--demo", "--port", str(PORT)]
        server = subprocess.Popen(command, cwd=ROOT, env={**os.environ, "GELVET_DATA": data})
        try:
            yield f"http://127.0.0.1:{PORT}"
        finally:
            server.terminate()
            server.wait(20)


def _take_in_an_old_scan(page: "Page", address: str) -> str:
    """A sheet that was painted before there were cards goes in as a person's file; the address of its own page."""
    import cv2
    import numpy as np

    from gelvet.core.card.builder import SwatchLabel, build_card
    from gelvet.core.simulate.files import simulate_scan
    from gelvet.core.simulate.paint import invented_paint
    from gelvet.core.simulate.scanner import Scanner
    from gelvet.core.simulate.unprinted import unprinted

    layout = unprinted(build_card("BEFORE", "A5", [SwatchLabel(f"{n}") for n in range(5)]))
    rng = np.random.default_rng(12)
    paints = {swatch.id: invented_paint(rng, swatch.label) for swatch in layout.swatches}
    scan = simulate_scan(layout, paints, Scanner(rotation_deg=0.6), 5).image
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "lighthouse-autumn.png"
        cv2.imwrite(str(path), (scan[..., ::-1] / 257).astype(np.uint8))
        page.goto(f"{address}/card")
        page.get_by_label("Image of a sheet without a printed card").set_input_files(path)
        page.wait_for_url("**/sheet", timeout=60_000)
    return page.url.removeprefix(address)


def wait_until_measured(address: str) -> None:
    """Until no capture waits or runs any more."""
    for _ in range(300):
        time.sleep(1)
        try:
            request = urllib.request.Request(f"{address}/", method="HEAD")
            urllib.request.urlopen(request, timeout=2).close()
            break
        except OSError:
            continue


def take_pictures(page: "Page", address: str) -> None:
    """Every main view at 1280 × 800."""
    page.goto(address)
    page.get_by_text("measured, every gate passed").nth(5).wait_for(timeout=400_000)
    views = {
        "bench": "/",
        "questions": "/ask",
        "ask": "/ask/7",
        "card": "/card/THRIFT-IN-MIXES-4-01",
        "painting": "/paint/WINTER-BOX-7-01",
        "inbox": "/capture",
        "capture": "/capture/" + _first_card(page),
        "look": "/look/1",
        "look-zone": "/look/1?zone=S4.wash",
        "paint": "/library/1",
        "evidence": "/library/15",
        "library": "/library",
        "answer": "/compare/4",
        "compare": "/compare?paints=1,2,3,4,5&by=hue",
    }
    OUT.mkdir(parents=True, exist_ok=True)
    views["old-scan"] = _take_in_an_old_scan(page, address)
    for name, path in views.items():
        page.goto(address + path)
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(900)
        if name == "painting":  # past the cautions and the ink, with the ink's wait running
            for _ in range(3):
                page.keyboard.press("d")
                page.wait_for_timeout(600)
        if name == "evidence":
            page.get_by_role("region", name="Grain").evaluate("plate => plate.scrollIntoView()")
            page.wait_for_timeout(600)
        if name == "look-zone":
            page.keyboard.press("]")
            page.keyboard.press("[")
            page.wait_for_timeout(1500)
        page.screenshot(path=OUT / f"{name}.png")


def _first_card(page: "Page") -> str:
    return str(page.evaluate("fetch('/api/overview').then(r => r.json()).then(o => o.sessions.at(-1).cards[0].card_id)"))


def main() -> None:
    from playwright.sync_api import sync_playwright

    with demo_server() as address, sync_playwright() as play:
        wait_until_measured(address)
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), headless=True, args=list(BROWSER_FLAGS))
        context = browser.new_context(
            viewport={"width": 1280, "height": 800}, reduced_motion="reduce", color_scheme="light", locale="en-GB", timezone_id="UTC"
        )
        take_pictures(context.new_page(), address)
        browser.close()


if __name__ == "__main__":
    main()
