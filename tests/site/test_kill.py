"""The whole application killed in the middle of the work: what was done is there after it starts again."""

import json
import os
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


class KilledServer(unittest.TestCase):
    def setUp(self) -> None:
        self.data = self.enterContext(tempfile.TemporaryDirectory())
        self.port = free_port()

    def start(self) -> "subprocess.Popen[bytes]":
        """In a process group of its own, so that everything dies at once."""
        command = [sys.executable, "-W", "ignore", "-m", "gelvet.cli.main", "serve", "--port", str(self.port)]
        environment = {**os.environ, "GELVET_DATA": self.data}
        environment.pop("GELVET_DATABASE", None)
        quiet = subprocess.DEVNULL
        server = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=quiet, stderr=quiet, start_new_session=True)
        self.addCleanup(self.kill, server)
        for _ in range(120):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/", timeout=1).close()
                return server
            except OSError:
                time.sleep(0.25)
        raise AssertionError("the server did not start")

    def kill(self, server: "subprocess.Popen[bytes]") -> None:
        if server.poll() is None:
            os.killpg(server.pid, signal.SIGKILL)
            server.wait()

    def call(self, method: str, path: str, body: Any = None) -> Any:
        page = urllib.request.urlopen(f"http://127.0.0.1:{self.port}/")
        token = page.headers["Set-Cookie"].split("csrftoken=")[1].split(";")[0]
        page.close()
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": f"csrftoken={token}"}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", data, headers, method=method)
        with urllib.request.urlopen(request) as reply:
            return json.load(reply)

    def test_a_port_in_use_is_said_in_one_line(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", self.port))
            taken.listen()
            command = [sys.executable, "-W", "ignore", "-m", "gelvet.cli.main", "serve", "--port", str(self.port)]
            run = subprocess.run(
                command, cwd=ROOT, env={**os.environ, "GELVET_DATA": self.data}, capture_output=True, text=True, check=False
            )
        self.assertEqual((run.returncode, run.stderr.count("\n")), (2, 1))
        self.assertIn("is in use", run.stderr)

    def test_everything_that_was_answered_is_still_there(self) -> None:
        server = self.start()
        session = self.call("POST", "/api/sessions", {"name": "Winter skies", "question": "one-paint", "blank_rows": 2})
        card = session["cards"][0]["card_id"]
        self.call("POST", f"/api/cards/{card}/bench/ink/done", {})
        self.call("POST", f"/api/cards/{card}/notes", {"text": "the last word"})
        self.kill(server)
        with sqlite3.connect(Path(self.data) / "gelvet.sqlite3") as database:
            self.assertEqual(database.execute("PRAGMA integrity_check").fetchone(), ("ok",))
        self.start()
        bench = self.call("GET", f"/api/cards/{card}/bench")
        self.assertEqual([e["text"] for e in bench["entries"]][-1], "the last word")
        self.assertEqual([t["title"] for t in bench["timers"]], ["Ink drying"])
        self.assertEqual(self.call("GET", "/api/search?words=last+word")[0]["kind"], "note")
