"""The documentation: its commands run, and its links lead somewhere."""

import contextlib
import re
import shlex
import tempfile
import unittest
from pathlib import Path

from tests.command_line import run

ROOT = Path(__file__).resolve().parents[2]
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").rglob("*.md"))]


class Documents(unittest.TestCase):
    def test_every_command_of_the_command_line_page_runs(self) -> None:
        text = (ROOT / "docs/guide/command-line.md").read_text("utf-8")
        commands = [line for block in re.findall(r"```sh\n(.*?)```", text, re.S) for line in block.splitlines() if line]
        self.assertGreaterEqual(len(commands), 6)
        with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):  # what they write lands there
            for command in commands:
                status, _, errors = run(*shlex.split(command)[1:])
                self.assertIn(status, {0, 1}, f"{command}: {errors}")

    def test_every_link_and_picture_is_there(self) -> None:
        for page in PAGES:
            for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
                if not target.startswith("http"):
                    self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")
