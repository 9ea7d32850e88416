"""Starting the demo: made ready, then handed over to the small process that looks after its parts."""

import json
import os
import sys
from pathlib import Path

import typer

from tarn.lab import openid
from tarn.site.demo.supervise import FIRST_OFFSET, Plan, is_free, offsets
from tarn.site.home import home
from tarn.site.ready import ready


def start(*, prepare_only: bool, fresh: bool, reload: bool) -> None:
    """Prepare what is missing and start everything; this process becomes the one that looks after it."""
    folder = home()
    if fresh:
        for name in ("tarn.sqlite3", "tarn.sqlite3-wal", "tarn.sqlite3-shm", "jobs.sqlite3", "demo.json"):
            (folder / name).unlink(missing_ok=True)
    _find_place()
    _prepare(folder)
    if prepare_only:
        return
    port = int(os.environ.get("TARN_PORT", "8000"))
    if not is_free("127.0.0.1", port):
        typer.echo(f"tarn: port {port} is taken; stop what uses it, or say TARN_PORT=8001 make demo.", err=True)
        raise typer.Exit(1)
    _hand_over(folder, port, reload=reload)


def _find_place() -> None:
    """Have the lab's ports raised to where they are free: preparing asks it too, before it is started to stay."""
    if os.environ.get("TARN_LAB_OFFSET"):
        return
    places = offsets(None)
    if not places:
        typer.echo("tarn: no free ports for the lab; stop another demo, or set TARN_LAB_OFFSET.", err=True)
        raise typer.Exit(1)
    if places[0] != FIRST_OFFSET:
        os.environ["TARN_LAB_OFFSET"] = str(places[0])
        typer.echo(f"The lab's ports are raised by {places[0]}.")


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


def _hand_over(folder: Path, port: int, *, reload: bool) -> None:
    """Become the process that looks after the parts: what preparing has loaded is let go of."""
    from tarn.site.demo.prepare import OUTPOSTS, SIGN_INS, lab_day

    tarn = [sys.executable, "-m", "tarn.site.cli_main"]
    ready_file = folder / "lab.ready"
    day, here = str(lab_day(folder)), f"http://127.0.0.1:{port}"
    lab = [*tarn, "lab", "--day", day, "--leases", str(folder / "dhcpd.leases"), "--ready", str(ready_file)]
    lab += ["--mailbox", str(folder / "mailbox"), "--changes", str(folder / "lab-changes.jsonl")]
    outposts = [
        {"command": [*tarn, "outpost", "--join", here, "--route", post["route"]], "token": post["token"]}
        for post in json.loads((folder / OUTPOSTS).read_text())
    ]
    names = "\n".join(f"    {who:<6} {password:<16} {role:<14} {name}" for who, role, name, password in SIGN_INS)
    stays = f"  Ctrl-C stops everything; the data stays in {folder}\n"
    offset = os.environ.get("TARN_LAB_OFFSET")
    plan = Plan(
        port=port,
        ready=str(ready_file),
        lab=lab,
        commands={
            "worker": [*tarn, "worker"],
            "serve": [*tarn, "serve", "--port", str(port), *(["--reload"] if reload else [])],
        },
        outposts=outposts,
        # The demo's mail goes to the lab's own mailbox, which the application shows.
        environment={
            "TARN_MAILBOX": str(folder / "mailbox"),
            "TARN_MAIL_FROM": "tarn@skerrivane.example",
            "TARN_URL": here,
            "TARN_HOME": str(folder),
            # The company's sign-in is the lab's; passkeys work on one's own machine without HTTPS.
            "TARN_OIDC_NAME": "Harbour sign-in",
            "TARN_OIDC_CLIENT": openid.CLIENT,
            "TARN_OIDC_SECRET": openid.SECRET,
            "TARN_INSECURE_PASSKEYS": "1",
            "PYTHONUNBUFFERED": "1",
        },
        says=f"\n  Tarn is at  {here}/\n\n  Sign in as\n{names}\n\n{stays}",
        offset=int(offset) if offset else None,
    )
    path = folder / "demo-plan.json"
    path.touch(mode=0o600)
    path.write_text(plan.as_json())
    sys.stdout.flush()
    os.execv(sys.executable, [sys.executable, "-m", "tarn.site.demo.supervise", str(path)])
