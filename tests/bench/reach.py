"""Windows computers against the bare client library, two outposts against one, and a long file of devices."""

import asyncio
import csv
import os
import resource
import subprocess
import sys
import tempfile
import time
import uuid
from pathlib import Path
from typing import Any

from pypsrp.shell import Process, SignalCode, WinRS
from pypsrp.wsman import WSMan

from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.collect.credentials import WinrmCredential
from tarn.collect.presented import Expected
from tarn.collect.routes import LAB
from tarn.collect.winrm.client import _POWERSHELL, UTF8, winrm
from tarn.collect.winrm.windows import read_all
from tarn.lab import scenario
from tests.bench.figures import Figure, timed
from tests.bench.page import _port, _until

ROUNDS = 12
ROWS = 20_000
ACCOUNT, PASSWORD = next(iter(scenario.WINRM_ACCOUNTS.items()))
DOMAIN = WinrmCredential("bench", ACCOUNT, PASSWORD)


class _Recorder:
    """Notes the scripts that are run, so that the bare client runs the same."""

    def __init__(self, session: Any) -> None:
        self.session, self.scripts = session, []

    async def run(self, script: str, section: str) -> str:
        self.scripts.append(script)
        return str(await self.session.run(script, section))


def windows() -> Figure:
    """Reading a Windows computer whole, against the client library making the same calls and reading nothing."""
    address = "10.60.5.121"
    host, port = LAB.dial(address, 5986)

    async def record() -> list[str]:
        async with winrm(LAB, address, DOMAIN, Expected()) as session:
            recorder = _Recorder(session)
            await read_all(recorder)
            return recorder.scripts

    scripts = asyncio.run(record())

    async def ours() -> None:
        async with winrm(LAB, address, DOMAIN, Expected()) as session:
            await read_all(session)

    def bare() -> None:
        wsman = WSMan(host, port=port, username=ACCOUNT, password=PASSWORD, ssl=True, auth="ntlm",
                      cert_validation=False, no_proxy=True)  # fmt: skip
        shell = WinRS(wsman, codepage=UTF8, no_profile=True)
        shell.open()
        for script in scripts:
            process = Process(shell, "powershell.exe", _POWERSHELL)
            process.begin_invoke()
            process.send(script.encode() + b"\r\n", end=True)
            process.end_invoke()
            process.signal(SignalCode.CTRL_C)
        shell.close()
        wsman.close()

    # Turn about, so that what else the machine does falls on both.
    both = [(timed(lambda: asyncio.run(ours())), timed(bare)) for _ in range(ROUNDS)]
    mine, floor = min(m for m, _ in both), min(b for _, b in both)
    trips = 4 + 5 * len(scripts)  # the sign-in's two, create, delete; command, send (ends it), receive, signal
    note = f"{mine * 1e3:.0f} ms, {len(scripts)} scripts, about {trips} round trips; bare {floor * 1e3:.0f} ms"
    return Figure("winrm_device", mine / floor, "× bare client", "<= 1.3", note)


def outposts() -> Figure:
    """A network where each address costs 0.4 s: two outposts against one, from start to end of a run."""
    from tarn.apps.discovery.models import Outpost, Run
    from tarn.apps.discovery.networks.change import make_network
    from tarn.apps.discovery.outposts.change import make_outpost
    from tarn.apps.discovery.sweeps import running
    from tarn.apps.discovery.sweeps.change import make_sweep
    from tarn.apps.discovery.sweeps.runs import plan_run

    network = make_network(
        None, NetworkIn.model_validate({"range": "10.60.20.0/24", "name": "slow", "at_once": 8, "pause_ms": 400})
    )
    sweep = make_sweep(
        None, SweepIn.model_validate({"name": "slow", "ranges": ["10.60.20.0/24"], "route": "lab", "patience": 0.5})
    )
    port = _port()
    tarn = [sys.executable, "-m", "tarn.site.cli_main"]
    web = subprocess.Popen([*tarn, "serve", "--port", str(port)], env=dict(os.environ))
    posts: list[subprocess.Popen[bytes]] = []
    folder = tempfile.mkdtemp(prefix="tarn-outposts-")

    def swept() -> float:
        began = time.perf_counter()
        run = plan_run(None, sweep)
        running.carry_out(run.pk)
        while Run.objects.get(pk=run.pk).state == "running":
            time.sleep(0.05)
        return time.perf_counter() - began

    def posted(name: str) -> None:
        token = make_outpost(None, name, [network.pk])[1]
        command = [
            *tarn,
            "outpost",
            "--join",
            f"http://127.0.0.1:{port}",
            "--route",
            "lab-120",
            "--keep",
            f"{folder}/{name}",
        ]
        quiet = subprocess.DEVNULL
        posts.append(subprocess.Popen(command, env={**os.environ, "TARN_OUTPOST_TOKEN": token}, stderr=quiet))
        while Outpost.objects.filter(last_seen=None).exists():
            time.sleep(0.05)

    try:
        _until(port)
        posted("one")
        alone = swept()
        posted("two")
        both = swept()
    finally:
        for process in (*posts, web):
            process.terminate()
            process.wait(10)
    note = f"254 addresses of 0.4 s, 8 in flight each: {both:.1f} s by two, {alone:.1f} s by one"
    return Figure("outposts", both / alone, "× one outpost's time", "<= 0.6", note)


def long_file() -> list[Figure]:
    """A file of devices rehearsed and carried out, against the same rows by bare executemany."""
    from tarn.apps.discovery.imports import change as imports
    from tarn.apps.estate.store.database import raw_connection
    from tarn.apps.people.actions.accounts import make_person
    from tests.bench.ingest import TABLES, _empty_copy

    person = make_person(None, f"files-{uuid.uuid4().hex[:6]}", "bench-bench-1", "manager")
    db = raw_connection()
    before = {t: db.execute(f"SELECT coalesce(max(rowid), 0) FROM {t}").fetchone()[0] for t in TABLES}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.csv"
        with path.open("w", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(["Host name", "Serial number", "Manufacturer", "Model", "Memory (GB)", "Kind"])
            writer.writerows(
                [f"bulk-{n:06d}", f"BK{n:07d}", "Halberd", "D40", 8 << n % 3, "workstation"] for n in range(ROWS)
            )
        held = imports.upload(person, "long.csv", iter([path.read_bytes()]))
    first = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    rehearsed = timed(lambda: imports.rehearse(person, held.pk))
    done = timed(lambda: imports.carry_out(person, held.pk))
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - first) / 1024
    rows = {t: db.execute(f"SELECT * FROM {t} WHERE rowid > ?", (before[t],)).fetchall() for t in TABLES}
    total = sum(len(r) for r in rows.values())
    floor = _empty_copy(db)

    def bare() -> None:
        floor.execute("BEGIN IMMEDIATE")
        for table, several in rows.items():
            if several:
                floor.executemany(f"INSERT INTO {table} VALUES ({','.join('?' * len(several[0]))})", several)
        floor.execute("COMMIT")

    bare_seconds = timed(bare)
    floor.close()
    note = f"{ROWS:,} rows of the file make {total:,} in the tables; {{:.1f}} s, bare {bare_seconds:.1f} s; {grown:.0f} MB more at the peak"
    return [
        Figure("import_rehearsed", bare_seconds / rehearsed, "of bare executemany", ">= 0.3", note.format(rehearsed)),
        Figure("import_done", bare_seconds / done, "of bare executemany", ">= 0.3", note.format(done)),
    ]
