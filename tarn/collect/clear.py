"""What goes over a device's ports in clear that should not: old sign-ins, SNMP without privacy, web sign-ins.

By port number (IANA) for what has no encrypted form there; by asking for a page where one is served (RFC 9110).
"""

import asyncio
import contextlib
import re

from tarn.collect.credentials import SnmpCredential
from tarn.collect.routes import Route

BY_PORT = {21: "FTP", 23: "telnet"}
"""Protocols whose sign-in is in clear, by the port that is theirs."""
WEB_PORTS = (80, 8080)
"""Ports at which pages may be served in clear."""
_MOST = 65_536
_PASSWORD = re.compile(rb"<input\b[^>]*\btype\s*=\s*[\"']?password", re.IGNORECASE)
_CHALLENGE = re.compile(rb"^www-authenticate:\s*(basic|digest)\b", re.IGNORECASE | re.MULTILINE)


def of_snmp(credential: SnmpCredential) -> str:
    """Return what goes in clear where a device is read so, or "": only SNMPv3 with privacy hides it (RFC 3414)."""
    if credential.version == "v3":
        return "" if credential.privacy_secret else "SNMPv3 without privacy"
    return f"SNMP {credential.version}"


async def web_sign_in(route: Route, address: str, port: int, seconds: float) -> str:
    """Return how a page served in clear has people sign in, or "" where it does not or there is none."""
    host, number = route.dial(address, port)
    try:
        reader, writer = await asyncio.wait_for(asyncio.open_connection(host, number), seconds)
    except (OSError, TimeoutError):
        return ""
    said = b""
    try:
        name = f"[{address}]" if ":" in address else address
        writer.write(f"GET / HTTP/1.1\r\nHost: {name}\r\nConnection: close\r\nAccept: text/html\r\n\r\n".encode())
        async with asyncio.timeout(seconds):
            while len(said) < _MOST and (piece := await reader.read(8192)):
                said += piece
    except (OSError, TimeoutError):
        pass  # what came until then is looked at
    finally:
        writer.close()
        with contextlib.suppress(OSError, TimeoutError):
            await asyncio.wait_for(writer.wait_closed(), 1)
    return asks_in_clear(said)


def asks_in_clear(answer: bytes) -> str:
    """Return how an HTTP answer asks for a password, or "" where it does not."""
    head, _, body = answer.partition(b"\r\n\r\n")
    if not head.startswith(b"HTTP/"):
        return ""
    if head.split(b" ", 2)[1:2] == [b"401"] and (found := _CHALLENGE.search(head)):
        return f"HTTP sign-in ({found[1].decode().title()})"
    return "HTTP sign-in (a form)" if _PASSWORD.search(body) else ""
