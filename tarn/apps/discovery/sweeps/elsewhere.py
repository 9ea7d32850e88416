"""Sharing a run's looks with other machines (`tarn worker --looks`), where Redis leads to any."""

import os
import uuid
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import Any

from tarn.apps.discovery.networks.places import Places
from tarn.collect.credentials import reaches
from tarn.collect.found import Found, found_of
from tarn.collect.hints import Hints
from tarn.collect.look import LookSettings, go_on
from tarn.collect.looked import Look
from tarn.collect.looks.looker import Looker
from tarn.collect.looks.sharing import Shared, lookers, share
from tarn.collect.looks.speech import Seal, reached
from tarn.collect.outpost.wire import Stretch, SweepOrder, pack

HERE = "this server"
LEAST, MOST = 8, 64
"""Addresses of one order."""


@dataclass(frozen=True)
class Elsewhere:
    """Where looks are shared: Redis, the seal, and who listens there just now."""

    redis: Any
    seal: Seal
    names: list[str]

    async def looks(self, orders: list[SweepOrder], route: str, halted: Callable[[], bool]) -> AsyncIterator[Shared]:
        """Yield what comes of orders; this process takes its part of them."""
        import asyncio

        mine = asyncio.create_task(Looker(self.redis, self.seal, HERE).serve())
        try:
            async for came in share(self.redis, self.seal, route, orders, halted):
                yield came
        finally:
            mine.cancel()
            await asyncio.gather(mine, return_exceptions=True)


@asynccontextmanager
async def elsewhere() -> AsyncIterator[Elsewhere | None]:
    """Have the machines that look with this one; None where there are none. Raises RedisError."""
    url, key = os.environ.get("TARN_REDIS", ""), os.environ.get("TARN_LOOKS_KEY", "")
    if not (url and key):
        yield None
        return
    redis = reached(url)
    try:
        names = [name for name in await lookers(redis) if name != HERE]
        yield Elsewhere(redis, Seal(key), names) if names else None
    finally:
        await redis.aclose()


def orders_of(
    run: Any, settings: LookSettings, places: Places, addresses: list[str], hints: Hints, helpers: int
) -> list[SweepOrder]:
    """Return a run's addresses as orders: each with the credentials that may be used at its addresses and no other, and
    with its share of how many devices may be looked at at once.
    """
    each = min(MOST, max(LEAST, len(addresses) // (4 * (helpers + 1))))
    pieces = [addresses[n : n + each] for n in range(0, len(addresses), each)]
    return [_order(run, settings, places, piece, hints, helpers) for piece in pieces]


def _order(
    run: Any, settings: LookSettings, places: Places, addresses: list[str], hints: Hints, helpers: int
) -> SweepOrder:
    here = set(addresses)
    allowed = [
        c
        for c in settings.credentials
        if any(
            reaches(c, a) and (c.name not in settings.limited or settings.place(a) in settings.limited[c.name])
            for a in addresses
        )
    ]
    names = {c.name for c in allowed}
    macs = {a: seen for a, seen in hints.macs.items() if a in here}
    hardware = {mac for mac, _ in macs.values()}
    return SweepOrder(
        run=run.pk,
        sweep=run.sweep.name,
        lease=uuid.uuid4().hex,
        addresses=addresses,
        credentials=[pack(c) for c in allowed],
        protocols=sorted(settings.protocols),
        patience=settings.patience,
        ports=list(settings.ports),
        at_once=max(1, run.sweep.at_once // (helpers + 1)),
        networks=[
            Stretch(s.text, place, max(1, at_once // (helpers + 1)), pause)
            for s, place, at_once, pause in places.stretches(addresses)
        ],
        organisation=settings.organisation,
        worked={a: sorted(let_in & names) for a, let_in in settings.worked.items() if a in here},
        refused=settings.guard.counts(),
        limited={c: sorted(several) for c, several in settings.limited.items() if c in names},
        host_keys={a: sorted(keys) for a, keys in settings.host_keys.items() if a in here},
        keys_met=sorted(settings.keys_met),
        macs=macs,
        behind={m: where for m, where in hints.ports.items() if m in hardware},
    )


async def concluded(found: Found, settings: LookSettings, hints: Hints, source: tuple[str, str], place: str) -> Found:
    """Return what an address that did not answer is after all: others of the same run may have told of it."""
    if hints.seen(found.address) is None:
        return found
    return found_of(await go_on(Look(found.address), settings, hints), source, place, settings.organisation)
