"""Starting the demo: lab, worker, web server and outposts under one small parent that stops them together."""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import typer

from tarn.site.home import home
from tarn.site.ready import ready


def start(*, prepare_only: bool, fresh: bool, reload: bool) -> None:
    """Prepare what is missing, start everything, and wait for Ctrl-C or for a part to end."""
    folder = home()
    if fresh:
        for name in ("tarn.sqlite3", "tarn.sqlite3-wal", "tarn.sqlite3-shm", "jobs.sqlite3", "demo.json"):
            (folder / name).unlink(missing_ok=True)
    _prepare(folder)
    if prepare_only:
        return
    port = int(os.environ.get("TARN_PORT", "8000"))
    if not _free(port):
        typer.echo(f"tarn: port {port} is taken; stop what uses it, or say TARN_PORT=8001 make demo.", err=True)
        raise typer.Exit(1)
    sys.exit(_run(folder, port, reload=reload))


def _prepare(folder: Path) -> None:
    from tarn.site.demo.prepare import prepare, prepared

    if not prepared(folder) and (folder / "tarn.sqlite3").exists():
        ready()
        from tarn.apps.estate.models import Sighting
        from tarn.apps.people.models import AuditEntry

        made = (
            json.loads((folder / "demo.json").read_text()).get("entries", 0) if (folder / "demo.json").exists() else 0
        )
        if AuditEntry.objects.exclude(who="Tarn").count() > made or Sighting.objects.count() > 20_000:
            typer.echo(
                f"tarn: {folder} holds data that is not the demo's, or an older demo that people have worked in; set "
                "TARN_HOME to another folder, or drop it with `make demo-fresh`.",
                err=True,
            )
            raise typer.Exit(1)
        from django.db import connections

        connections.close_all()
        for leftover in folder.glob("tarn.sqlite3*"):
            leftover.unlink()
    ready()
    if not prepared(folder):
        typer.echo(f"Preparing the demo company in {folder} …")
        prepare(folder)


def _free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def _run(folder: Path, port: int, *, reload: bool) -> int:
    from tarn.lab.serve import MAIL_PORT
    from tarn.site.demo.prepare import OUTPOSTS, SIGN_INS, lab_day

    tarn = [sys.executable, "-m", "tarn.site.cli_main"]
    commands = {
        "lab": [
            *[*tarn, "lab", "--day", str(lab_day(folder)), "--leases", str(folder / "dhcpd.leases")],
            *["--mailbox", str(folder / "mailbox"), "--changes", str(folder / "lab-changes.jsonl")],
        ],
        "worker": [*tarn, "worker"],
        "serve": [*tarn, "serve", "--port", str(port), *(["--reload"] if reload else [])],
    }
    # The demo's mail goes to the lab's own mailbox, which the application shows.
    mail = {"TARN_SMTP": f"127.0.0.1:{MAIL_PORT}", "TARN_MAILBOX": str(folder / "mailbox")}
    mail |= {"TARN_MAIL_FROM": "tarn@skerrivane.example", "TARN_URL": f"http://127.0.0.1:{port}"}
    environment = {**os.environ, **mail, "TARN_HOME": str(folder), "PYTHONUNBUFFERED": "1"}
    children = {n: subprocess.Popen(c, env=environment, start_new_session=True) for n, c in commands.items()}
    stopping = False

    def stop(*_: object) -> None:
        nonlocal stopping
        stopping = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    try:
        _wait_for(port, lambda: stopping or any(c.poll() is not None for c in children.values()))
        if not stopping:
            for number, post in enumerate(json.loads((folder / OUTPOSTS).read_text()), start=1):
                joins = ["outpost", "--join", f"http://127.0.0.1:{port}", "--route", post["route"]]
                sealed = {**environment, "TARN_OUTPOST_TOKEN": post["token"]}
                children[f"outpost {number}"] = subprocess.Popen([*tarn, *joins], env=sealed, start_new_session=True)
            typer.echo(f"\n  Tarn is at  http://127.0.0.1:{port}/\n\n  Sign in as")
            for username, role, name, password in SIGN_INS:
                typer.echo(f"    {username:<6} {password:<16} {role:<14} {name}")
            typer.echo("\n  Ctrl-C stops everything; the data stays in " + str(folder) + "\n")
        code = 0
        while not stopping:
            for name, child in children.items():
                if child.poll() is not None:
                    typer.echo(f"tarn: {name} ended by itself (code {child.returncode}); stopping the rest.", err=True)
                    stopping, code = True, 1
            time.sleep(0.2)
        return code
    finally:
        _stop(children)


def _wait_for(port: int, given_up: "object") -> None:
    until = time.monotonic() + 60
    while time.monotonic() < until and not given_up():  # type: ignore[operator]
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.1)


def _stop(children: dict[str, subprocess.Popen[bytes]]) -> None:
    for child in children.values():
        if child.poll() is None:
            child.terminate()
    until = time.monotonic() + 8
    for child in children.values():
        try:
            child.wait(max(0.1, until - time.monotonic()))
        except subprocess.TimeoutExpired:
            os.killpg(child.pid, signal.SIGKILL)
