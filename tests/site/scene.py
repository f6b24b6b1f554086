"""A small library and session, and worker runs, for the site's tests."""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.db import connection
from django.test import override_settings

from gelvet.core.formats.card_layout import layout_to_document
from gelvet.site.bench.models import Card, Session
from gelvet.site.bench.plans import Plan
from gelvet.site.bench.services import create_session, session_root
from gelvet.site.history.services import recording
from gelvet.site.library.models import Paint
from gelvet.site.library.services import add_paint
from tests import simulated

ROOT = Path(__file__).resolve().parents[2]
NAMES = ("Slack-water Blue", "Samphire Green", "Squall")
CODES = (["PB29"], ["PG7", "PY150"], ["PBk9"])


class OwnDataFolder:
    """Mixin: originals and derived pictures of a test class go to a folder of its own."""

    data: Path
    settings_override: override_settings

    @classmethod
    def setUpClass(cls) -> None:
        cls.data = Path(tempfile.mkdtemp(prefix="gelvet-site-"))
        cls.settings_override = override_settings(
            ORIGINALS_DIR=cls.data / "originals", DERIVED_DIR=cls.data / "derived", WORK_DIR=cls.data / "work"
        )
        cls.settings_override.enable()
        super().setUpClass()  # type: ignore[misc]

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()  # type: ignore[misc]
        cls.settings_override.disable()
        shutil.rmtree(cls.data, ignore_errors=True)


def paints() -> list[Paint]:
    return [
        add_paint(maker="Tern & Tidewrack", name=name, pigments=codes, form="tube", claims={"granulation": "yes"}, note="")
        for name, codes in zip(NAMES, CODES, strict=True)
    ]


def plan(**changes: Any) -> Plan:
    values: dict[str, Any] = {"name": "Shore blues", "question": "which-maker", "paper": None, "sheet": "A5", "note": "", "paints": []}
    return Plan(**(values | changes))


def session_with_simulated_card() -> tuple[Session, Card]:
    """A session whose card is the one that tests/simulated.py painted and scanned."""
    session = create_session(plan(paints=[p.pk for p in paints()]))
    card = session.cards.get()
    made = simulated.bench()
    card.card_id, card.layout = simulated.CARD_ID, layout_to_document(made.layout)
    card.reference = made.reference_path.read_text("utf-8")
    with recording(session_root(session.pk), "became the simulated card", undoable=False):
        card.save()
    return session, card


def work() -> None:
    """Lets a worker do everything that waits."""
    call_command("db_worker", batch=True, interval=0, startup_delay=False, reload=False, queue_name="*", verbosity=0)


def start_worker(data: Path) -> "subprocess.Popen[bytes]":
    """A worker process of its own on this test's database and data folder; it ends when nothing waits."""
    environment = {**os.environ, "GELVET_DATA": str(data), "GELVET_DATABASE": str(connection.settings_dict["NAME"])}
    command = [
        sys.executable,
        "-W",
        "ignore",
        "manage.py",
        "db_worker",
        "--batch",
        "--no-reload",
        "--no-startup-delay",
        "--queue-name",
        "*",
    ]
    return subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
