"""SSH to computers: one connection, several commands; each way it can fail is told apart."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import Any, Protocol

import asyncssh

from tarn.collect.credentials import SshCredential, keep_to_reach
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import Route

MOST_OUTPUT = 8 * 1024 * 1024
"""Characters of output taken from one line of commands."""


@dataclass(frozen=True, slots=True)
class Output:
    """What a command printed; `cut` where the connection ended or time ran out before it did."""

    out: str
    err: str
    code: int | None
    cut: Problem | None = None


class Shell(Protocol):
    """What the readers of Linux need: run a line, get its output."""

    async def run(self, line: str, section: str, seconds: float = 0, most: float = 0) -> Output:
        """Run a line for a section of the inventory, for `seconds` (0: three times the credential's time-out), and no
        longer than `most` (0: no further bound).

        What came before a cut is kept in the output.
        """
        ...


class _Connection:
    def __init__(self, connection: asyncssh.SSHClientConnection, credential: SshCredential) -> None:
        self._connection, self._credential = connection, credential

    async def run(self, line: str, section: str, seconds: float = 0, most: float = 0) -> Output:
        out: list[str] = []
        err: list[str] = []
        seconds = seconds or self._credential.timeout * 3
        seconds = min(seconds, most) if most else seconds
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
        except _TooMuchError:
            cut = Problem("too-much", size=MOST_OUTPUT >> 20, section=section)
            return Output("".join(out), "".join(err), None, cut)
        except (asyncssh.Error, OSError):
            return Output("".join(out), "".join(err), None, Problem("cut-off", protocol="SSH", section=section))
        if code is None:
            return Output("".join(out), "".join(err), None, Problem("cut-off", protocol="SSH", section=section))
        return Output("".join(out), "".join(err), code)


class _TooMuchError(Exception):
    """A command prints without end."""


async def _drain(stream: "asyncssh.SSHReader[str]", into: list[str]) -> None:
    size = 0
    while piece := await stream.read(65_536):
        size += len(piece)
        if size > MOST_OUTPUT:
            raise _TooMuchError
        into.append(piece)


class _Client(asyncssh.SSHClient):
    """Notes what the server says beside refusing a sign-in, and whether its host key is one that is expected."""

    expired = False
    banner = ""
    refused_key = ""
    greeted = False

    def __init__(self, expected: Expected | None) -> None:
        self._expected = expected

    def connection_made(self, conn: asyncssh.SSHClientConnection) -> None:
        """Note the connection, to know later how far it came."""
        self._connection = conn

    def validate_host_public_key(self, host: str, addr: str, port: int, key: asyncssh.SSHKey) -> bool:
        """Called with the key before anything of ours is sent (RFC 4253, section 8)."""
        self.greeted = True
        fingerprint = key.get_fingerprint("sha256")
        if self._expected is not None:
            may = self._expected.host_keys()
            if fingerprint not in may and (may or not self._expected.first_too):
                self.refused_key = fingerprint
        return not self.refused_key

    def auth_banner_received(self, msg: str, lang: str) -> None:
        """What the server says before it decides (RFC 4252, section 5.4)."""
        self.banner += msg

    def password_change_requested(self, prompt: str, lang: str) -> Any:
        """The server asks for a new password (RFC 4252, section 8): ours has expired. It is not ours to choose."""
        self.expired = True
        return NotImplemented  # asyncssh's word for declining


def _refusal(seen: _Client, credential: SshCredential, code: str, reason: str = "") -> Problem:
    """Return why a sign-in was refused, as far as the server says: pam_unix(8) and pam_nologin(8) tell in words."""
    said = " ".join(seen.banner.split()) or reason
    if seen.expired or ("password" in said.lower() and "expired" in said.lower()):
        code = "password-expired"
    elif "account" in said.lower() and "expired" in said.lower():
        code = "account-expired"
    detail = f": “{said[:160]}”" if said else ""
    return Problem(code, protocol="SSH", credential=credential.name, detail=detail)


def speechless(output: Output, credential: SshCredential) -> Problem | None:
    """Return why a session in which commands run told nothing, or None where they ran.

    OpenSSH lets an account with an expired password in and ends every command with what it says of it; an account
    whose shell is nologin(8) is told so.
    """
    if output.code == 0 or output.cut is not None:
        return None
    said = " ".join(f"{output.out} {output.err}".split())
    if "password" in said.lower() and ("expired" in said.lower() or "change required" in said.lower()):
        return Problem("password-expired", protocol="SSH", credential=credential.name)
    told = f"“{said[:160]}”" if said else f"they end with {output.code}"
    return Problem("no-shell", protocol="SSH", credential=credential.name, detail=told)


@dataclass(frozen=True, slots=True)
class Opened:
    """An open connection and the fingerprint of the host key it was met with."""

    shell: Shell
    fingerprint: str


@asynccontextmanager
async def ssh(route: Route, address: str, credential: SshCredential, expected: Expected) -> AsyncIterator[Opened]:
    """Open a connection. Raises Problem: refused, timed out, another host key, bad sign-in, cut off or nonsense.

    A password is never sent to a device with another key than is `expected` of it; a private key is not given away by
    using it (RFC 4252, section 7).
    """
    keep_to_reach(credential, address)
    host, port = route.dial(address, credential.port)
    keys = []
    if credential.key:
        try:
            keys = [asyncssh.import_private_key(credential.key, credential.passphrase or None)]
        except (asyncssh.KeyImportError, asyncssh.KeyEncryptionError) as error:
            raise Problem("failed", section="the credential's key", detail=error) from None
    seen = _Client(expected if credential.password else None)
    try:
        async with asyncio.timeout(credential.timeout):
            connection = await asyncssh.connect(
                host,
                port,
                username=credential.user,
                password=credential.password or None,
                client_keys=keys or None,
                known_hosts=([], [], []),
                client_factory=lambda: seen,
                config=[],
                agent_path=None,
                preferred_auth="publickey,password,keyboard-interactive",
                login_timeout=credential.timeout,
            )
    except TimeoutError:
        raise Problem("timed-out", protocol="SSH", seconds=round(credential.timeout), section="the greeting") from None
    except asyncssh.HostKeyNotVerifiable:
        code = "another-key" if expected.host_keys() else "first-key"
        raise Problem(code, key=seen.refused_key, credential=credential.name) from None
    except asyncssh.PermissionDenied:
        raise _refusal(seen, credential, "sign-in-refused") from None
    except ConnectionRefusedError:
        raise Problem("refused", protocol="SSH", port=credential.port) from None
    except (asyncssh.ProtocolError, UnicodeDecodeError) as error:
        raise Problem("nonsense", protocol="SSH", detail=error) from None
    except (asyncssh.ConnectionLost, ConnectionResetError, BrokenPipeError):
        if seen.greeted:
            raise _refusal(seen, credential, "turned-away") from None
        raise Problem("no-greeting", protocol="SSH", port=credential.port) from None
    except asyncssh.DisconnectError as error:
        if seen.greeted:
            raise _refusal(seen, credential, "turned-away", error.reason) from None
        raise Problem("nonsense", protocol="SSH", detail=error.reason) from None
    except OSError as error:
        raise Problem("unreachable", detail=error.strerror or error) from None
    async with connection:
        key = connection.get_server_host_key()
        fingerprint = key.get_fingerprint("sha256") if key is not None else ""
        yield Opened(_Connection(connection, credential), fingerprint)
