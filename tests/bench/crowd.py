"""Thirty people at the register while evidence comes in, against one person while nothing does."""

import asyncio
import contextlib
import random
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator

import httpx

from tarn.core.sightings import read_sighting
from tests.bench.figures import Figure
from tests.bench.synthetic import document

PEOPLE, THINKING, SECONDS = 30, 2.0, 20.0
"""So many people, each with so many seconds of thought between two questions."""
ASKED = ("assets", "assets?filter=kind%20%3D%20server", "assets?filter=name%20~%20serv", "assets?sort=name")


def crowd(port: int, token: str) -> list[Figure]:
    """Return how much longer the register takes among many, and how long a decision takes at most."""
    base = f"http://127.0.0.1:{port}/api/"
    alone, _ = asyncio.run(_asked(base, token, 1, writes=False))
    with _coming_in():
        many, writes = asyncio.run(_asked(base, token, PEOPLE, writes=True))
    note = f"p95 {_late(many) * 1000:.0f} ms of {len(many)} answers, alone {_late(alone) * 1000:.0f} ms"
    return [
        Figure("register_crowd", _late(many) / _late(alone), "x one reader (p95)", "<= 3", note),
        Figure(
            "decision_crowd", max(writes) / statistics.median(writes), "x the median", "<= 10", f"{max(writes):.2f} s"
        ),
    ]


def _late(times: list[float]) -> float:
    return statistics.quantiles(times, n=20)[-1]


@contextlib.contextmanager
def _coming_in() -> Iterator[None]:
    """Have a process take evidence in as a sweep does, piece by piece, for as long as the block lasts."""
    with subprocess.Popen([sys.executable, "-m", "tests.bench.crowd"]) as writer:
        try:
            yield
        finally:
            writer.terminate()


def take_in_for_ever() -> None:
    """Take evidence in, piece by piece."""
    from tarn.site.ready import configure

    configure()
    from django.db import transaction

    from tarn.apps.estate.door.entrance import take_in_batch
    from tarn.apps.people.breath import Breath

    documents = (read_sighting(document(n % 3_000, 900 + n // 3_000)) for n in range(1_000_000))
    for piece in Breath(8).pieces(documents):
        with transaction.atomic():
            take_in_batch(piece)


async def _asked(base: str, token: str, people: int, *, writes: bool) -> tuple[list[float], list[float]]:
    """Ask as so many people do; return the seconds of each answer, and of each decision."""
    read: list[float] = []
    written: list[float] = []
    until = time.monotonic() + SECONDS
    headers = {"Authorization": f"Bearer {token}"}
    async with httpx.AsyncClient(base_url=base, headers=headers, timeout=60) as client:

        async def timed(into: list[float], ask: Callable[[], httpx.Response]) -> None:
            began = time.perf_counter()
            (await ask()).raise_for_status()  # type: ignore[misc]
            into.append(time.perf_counter() - began)

        async def person(think: float) -> None:
            while time.monotonic() < until:
                await asyncio.sleep(random.expovariate(1 / think))
                await timed(read, lambda: client.get(random.choice(ASKED)))

        async def decider() -> None:
            rows = (await client.get("assets")).json()
            assets = [r["id"] for r in rows["rows"]][:30]
            for n in range(10_000):
                if time.monotonic() > until:
                    return
                told = {"assets": [assets[n % len(assets)]], "note": f"looked at {n}"}
                await timed(written, lambda told=told: client.post("decide", json=told))
                await asyncio.sleep(0.5)

        # One alone asks as often as it takes to know how long it takes.
        asking = [person(THINKING) for _ in range(people)] if people > 1 else [person(0.1)]
        await asyncio.gather(*asking, *([decider()] if writes else []))
    return read, written


if __name__ == "__main__":
    take_in_for_ever()
