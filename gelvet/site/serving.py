"""Starts everything that one machine needs: database, demo, web server, workers, and the watch over their jobs."""

import os
import signal
import socket
import subprocess
import sys
import time
from types import FrameType

from gelvet.site.settings import BASE_DIR, STATIC_ROOT

_RESTART_PAUSE_S = 1.0


def serve(*, port: int, demo: bool, shared: str | None = None) -> int:
    """Runs until interrupted; a process that dies is started again. A `shared` bench answers at that address, too, and
    lets in only people with an account."""
    address = "0.0.0.0" if shared else "127.0.0.1"
    if _in_use(address, port):
        print(f"gelvet: port {port} is in use on this machine; choose another with --port.", file=sys.stderr)
        return 2
    manage = [sys.executable, str(BASE_DIR / "manage.py")]
    environment = {**os.environ, "DJANGO_SETTINGS_MODULE": "gelvet.site.settings", "PYTHONUNBUFFERED": "1"}
    if shared:
        environment["GELVET_HOSTS"] = shared
    STATIC_ROOT.mkdir(parents=True, exist_ok=True)
    subprocess.run([*manage, "migrate", "--verbosity", "0"], check=True, env=environment)
    subprocess.run([*manage, "rebuild_search"], check=True, env=environment, stdout=subprocess.DEVNULL)
    if demo:
        subprocess.run([*manage, "load_demo"], check=True, env=environment)
    worker = [*manage, "db_worker", "--queue-name", "*", "--no-reload", "--interval", "0.3", "--no-startup-delay"]
    commands = {
        "web": [sys.executable, "-m", "gunicorn", "gelvet.site.wsgi", "--bind", f"{address}:{port}", "--workers", "1", "--threads", "8",
                "--timeout", "120", "--log-level", "warning"],
        "watch": [*manage, "watch_jobs"],
        "worker-1": worker,
    }  # fmt: skip
    if (os.cpu_count() or 1) > 2:
        commands["worker-2"] = worker
    print(f"Gelvet is on http://{shared or '127.0.0.1'}:{port} (stop with Ctrl-C)", flush=True)
    if shared:
        print("Everybody signs in; make the first account with: .venv/bin/python manage.py add_person NAME", flush=True)
    return _supervise(commands, environment)


def _in_use(address: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError:
            return True
    return False


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
