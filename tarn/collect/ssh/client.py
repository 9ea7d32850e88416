"""SSH to computers: one connection, several commands; each way it can fail is told apart."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import Any, Protocol

import asyncssh

from tarn.collect.credentials import SshCredential
from tarn.collect.problems import Problem
from tarn.collect.routes import Route

MOST_OUTPUT = 32 * 1024 * 1024
"""Characters of output taken from one command."""


@dataclass(frozen=True, slots=True)
class Output:
    """What a command printed; `cut` where the connection ended or time ran out before it did."""

    out: str
    err: str
    code: int | None
    cut: Problem | None = None


class Shell(Protocol):
    """What the readers of Linux need: run a line, get its output."""

    async def run(self, line: str, section: str, seconds: float = 0) -> Output:
        """Run a line for a section of the inventory, for so long at most (0: three times the credential's time-out).

        What came before a cut is kept in the output.
        """
        ...


class _Connection:
    def __init__(self, connection: asyncssh.SSHClientConnection, credential: SshCredential) -> None:
        self._connection, self._credential = connection, credential

    async def run(self, line: str, section: str, seconds: float = 0) -> Output:
        out: list[str] = []
        err: list[str] = []
        seconds = seconds or self._credential.timeout * 3
        try:
            async with asyncio.timeout(seconds):
                process = await self._connection.create_process(line, errors="replace", stdin=asyncssh.DEVNULL)
                async with process:
                    await asyncio.gather(_drain(process.stdout, out), _drain(process.stderr, err))
                    await process.wait_closed()
                    code = process.exit_status
        except TimeoutError:
            cut = Problem("timed-out", protocol="SSH", seconds=round(seconds), section=section)
            return Output("".join(out), "".join(err), None, cut)
        except (asyncssh.Error, OSError):
            return Output("".join(out), "".join(err), None, Problem("cut-off", protocol="SSH", section=section))
        if code is None:
            return Output("".join(out), "".join(err), None, Problem("cut-off", protocol="SSH", section=section))
        return Output("".join(out), "".join(err), code)


async def _drain(stream: "asyncssh.SSHReader[str]", into: list[str]) -> None:
    size = 0
    while piece := await stream.read(65_536):
        size += len(piece)
        if size > MOST_OUTPUT:
            raise asyncssh.misc.ConnectionLost("more output than any command should have")
        into.append(piece)


class _Client(asyncssh.SSHClient):
    """Notes what the server says of a password beside refusing it."""

    expired = False

    def password_change_requested(self, prompt: str, lang: str) -> Any:
        """The server asks for a new password (RFC 4252, section 8): ours has expired. It is not ours to choose."""
        self.expired = True
        return NotImplemented  # asyncssh's word for declining


@dataclass(frozen=True, slots=True)
class Opened:
    """An open connection and the fingerprint of the host key it was met with."""

    shell: Shell
    fingerprint: str


@asynccontextmanager
async def ssh(route: Route, address: str, credential: SshCredential) -> AsyncIterator[Opened]:
    """Open a connection. Raises Problem: refused, timed out, bad sign-in, cut off or nonsense."""
    host, port = route.dial(address, credential.port)
    keys = []
    if credential.key:
        try:
            keys = [asyncssh.import_private_key(credential.key, credential.passphrase or None)]
        except (asyncssh.KeyImportError, asyncssh.KeyEncryptionError) as error:
            raise Problem("failed", section="the credential's key", detail=error) from None
    seen = _Client()
    try:
        async with asyncio.timeout(credential.timeout):
            connection = await asyncssh.connect(
                host,
                port,
                username=credential.user,
                password=credential.password or None,
                client_keys=keys or None,
                known_hosts=None,
                client_factory=lambda: seen,
                config=[],
                agent_path=None,
                preferred_auth="publickey,password,keyboard-interactive",
                login_timeout=credential.timeout,
            )
    except TimeoutError:
        raise Problem("timed-out", protocol="SSH", seconds=round(credential.timeout), section="the greeting") from None
    except asyncssh.PermissionDenied:
        code = "password-expired" if seen.expired else "sign-in-refused"
        raise Problem(code, protocol="SSH", credential=credential.name) from None
    except ConnectionRefusedError:
        raise Problem("refused", protocol="SSH", port=credential.port) from None
    except (asyncssh.ProtocolError, UnicodeDecodeError) as error:
        raise Problem("nonsense", protocol="SSH", detail=error) from None
    except (asyncssh.ConnectionLost, ConnectionResetError, BrokenPipeError):
        raise Problem("no-greeting", protocol="SSH", port=credential.port) from None
    except asyncssh.DisconnectError as error:
        raise Problem("nonsense", protocol="SSH", detail=error.reason) from None
    except OSError as error:
        raise Problem("unreachable", detail=error.strerror or error) from None
    async with connection:
        key = connection.get_server_host_key()
        fingerprint = key.get_fingerprint("sha256") if key is not None else ""
        yield Opened(_Connection(connection, credential), fingerprint)
