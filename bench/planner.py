"""How soon the planner answers: sixty of a thousand paints on twelve cards, at the server and on the page."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request

from bench.screenshots import BROWSER_FLAGS, ROOT

_PORT = 8766
_PAINTS, _CHOSEN = 1000, 60
_CODES = ("PY150", "PR254", "PV19", "PB29", "PG7", "PBr7")
# Takes another paint off each time, so that no answer is at hand already, and waits until the page shows other figures; milliseconds.
_TOGGLE = """(index) => new Promise(resolve => {
  const effort = document.querySelector('[aria-label="Effort"]');
  const box = document.querySelectorAll('[aria-label="Library"] input')[index];
  const start = performance.now();
  const watch = new MutationObserver(() => { watch.disconnect(); requestAnimationFrame(() => resolve(performance.now() - start)); });
  watch.observe(effort, {childList: true, subtree: true, characterData: true});
  box.click();
})"""


def planner_table() -> str:
    """The table as text."""
    with tempfile.TemporaryDirectory(prefix="gelvet-planner-") as data:
        environment = {**os.environ, "GELVET_DATA": data, "DJANGO_SETTINGS_MODULE": "gelvet.site.settings"}
        command = [sys.executable, "-m", "gelvet.cli.main", "serve", "--port", str(_PORT)]
        server = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        try:
            _wait()
            subprocess.run([sys.executable, "-W", "ignore", "-c", _FILL], cwd=ROOT, env=environment, check=True)
            page_ms, server_ms = _in_the_browser()
        finally:
            server.terminate()
            server.wait(20)
    floor_ms = _floor()
    return "\n".join([
        f"Planner: {_CHOSEN} of {_PAINTS} paints on 12 cards; medians, on this machine",
        f"    floor (laying the cards out and writing them as JSON)  {floor_ms:6.1f} ms",
        f"    the server's answer                                    {server_ms:6.1f} ms   {server_ms / floor_ms:.1f} × floor",
        f"    from a key to the page showing it                      {page_ms:6.1f} ms   (wanted: 100 ms)",
        "",
    ])  # fmt: skip


_FILL = f"""
import django; django.setup()
from gelvet.site.library.models import Maker, Paint
maker = Maker.objects.create(name="Saltings Colour Works")
codes = {_CODES!r}
Paint.objects.bulk_create(
    Paint(maker=maker, name=f"Dune {{i:04d}}", pigments=[codes[i % len(codes)]], owned=i < {_CHOSEN}) for i in range({_PAINTS})
)
"""


def _wait() -> None:
    for _ in range(120):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{_PORT}/", timeout=1).close()
            return
        except OSError:
            time.sleep(0.25)
    raise RuntimeError("the server did not start")


def _in_the_browser() -> tuple[float, float]:
    """Medians: milliseconds from a click to the new figures on the page, and of the server's answers in between."""
    from playwright.sync_api import sync_playwright

    answers: list[float] = []
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), headless=True, args=list(BROWSER_FLAGS))
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"http://127.0.0.1:{_PORT}/ask/new/buy-again")
        page.get_by_label("Effort").get_by_text("12, with 60 swatches").wait_for(timeout=30_000)
        page.on("requestfinished", lambda r: answers.append(r.timing["responseEnd"]) if r.url.endswith("/plans/preview") else None)
        times = sorted(float(page.evaluate(_TOGGLE, index)) for index in range(15))
        page.wait_for_timeout(300)
        browser.close()
    return times[len(times) // 2], sorted(answers)[len(answers) // 2]


def _floor() -> float:
    from gelvet.core.card.builder import SwatchLabel, build_card
    from gelvet.core.formats.card_layout import layout_to_document

    times = []
    for _ in range(9):
        start = time.perf_counter()
        for number in range(12):
            layout = build_card(
                f"CARD-{number}", "A5", [SwatchLabel(f"Dune {i:04d}", "Saltings Colour Works", ("PB29",)) for i in range(5)]
            )
            json.dumps(layout_to_document(layout))
        times.append((time.perf_counter() - start) * 1000)
    return sorted(times)[len(times) // 2]


def main() -> None:
    print(planner_table())


if __name__ == "__main__":
    main()
