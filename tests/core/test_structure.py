"""Which part may know which: frontend → site → core, and the core without Django."""

import ast
import re
import subprocess
import sys
import unittest
from fnmatch import fnmatch
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
PACKAGE = ROOT / "gelvet"


def imports(path: Path) -> set[str]:
    """Names of all modules that a file imports, anywhere in it."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found |= {f"{node.module}.{alias.name}" for alias in node.names} | {node.module}
    return found


def modules(*parts: str) -> list[Path]:
    return sorted(PACKAGE.joinpath(*parts).rglob("*.py"))


class Directions(unittest.TestCase):
    def assert_none(self, paths: list[Path], *banned: str) -> None:
        self.assertTrue(paths)
        for path in paths:
            for name in imports(path):
                self.assertFalse(name.startswith(banned), f"{path.relative_to(ROOT)} imports {name}")

    def test_the_core_knows_neither_site_nor_command_line_nor_django(self) -> None:
        self.assert_none(modules("core"), "django", "ninja", "gelvet.site", "gelvet.cli")

    def test_measuring_and_simulating_share_nothing_but_colour_and_layout(self) -> None:
        measuring = modules("core", "capture") + modules("core", "measure") + modules("core", "compare") + modules("core", "formats")
        self.assert_none([*measuring, PACKAGE / "core" / "pipeline.py"], "gelvet.core.simulate")
        self.assert_none(modules("core", "simulate"), "gelvet.core.measure", "gelvet.core.capture", "gelvet.core.pipeline")

    def test_models_and_services_do_not_know_the_interface(self) -> None:
        for app in ("library", "bench", "captures", "results", "history", "search", "people", "demo"):
            self.assert_none(modules("site", app), "gelvet.site.api", "ninja")

    def test_only_services_and_their_helpers_touch_both_rows_and_core(self) -> None:
        for models in PACKAGE.glob("site/*/models.py"):
            self.assert_none([models], "gelvet.core")

    def test_the_core_and_the_command_line_run_where_django_is_absent(self) -> None:
        code = (
            "import sys\n"
            "class Block:\n"
            "    def find_spec(self, name, path=None, target=None):\n"
            "        if name.split('.')[0] in {'django', 'ninja'}: raise ImportError(name)\n"
            "sys.meta_path.insert(0, Block())\n"
            "import gelvet.core.pipeline, gelvet.core.compare.wording, gelvet.core.simulate.files\n"
            "from gelvet.cli.main import build_parser\n"
            "build_parser()\n"
            "assert not any(m.split('.')[0] == 'django' for m in sys.modules)\n"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=ROOT, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_every_module_says_what_it_is(self) -> None:
        for path in modules():
            text = path.read_text("utf-8")
            if text.strip() and "migrations" not in path.parts and path.name != "apps.py":
                self.assertTrue(ast.get_docstring(ast.parse(text)), path)


class EveryTest(unittest.TestCase):
    def test_each_test_of_the_core_is_in_one_part_of_the_run(self) -> None:
        [parts] = re.findall(r"^CORE_PARTS := (.+)$", (ROOT / "Makefile").read_text("utf-8"), re.MULTILINE)
        patterns = [f"test_[{letters}]*.py" for letters in parts.split()]
        self.assertIn("-p 'test_[$*]*.py'", (ROOT / "Makefile").read_text("utf-8"))
        for path in (ROOT / "tests/core").rglob("test*.py"):
            self.assertEqual(sum(fnmatch(path.name, pattern) for pattern in patterns), 1, path.name)


class NeutralSurround(unittest.TestCase):
    def test_every_grey_of_the_interface_is_neutral(self) -> None:
        """Equal red, green and blue have a* = b* = 0 under any white point."""
        tokens = (ROOT / "frontend/src/tokens.css").read_text("utf-8")
        codes = re.findall(r"#([0-9a-fA-F]{6})\b", tokens)
        self.assertGreaterEqual(len(codes), 6)
        drawn = "".join(p.read_text("utf-8") for p in (ROOT / "frontend/src").rglob("*.svelte"))
        for code in codes + re.findall(r"#([0-9a-fA-F]{6})\b", drawn):
            self.assertEqual(len({code[0:2].lower(), code[2:4].lower(), code[4:6].lower()}), 1, code)


if __name__ == "__main__":
    unittest.main()
