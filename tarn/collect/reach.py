"""Reachability: does anything answer at an address, and on which ports."""

import asyncio
import contextlib
import errno
import select
import socket
from dataclasses import dataclass, field

from icmplib import SocketPermissionError, async_ping

from tarn.collect.problems import Problem
from tarn.collect.routes import Route

PORTS = (21, 22, 23, 80, 135, 443, 445, 554, 631, 3389, 5060, 5985, 5986, 8443, 9100, 16509)
"""TCP ports tried by default: files and sign-in, web, management, printing, video, telephony, guests."""

GUESTS_PORT = 16509
"""Where virtual hosts with libvirt listen."""

TLS_PORTS = frozenset({443, 465, 563, 636, 853, 990, 993, 995, 5061, 5671, 6514, 8443, 8883})
"""Ports registered for services within TLS (IANA, Service Name and Transport Protocol Port Number Registry), and 8443.
Those that are not tried from outside are asked where the machine itself says that it listens."""


@dataclass(slots=True)
class Reached:
    """What an address answered: open TCP ports, whether it refused others, whether it answered a ping."""

    open: list[int] = field(default_factory=list)
    refused: bool = False
    pinged: bool = False

    @property
    def anything(self) -> bool:
        """Whether anything answered at all."""
        return bool(self.open) or self.refused or self.pinged


async def reach(route: Route, address: str, ports: tuple[int, ...], seconds: float) -> Reached:
    """Try an address. Raises Problem (unreachable) where the network has no way to it."""
    tries = [_connect(route, address, p, seconds) for p in ports]
    if route.pings:
        tries.append(_ping(address, seconds))
    answer = Reached()
    unreachable: str | None = None
    for port, result in zip((*ports, 0), await asyncio.gather(*tries), strict=False):
        if result == "open" and port:
            answer.open.append(port)
        elif result == "pinged":
            answer.pinged = True
        elif result == "refused" and route.refusals_tell:
            answer.refused = True
        elif result.startswith("unreachable"):
            unreachable = result.removeprefix("unreachable ")
    if unreachable and not answer.anything:
        raise Problem("unreachable", detail=unreachable)
    return answer


async def _connect(route: Route, address: str, port: int, seconds: float) -> str:
    host, number = route.dial(address, port)
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    loop = asyncio.get_running_loop()
    with socket.socket(family, socket.SOCK_STREAM) as sock:
        sock.setblocking(False)
        try:
            await asyncio.wait_for(loop.sock_connect(sock, (host, number)), seconds)
            return "open"
        except ConnectionRefusedError:
            return "refused"
        except TimeoutError:
            return _late(sock)
        except OSError as error:
            if error.errno in (errno.ENETUNREACH, errno.EHOSTUNREACH, errno.EACCES):
                return f"unreachable {error.strerror}"
            return "silent"


def _late(sock: socket.socket) -> str:
    """Say how a connection stands whose time is up: the system may have finished it while we were busy."""
    waiting = select.poll()
    waiting.register(sock, select.POLLOUT)
    if not waiting.poll(0):
        return "silent"
    error = sock.getsockopt(socket.SOL_SOCKET, socket.SO_ERROR)
    return "open" if error == 0 else "refused" if error == errno.ECONNREFUSED else "silent"


async def _ping(address: str, seconds: float) -> str:
    with contextlib.suppress(SocketPermissionError, OSError):
        host = await async_ping(address, count=1, timeout=seconds, privileged=False)
        return "pinged" if host.is_alive else "silent"
    return "silent"
