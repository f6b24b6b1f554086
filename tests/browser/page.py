"""A headless browser on the live site."""

import os
import shutil
import subprocess

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, Request, expect, sync_playwright

from bench.screenshots import BROWSER_FLAGS
from tests.site.scene import OwnDataFolder, start_worker

# The synchronous browser interface runs its own event loop; the ORM would refuse to be called inside one.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


# A test that fails is slow then, but none fails because the machine is busy.
PATIENCE_MS = 45_000
expect.set_options(timeout=PATIENCE_MS)


class BrowserTest(OwnDataFolder, StaticLiveServerTestCase):
    """Every page error, console error and failed request of a test makes it fail."""

    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=shutil.which("chromium"), headless=True, args=list(BROWSER_FLAGS))

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        self.complaints: list[str] = []
        self.expected: tuple[str, ...] = ()
        self.changing: dict[Request, Page] = {}
        self.context = self.new_context()
        self.page = self.open(self.context)

    def new_context(self) -> BrowserContext:
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB", timezone_id="UTC", accept_downloads=True
        )
        self.addCleanup(context.close)
        return context

    def open(self, context: BrowserContext) -> Page:
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("request", lambda request: self._began(page, request))
        page.on("requestfinished", self._ended)
        page.on("requestfailed", self._ended)
        page.on("close", self._closed)
        page.on("pageerror", lambda error: self.complaints.append(f"page error: {error}"))
        page.on("console", lambda message: self.complaints.append(f"console: {message.text}") if message.type == "error" else None)
        return page

    def _began(self, page: Page, request: Request) -> None:
        if request.method != "GET":
            self.changing[request] = page

    def _ended(self, request: Request) -> None:
        self.changing.pop(request, None)

    def _closed(self, closed: Page) -> None:
        # Nobody is told any more how a closed page's requests ended.
        self.changing = {request: page for request, page in self.changing.items() if page is not closed}

    def tearDown(self) -> None:
        # The tables are emptied next: a change still under way would meet half of them.
        for _ in range(500):
            open_pages = [page for context in self.browser.contexts for page in context.pages]
            if not self.changing or not open_pages:
                break
            open_pages[0].wait_for_timeout(20)
        unexpected = [c for c in self.complaints if not any(words in c for words in self.expected)]
        self.assertEqual(unexpected, [])

    def go(self, path: str, page: Page | None = None) -> None:
        (page or self.page).goto(f"{self.live_server_url}{path}")

    def worker(self) -> "subprocess.Popen[bytes]":
        """A real worker process beside the browser."""
        process = start_worker(self.data)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process
