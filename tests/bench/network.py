"""Reading over SNMP against the bare library, and a whole sweep of the lab against its slowest device."""

import asyncio
import os
import subprocess
import sys
import time
from typing import Any

from gufo.snmp.aio.client import SnmpSession

from tarn.collect.credentials import SnmpCredential, SshCredential
from tarn.collect.look import LookSettings
from tarn.collect.routes import LAB
from tarn.collect.snmp.client import snmp
from tarn.collect.snmp.read import read_all
from tarn.collect.sweep import sweep
from tarn.core.ranges import expand, parse_ranges
from tarn.lab import scenario
from tests.bench import reach
from tests.bench.figures import Figure

DEVICE = "10.60.4.3"
V2 = SnmpCredential("v2", "v2c", community=scenario.SNMP_COMMUNITY, timeout=0.8)
V3 = SnmpCredential(
    "v3",
    "v3",
    user=scenario.SNMP_USER,
    auth_secret=scenario.SNMP_AUTH,
    privacy_secret=scenario.SNMP_PRIVACY,
    timeout=0.8,
)
SSH = SshCredential("ssh", scenario.SSH_USER, password=scenario.SSH_PASSWORD, timeout=8)


class _Recorder:
    """Notes what the readers ask for, so that the bare client asks the same."""

    def __init__(self, walker: Any) -> None:
        self.walker, self.asked = walker, []

    async def get(self, oids: Any) -> Any:
        some = list(oids)
        self.asked.append(("get", some))
        return await self.walker.get(some)

    async def walk(self, oid: str) -> Any:
        self.asked.append(("walk", oid))
        return await self.walker.walk(oid)


async def _snmp(rounds: int = 40) -> Figure:
    address = "10.60.4.40"
    async with snmp(LAB, address, V2) as walker:
        recorder = _Recorder(walker)
        await read_all(recorder)
    host, port = LAB.dial(address, 161)

    async def ours() -> None:
        async with snmp(LAB, address, V2) as walker:
            await read_all(walker)

    async def bare() -> None:
        async with SnmpSession(host, port, community=V2.community, timeout=2) as session:
            for kind, what in recorder.asked:
                if kind == "get":
                    await session.get_many(what)
                else:
                    async for _ in session.getbulk(what, 40):
                        pass

    async def cost(work: Any) -> float:
        began = time.perf_counter()
        await work()
        return time.perf_counter() - began

    # Turn about, so that what else the machine does falls on both.
    both = [(await cost(ours), await cost(bare)) for _ in range(rounds)]
    mine, floor = min(m for m, _ in both), min(b for _, b in both)
    note = f"{mine * 1e3:.1f} ms for {len(recorder.asked)} calls; bare {floor * 1e3:.1f} ms"
    return Figure("snmp_device", mine / floor, "× bare client", "<= 1.5", note)


async def _sweep() -> list[Figure]:
    ranges = ["10.60.4.0/24", "10.60.5.0/24", "10.60.8.0/24", "10.60.9.0/24"]
    addresses, _ = expand(parse_ranges(ranges), [])
    flying: set[str] = set()
    most = 0

    def stage(address: str, number: int) -> None:
        nonlocal most
        flying.add(address)
        most = max(most, len(flying))

    began, cpu = time.perf_counter(), time.process_time()
    looks = []
    async for found in sweep(addresses, LookSettings(LAB, (V3, V2, SSH), patience=0.6), at_once=256, stage=stage):
        flying.discard(found.address)
        looks.append(found)
    wall, spent = time.perf_counter() - began, time.process_time() - cpu
    slowest = max(k.took_ms for k in looks) / 1000
    read = sum(k.outcome == "fully read" for k in looks)
    note = f"{wall:.1f} s for {len(addresses)} addresses, {read} fully read; slowest {slowest:.1f} s, own CPU {spent:.1f} s"
    return [
        Figure("sweep_in_flight", most, "devices", ">= 200", note),
        Figure("sweep_wall", wall / (slowest + spent), "× slowest device + CPU", "<= 1.5", note),
    ]


def measure() -> list[Figure]:
    """Start the lab in a process of its own and measure against it."""
    code = "from tarn.site.cli import main; main()"
    lab = subprocess.Popen([sys.executable, "-c", code, "lab"], stderr=subprocess.PIPE, env=dict(os.environ))
    try:
        assert lab.stderr is not None
        while b"answer on loopback" not in lab.stderr.readline():
            assert lab.poll() is None, "the lab did not start"
        return [asyncio.run(_snmp()), *asyncio.run(_sweep()), reach.windows(), reach.outposts()]
    finally:
        lab.terminate()
        lab.wait(10)
