"""A looker: takes orders from Redis, looks, and hands back what it found; it needs no database and no files of Tarn."""

import asyncio
import contextlib
import logging
import time
from collections import deque
from typing import Any

from redis.exceptions import RedisError

from tarn.collect.guard import Guard
from tarn.collect.looks.speech import (
    ALIVE,
    CHECK,
    HELD,
    ORDERS,
    Seal,
    Unsealed,
    alive,
    found_in,
    going_on,
    held,
)
from tarn.collect.outpost.ordered import Work, look_at
from tarn.collect.routes import route_named

log = logging.getLogger("tarn.looks")
BEAT = 1.0
"""Seconds between two hand-ins of one order."""
LONGEST_WAIT = 30.0


class Looker:
    """One machine, or one process of it, that looks: `name` stands beside what it found."""

    def __init__(self, redis: Any, seal: Seal, name: str) -> None:
        self._redis, self._seal, self.name = redis, seal, name
        self._unsent: deque[tuple[str, bytes]] = deque()
        self._down = False

    async def serve(self) -> None:
        """Look until cancelled. Raises Unsealed where the key is not the run's."""
        async with asyncio.TaskGroup() as group:
            group.create_task(self._live())
            group.create_task(self._send())
            group.create_task(self._take())

    async def _live(self) -> None:
        while True:
            with contextlib.suppress(RedisError, OSError):
                await self._redis.set(alive(self.name), str(time.time()), ex=ALIVE)
            await asyncio.sleep(ALIVE / 4)

    async def _take(self) -> None:
        wait = 1.0
        while True:
            try:
                check = await self._redis.get(CHECK)
                if check is not None:
                    self._seal.open(check)
                taken = await self._redis.blpop([ORDERS], timeout=2)
            except (RedisError, OSError) as fault:
                self._note_down(fault)
                await asyncio.sleep(wait)
                wait = min(LONGEST_WAIT, wait * 1.6)
                continue
            wait = 1.0
            self._note_up()
            if taken is not None:
                await self._carry_out(taken[1])

    async def _carry_out(self, sealed: bytes) -> None:
        try:
            envelope = self._seal.open_order(sealed)
        except Unsealed as fault:
            log.error("an order was left: %s", fault)
            return
        with contextlib.suppress(RedisError, OSError):
            if not await self._redis.exists(going_on(envelope.instance)):
                return  # its run has ended, or goes on under another name
        order, instance = envelope.order, envelope.instance
        work, guard = Work(order), Guard(order.refused)
        beat = asyncio.create_task(self._beat(instance, work, guard))
        log.info("order of run %d (“%s”): %d addresses", order.run, order.sweep, len(order.addresses))
        try:
            async for found in look_at(order, route_named(envelope.route), guard, work.halt, work.note):
                work.found.append(found)
        finally:
            beat.cancel()
            self._put(instance, work, guard, done=True)

    async def _beat(self, instance: str, work: Work, guard: Guard) -> None:
        while True:
            with contextlib.suppress(RedisError, OSError):
                await self._redis.set(held(work.order.lease), self.name, ex=HELD)
                wish = await self._redis.get(going_on(instance))
                work.halt.wished = wish is None or wish == b"halt"
            await asyncio.sleep(BEAT)
            if work.found or work.stages:
                self._put(instance, work, guard, done=False)

    def _put(self, instance: str, work: Work, guard: Guard, *, done: bool) -> None:
        self._unsent.append((instance, self._seal.close_found(self.name, work.hand_in(guard, done=done))))

    async def _send(self) -> None:
        """Hand over in order what was found; while Redis is away it is kept here."""
        while True:
            if not self._unsent:
                await asyncio.sleep(0.05)
                continue
            instance, sealed = self._unsent[0]
            try:
                async with self._redis.pipeline(transaction=True) as pipe:
                    pipe.rpush(found_in(instance), sealed)
                    pipe.expire(found_in(instance), 3_600)
                    await pipe.execute()
            except (RedisError, OSError) as fault:
                self._note_down(fault)
                await asyncio.sleep(2)
                continue
            self._unsent.popleft()

    def _note_down(self, fault: Exception) -> None:
        if not self._down:
            log.warning("Redis does not answer (%s); what was found is kept here until it does", fault)
        self._down = True

    def _note_up(self) -> None:
        if self._down:
            log.info("Redis answers again; %d hand-ins were kept", len(self._unsent))
        self._down = False
