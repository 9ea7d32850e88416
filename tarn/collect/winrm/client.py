"""WinRM to Windows computers: one session, one script, all its output; each way it can fail is told apart.

WS-Management (DMTF DSP0226) with the remote shell of MS-WSMV. A script goes to PowerShell's standard
input, so that its length is not bound by a command line; what it prints comes back as UTF-8. A script costs
six calls (create, command, send, receive, signal, delete) beside the sign-in's own two.
"""

import asyncio
import contextlib
import re
import types
import xml.etree.ElementTree as ET
from collections.abc import AsyncIterator, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Protocol

import pypsrp.wsman
import requests
import urllib3.connection
import urllib3.connectionpool
from pypsrp.exceptions import AuthenticationError, WinRMError, WinRMTransportError, WSManFaultError
from pypsrp.shell import Process, SignalCode, WinRS
from pypsrp.wsman import WSMan

from tarn.collect.credentials import WinrmCredential, exposed, keep_to_reach
from tarn.collect.presented import Expected, Presented
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.tls import read_certificate
from tarn.core.items import Certificate

ACCESS_DENIED = 5
UTF8 = 65_001
_POWERSHELL = ["-NoProfile", "-NonInteractive", "-Command", "-"]
_threads = ThreadPoolExecutor(64, thread_name_prefix="winrm")
"""The client library is synchronous: each session has a thread of its own."""


def _register_once(prefix: str, uri: str) -> None:
    if ET._namespace_map.get(uri) != prefix:  # type: ignore[attr-defined]
        ET.register_namespace(prefix, uri)


# Every new session of the library registers its XML prefixes anew, and to do so takes each out for a moment:
# a message another thread writes just then would bear made-up prefixes, "xml" among them, and be refused.
pypsrp.wsman.ET = types.SimpleNamespace(**{**vars(ET), "register_namespace": _register_once})  # type: ignore[attr-defined, assignment]
for _prefix, _uri in pypsrp.wsman.NAMESPACES.items():
    _register_once(_prefix, _uri)


@contextlib.contextmanager
def _told(credential: WinrmCredential, section: str) -> Iterator[None]:
    """Turn what the library raises into problems in words."""
    protocol = "Remote management (WinRM)"
    try:
        yield
    except AuthenticationError:
        raise Problem("sign-in-refused", protocol=protocol, credential=credential.name) from None
    except WSManFaultError as error:
        if error.code == ACCESS_DENIED:
            raise Problem("not-permitted", section=section, detail="access is denied to this account") from None
        detail = str(error.reason or error.code or error)
        raise Problem("failed", section=section, detail=detail[:200]) from None
    except WinRMTransportError as error:
        if error.code == 401:
            raise Problem("sign-in-refused", protocol=protocol, credential=credential.name) from None
        raise Problem("nonsense", protocol=protocol, detail=f"HTTP status {error.code}") from None
    except requests.exceptions.SSLError as error:
        match = re.search(r"certificate verify failed: ([^(]+)", str(error))
        raise Problem("untrusted", protocol=protocol, detail=match[1].strip() if match else error) from None
    except (requests.exceptions.ConnectTimeout, requests.exceptions.ReadTimeout):
        raise Problem("timed-out", protocol=protocol, seconds=round(credential.timeout), section=section) from None
    except requests.exceptions.ConnectionError as error:
        if "refused" in str(error).lower():
            raise Problem("refused", protocol=protocol, port=credential.port) from None
        raise Problem("cut-off", protocol=protocol, section=section) from None
    except (WinRMError, requests.exceptions.RequestException, ValueError, SyntaxError) as error:
        raise Problem("nonsense", protocol=protocol, detail=str(error)[:200]) from None


class Remote(Protocol):
    """What the readers of Windows need: run a script for a section, get what it printed. Raises Problem."""

    async def run(self, script: str, section: str) -> str:
        """Run a script and return what it printed."""
        ...


def _judged_by(presented: Presented) -> type[urllib3.HTTPSConnectionPool]:
    """Return connections that have what a server presents judged before the first octet of a request is sent."""

    class Judged(urllib3.connection.HTTPSConnection):
        def connect(self) -> None:
            super().connect()
            presented.judge(self.sock.getpeercert(True))  # type: ignore[union-attr]

    class Pool(urllib3.connectionpool.HTTPSConnectionPool):
        ConnectionCls = Judged

    return Pool


class Session:
    """An open remote shell on one computer."""

    def __init__(self, shell: WinRS, credential: WinrmCredential, presented: Presented | None) -> None:
        self._shell, self._credential = shell, credential
        der = presented.der if presented is not None else b""
        self.certificate: Certificate | None = read_certificate(der, credential.port) if der else None
        """What the sign-in was sent to, where that was for us to judge."""

    async def run(self, script: str, section: str) -> str:
        """Run a script and return what it printed. Raises Problem."""
        return await asyncio.get_running_loop().run_in_executor(_threads, self._run, script, section)

    def _run(self, script: str, section: str) -> str:
        with _told(self._credential, section):
            process = Process(self._shell, "powershell.exe", _POWERSHELL)
            process.begin_invoke()
            process.send(script.encode() + b"\r\n", end=True)
            process.end_invoke()
            process.signal(SignalCode.CTRL_C)
        if process.rc and not process.stdout:
            detail = process.stderr.decode(errors="replace").strip()[:200] or f"PowerShell ended with {process.rc}"
            raise Problem("not-permitted", section=section, detail=detail)
        return str(process.stdout.decode(errors="replace"))


def _presented(credential: WinrmCredential, expected: Expected) -> Presented | None:
    """Return who judges the server, or None: of one that an authority vouches for, that presents nothing, or that
    learns nothing of the password (a ticket, RFC 4120), nothing is judged here."""
    if credential.plain or credential.verify or not exposed(credential):
        return None
    return Presented(expected, credential.port, credential.name)


def _open(route: Route, address: str, credential: WinrmCredential, presented: Presented | None) -> tuple[WSMan, WinRS]:
    host, port = route.dial(address, credential.port)
    seconds = max(1, round(credential.timeout))
    with _told(credential, "the session"):
        wsman = WSMan(
            host,
            port=port,
            username=credential.user,
            password=credential.password,
            ssl=not credential.plain,
            auth=credential.manner,
            cert_validation=credential.verify,
            # Basic over plain HTTP has nothing to encrypt with; everything else encrypts what it sends.
            encryption="never" if credential.plain and credential.manner == "basic" else "auto",
            connection_timeout=seconds,
            read_timeout=seconds + 2,
            operation_timeout=seconds,
            no_proxy=True,
        )
        if presented is not None:
            session = wsman.transport.session = wsman.transport._build_session()
            pools = session.get_adapter(wsman.transport.endpoint).poolmanager  # type: ignore[attr-defined]
            pools.pool_classes_by_scheme = {**pools.pool_classes_by_scheme, "https": _judged_by(presented)}
        try:
            shell = WinRS(wsman, codepage=UTF8, no_profile=True)
            shell.open()
        except BaseException:
            wsman.close()
            raise
        return wsman, shell


def _close(wsman: WSMan, shell: WinRS) -> None:
    # What was read stays read, whether or not the computer hears our goodbye.
    with contextlib.suppress(WinRMError, requests.exceptions.RequestException):
        shell.close()
    wsman.close()


@contextlib.asynccontextmanager
async def winrm(route: Route, address: str, credential: WinrmCredential, expected: Expected) -> AsyncIterator[Session]:
    """Open a session. Raises Problem: refused, timed out, bad sign-in, nonsense, or a certificate that is not trusted.

    Unless an authority vouches for it, a password or what can be made of one goes only to a server that presents a key
    that is `expected` of it.
    """
    keep_to_reach(credential, address)
    loop = asyncio.get_running_loop()
    presented = _presented(credential, expected)
    wsman, shell = await loop.run_in_executor(_threads, _open, route, address, credential, presented)
    try:
        yield Session(shell, credential, presented)
    finally:
        await loop.run_in_executor(_threads, _close, wsman, shell)
