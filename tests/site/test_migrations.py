"""A database of the first release is carried over whole: paints in their order, earlier changes, measured colours."""

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
_FIRST = ("library", "bench", "captures", "results")
_NOW = "2026-11-24 10:00:00"


class FromTheFirstRelease(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = self.enterContext(tempfile.TemporaryDirectory())
        self.database = Path(self.folder) / "old.sqlite3"

    def migrate(self, *what: str) -> None:
        environment = {**os.environ, "GELVET_DATA": self.folder, "GELVET_DATABASE": str(self.database)}
        command = [sys.executable, "-W", "ignore", "manage.py", "migrate", "--verbosity", "0", *what]
        subprocess.run(command, cwd=ROOT, env=environment, check=True)

    def insert(self, into: sqlite3.Connection, table: str, **values: Any) -> None:
        marks = ", ".join("?" for _ in values)
        into.execute(f"INSERT INTO {table} ({', '.join(values)}) VALUES ({marks})", list(values.values()))

    def test_nothing_is_lost(self) -> None:
        for app in _FIRST:
            self.migrate(app, "0001")
        figures = {
            "masstone": {"lab": [30, 1, 2]},
            "wash": {"lab": [80, 0, 1]},
            "hiding": {"absent": None},
            "lifting": {"absent": "no zone"},
        }
        with sqlite3.connect(self.database) as old:
            self.insert(old, "library_maker", id=1, name="Tern & Tidewrack")
            self.insert(old, "library_paper", id=1, name="block", surface="", fibre="")
            for paint in (1, 2):
                self.insert(
                    old,
                    "library_paint",
                    id=paint,
                    maker_id=1,
                    name=f"Paint {paint}",
                    pigments="[]",
                    form="tube",
                    claims="{}",
                    note="",
                    revision=1,
                )
            self.insert(
                old,
                "bench_session",
                id=1,
                name="Shore blues",
                question="which-maker",
                paper_id=1,
                sheet="A5",
                note="",
                revision=2,
                created=_NOW,
            )
            self.insert(old, "bench_sessionpaint", id=1, session_id=1, paint_id=2, position=0)
            self.insert(old, "bench_sessionpaint", id=2, session_id=1, paint_id=1, position=1)
            self.insert(
                old, "bench_sessionchange", id=1, session_id=1, made=_NOW, action="paints reordered", before="{}", after="{}", undone=0
            )
            self.insert(
                old, "bench_card", id=1, session_id=1, card_id="SHORE-1-01", number=1, layout="{}", paints='{"S1": 2}', reference=""
            )
            self.insert(
                old, "captures_capture", id=1, card_id=1, source="file", settings="{}", paint_state="dry", state="done", stage="", share=1,
                message="", attempt="0" * 32, attempts=1, made=_NOW,
            )  # fmt: skip
            self.insert(
                old, "results_measurement", id=1, capture_id=1, document=json.dumps({"swatches": {"S1": figures}}), inputs="{}",
                algorithm="x", pictures="x", made=_NOW,
            )  # fmt: skip
        old.close()
        self.migrate()
        with sqlite3.connect(self.database) as new:
            self.assertEqual(new.execute("SELECT paints FROM bench_session").fetchone(), ("[2, 1]",))
            self.assertEqual(new.execute("SELECT paper_id, revision FROM bench_card").fetchone(), (1, 1))
            self.assertEqual(
                new.execute("SELECT root, action, undoable FROM history_change").fetchone(), ("session:1", "paints reordered", 0)
            )
            masstone, quantities = new.execute("SELECT masstone, quantities FROM results_swatchcolour").fetchone()
            self.assertEqual((json.loads(masstone), quantities), ([30, 1, 2], 1))
            self.assertEqual(new.execute("PRAGMA foreign_key_check").fetchall(), [])
        new.close()
