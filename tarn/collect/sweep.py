"""A sweep's engine: many addresses at once, gently, and stoppable between any two of them."""

import asyncio
import resource
from collections.abc import AsyncIterator, Callable, Iterable
from dataclasses import dataclass, field

from tarn.collect.look import Look, Manner, look
from tarn.core.ranges import AddressRange

MOST_SOCKETS = 16_384


@dataclass(slots=True)
class Pace:
    """How gently one network is probed: devices in flight at once, and a pause before each (seconds)."""

    ranges: tuple[AddressRange, ...]
    at_once: int
    pause: float = 0.0
    _gate: asyncio.Semaphore | None = field(default=None, repr=False)

    @property
    def gate(self) -> asyncio.Semaphore:
        """The gate that lets so many through, made within the loop that uses it."""
        if self._gate is None:
            self._gate = asyncio.Semaphore(self.at_once)
        return self._gate


class Halt:
    """The wish to stop: asked before each address; what is in flight is finished."""

    def __init__(self) -> None:
        self.wished = False


def raise_socket_limit() -> None:
    """Let this process hold as many sockets as the system allows, up to MOST_SOCKETS."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = MOST_SOCKETS if hard == resource.RLIM_INFINITY else min(MOST_SOCKETS, hard)
    if soft < most:
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))


async def sweep(
    addresses: Iterable[str],
    manner: Manner,
    *,
    at_once: int,
    pace: Callable[[str], Pace | None] = lambda a: None,
    halt: Halt | None = None,
    stage: Callable[[str, int], None] = lambda a, n: None,
) -> AsyncIterator[Look]:
    """Look at addresses, `at_once` in flight, and yield each as it is done, in order of completion.

    `halt.wished` stops the start of further addresses; those in flight still come.
    """
    raise_socket_limit()
    halt = halt or Halt()
    waiting = iter(addresses)
    running: set[asyncio.Task[Look]] = set()

    async def one(address: str) -> Look:
        kept = pace(address)
        if kept is None:
            return await look(address, manner, lambda n: stage(address, n))
        async with kept.gate:
            if kept.pause:
                await asyncio.sleep(kept.pause)
            return await look(address, manner, lambda n: stage(address, n))

    try:
        while True:
            while len(running) < at_once and not halt.wished:
                address = next(waiting, None)
                if address is None:
                    break
                running.add(asyncio.create_task(one(address)))
            if not running:
                return
            done, running = await asyncio.wait(running, return_when=asyncio.FIRST_COMPLETED)
            for task in done:
                yield task.result()
    finally:
        for task in running:
            task.cancel()
