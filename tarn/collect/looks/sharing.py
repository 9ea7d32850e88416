"""A run's side of looks elsewhere: orders go out, what was found comes in; what a dead looker held goes out anew."""

import asyncio
import logging
import time
import uuid
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass, replace
from typing import Any

from tarn.collect.found import Found
from tarn.collect.looks.speech import (
    CHECK,
    HELD,
    ORDERS,
    PREFIX,
    RUNS,
    Envelope,
    Seal,
    Unsealed,
    found_in,
    going_on,
    held,
)
from tarn.collect.outpost.wire import SweepOrder

log = logging.getLogger("tarn.looks")
LOOKED_EVERY = 2.0


@dataclass(slots=True)
class _Out:
    """An order that is out: the addresses not heard of yet, how it lies in Redis, since when nothing was heard."""

    order: SweepOrder
    waiting: set[str]
    sealed: bytes
    heard: float


@dataclass(slots=True)
class Shared:
    """What came of looking elsewhere: addresses found, by whom; or how far some got."""

    looker: str
    found: list[Found]
    stages: dict[str, int]
    refused: dict[str, int]


async def lookers(redis: Any) -> list[str]:
    """Return who looks just now, by name."""
    names = [key.decode().rpartition(":")[2] async for key in redis.scan_iter(f"{PREFIX}:alive:*")]
    return sorted(names)


async def share(
    redis: Any, seal: Seal, route: str, orders: list[SweepOrder], halted: Callable[[], bool]
) -> AsyncIterator[Shared]:
    """Have orders looked at by whoever listens, and yield what comes; an address comes once, whoever dies meanwhile.

    Ends when all addresses have come, or, once `halted`, when those in hand have. Raises RedisError where Redis goes
    away: what has not come by then is still to be looked at.
    """
    instance, out = uuid.uuid4().hex, {}  # type: str, dict[str, _Out]
    await redis.set(CHECK, seal.close(b"looks"))
    await redis.set(going_on(instance), b"on", ex=RUNS)
    for order in orders:
        await _send(redis, seal, instance, route, order, out)
    looked = 0.0
    try:
        while out:
            if time.monotonic() - looked > LOOKED_EVERY:
                looked = time.monotonic()
                await redis.set(going_on(instance), b"halt" if halted() else b"on", ex=RUNS)
                if halted():
                    await _call_back(redis, out)
                await _look_after(redis, seal, instance, route, out, anew=not halted())
            came = await redis.blpop([found_in(instance)], timeout=1)
            if came is not None and (told := _taken(seal, came[1], out)) is not None:
                yield told
    finally:
        await asyncio.shield(_clear(redis, instance, out))


async def _send(redis: Any, seal: Seal, instance: str, route: str, order: SweepOrder, out: dict[str, _Out]) -> None:
    sealed = seal.close_order(Envelope(instance, route, order))
    out[order.lease] = _Out(order, set(order.addresses), sealed, time.monotonic())
    await redis.rpush(ORDERS, sealed)


def _taken(seal: Seal, sealed: bytes, out: dict[str, _Out]) -> Shared | None:
    try:
        handed = seal.open_found(sealed)
    except Unsealed as fault:
        log.error("a hand-in was left: %s", fault)
        return None
    told = handed.hand_in
    one = out.get(told.lease)
    if one is None:
        return None  # its addresses went to another since; they count once
    one.heard = time.monotonic()
    fresh = [f for f in told.found if f.address in one.waiting]
    one.waiting.difference_update(f.address for f in fresh)
    if told.done or not one.waiting:
        del out[told.lease]
    stages = {a: s for a, s in told.stages.items() if a in one.waiting}
    return Shared(handed.looker, fresh, stages, told.refused)


async def _look_after(redis: Any, seal: Seal, instance: str, route: str, out: dict[str, _Out], *, anew: bool) -> None:
    """Give out anew what nobody holds any more: whoever held it died, or Redis lost it."""
    for lease, one in list(out.items()):
        if time.monotonic() - one.heard < HELD or await redis.exists(held(lease)):
            continue
        if await redis.lpos(ORDERS, one.sealed) is not None:
            continue  # it lies there still: nobody is free
        del out[lease]
        if anew:
            log.warning("whoever held %d addresses is gone; they are given out anew", len(one.waiting))
            order = replace(one.order, lease=uuid.uuid4().hex, addresses=sorted(one.waiting))
            await _send(redis, seal, instance, route, order, out)


async def _call_back(redis: Any, out: dict[str, _Out]) -> None:
    for lease, one in list(out.items()):
        if await redis.lrem(ORDERS, 1, one.sealed):
            del out[lease]


async def _clear(redis: Any, instance: str, out: dict[str, _Out]) -> None:
    for one in out.values():
        await redis.lrem(ORDERS, 1, one.sealed)
    await redis.delete(going_on(instance), found_in(instance))
