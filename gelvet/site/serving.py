"""Starts everything that one machine needs: database, demo, web server, workers, and the watch over their jobs."""

import os
import signal
import subprocess
import sys
import time
from types import FrameType

from gelvet.site.settings import BASE_DIR

_RESTART_PAUSE_S = 1.0


def serve(*, port: int, demo: bool) -> int:
    """Runs until interrupted; a process that dies is started again."""
    manage = [sys.executable, str(BASE_DIR / "manage.py")]
    environment = {**os.environ, "DJANGO_SETTINGS_MODULE": "gelvet.site.settings", "PYTHONUNBUFFERED": "1"}
    subprocess.run([*manage, "migrate", "--verbosity", "0"], check=True, env=environment)
    if demo:
        subprocess.run([*manage, "load_demo"], check=True, env=environment)
    worker = [*manage, "db_worker", "--queue-name", "*", "--no-reload", "--interval", "0.3", "--no-startup-delay"]
    commands = {
        "web": [sys.executable, "-m", "gunicorn", "gelvet.site.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "1", "--threads", "8",
                "--timeout", "120", "--log-level", "warning"],
        "watch": [*manage, "watch_jobs"],
        "worker-1": worker,
    }  # fmt: skip
    if (os.cpu_count() or 1) > 2:
        commands["worker-2"] = worker
    print(f"Gelvet is on http://127.0.0.1:{port} (stop with Ctrl-C)", flush=True)
    return _supervise(commands, environment)


def _supervise(commands: dict[str, list[str]], environment: dict[str, str]) -> int:
    stopping = False

    def stop(signum: int, frame: FrameType | None) -> None:
        nonlocal stopping
        stopping = True

    signal.signal(signal.SIGTERM, stop)
    signal.signal(signal.SIGINT, stop)
    running = {name: subprocess.Popen(command, env=environment) for name, command in commands.items()}
    while not stopping:
        time.sleep(0.4)
        for name, process in running.items():
            if process.poll() is not None and not stopping:
                if name == "web":
                    stopping = True
                    break
                time.sleep(_RESTART_PAUSE_S)
                running[name] = subprocess.Popen(commands[name], env=environment)
    status = running["web"].poll() or 0
    for process in running.values():
        if process.poll() is None:
            process.terminate()
    deadline = time.monotonic() + 5
    for process in running.values():
        try:
            process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            process.kill()
    return status
