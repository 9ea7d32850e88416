"""A sweep's engine: many addresses at once, gently, and stoppable between any two of them."""

import asyncio
import resource
from collections.abc import AsyncIterator, Awaitable, Callable, Iterable
from dataclasses import dataclass, field
from typing import TypeVar

from tarn.collect.hints import Hints
from tarn.collect.look import LookSettings, begin, go_on
from tarn.collect.looked import Look
from tarn.core.ranges import AddressRange

_T = TypeVar("_T")
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
    settings: LookSettings,
    *,
    at_once: int,
    pace: Callable[[str], Pace | None] = lambda a: None,
    halt: Halt | None = None,
    stage: Callable[[str, int], None] = lambda a, n: None,
    hints: Hints | None = None,
) -> AsyncIterator[Look]:
    """Look at addresses in stages, `at_once` in flight, and yield each as it is done.

    The first stage goes over all addresses; network gear comes out of it done, and what it told of others (ARP and
    forwarding tables) is at hand when the rest is gone on with: virtual hosts first, then computers and devices,
    then what did not answer. `halt.wished` stops the start of further addresses; those in flight still come, and
    those between two stages are left as they were, to be looked at anew.
    """
    raise_socket_limit()
    halt, hints = halt or Halt(), hints or Hints()
    later: list[Look] = []

    async def first(address: str) -> Look:
        found = await begin(address, settings, lambda n: stage(address, n))
        if found.outcome == "waiting" and found.is_network_gear:
            found = await go_on(found, settings, hints, lambda n: stage(address, n))
        return found

    async def second(found: Look) -> Look:
        return await go_on(found, settings, hints, lambda n: stage(found.address, n))

    async for found in _in_flight(addresses, first, lambda a: a, at_once, pace, halt):
        hints.learn(found.taken_for or found.address, found.readings)
        if found.outcome == "waiting":
            stage(found.address, 2)
            later.append(found)
        else:
            yield found
    later.sort(key=lambda f: (not f.is_virtual_host, not f.answers))
    # What does not answer is only concluded: nothing is sent, so it waits for no gate.
    async for found in _in_flight(later, second, lambda f: f.address if f.answers else "", at_once, pace, halt):
        yield found


async def _in_flight(
    things: Iterable[_T],
    work: Callable[[_T], Awaitable[Look]],
    address: Callable[[_T], str],
    at_once: int,
    pace: Callable[[str], Pace | None],
    halt: Halt,
) -> AsyncIterator[Look]:
    """Work on things, so many in flight, each at its network's pace; yield in order of completion."""
    waiting = iter(things)
    running: set[asyncio.Task[Look]] = set()

    async def one(thing: _T) -> Look:
        there = address(thing)
        kept = pace(there) if there else None
        if kept is None:
            return await work(thing)
        async with kept.gate:
            if kept.pause:
                await asyncio.sleep(kept.pause)
            return await work(thing)

    try:
        while True:
            while len(running) < at_once and not halt.wished:
                try:
                    thing = next(waiting)
                except StopIteration:
                    break
                running.add(asyncio.create_task(one(thing)))
            if not running:
                return
            done, running = await asyncio.wait(running, return_when=asyncio.FIRST_COMPLETED)
            for task in done:
                yield task.result()
    finally:
        for task in running:
            task.cancel()
