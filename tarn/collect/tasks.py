"""Carrying out an order on one device: by its shell, by its remote management, or by a packet that wakes it."""

import asyncio
import json
import shlex
import socket
from dataclasses import dataclass

from tarn.collect.credentials import SshCredential, WinrmCredential
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.ssh.client import Output, Shell, ssh
from tarn.collect.winrm.client import Remote, winrm
from tarn.core.tasks import WORKED, TaskOrder, magic_packet

WAKE_PORT = 9
MOST_SECONDS = 600
"""How long a task may take on one device."""
MOST_TOLD = 8_000
"""Characters kept of what a task printed."""


@dataclass(frozen=True, slots=True)
class Done:
    """How an order ended on a device: whether it worked, the exit code if there was one, and what was printed."""

    worked: bool
    code: int | None
    said: str
    cut: bool = False


async def carry_out(
    order: TaskOrder, route: Route, address: str, credential: SshCredential | WinrmCredential, expected: Expected
) -> Done:
    """Carry an order out over SSH or WinRM. Raises Problem: what stopped it before anything was run.

    A connection that goes while the order runs is told by `cut`: of a restart that is what one expects.
    """
    if isinstance(credential, SshCredential):
        async with ssh(route, address, credential, expected) as opened:
            return await _by_shell(order, opened.shell)
    async with winrm(route, address, credential, expected) as session:
        return await _by_powershell(order, session)


async def _by_shell(order: TaskOrder, shell: Shell) -> Done:
    if order.stdin:
        return _ended(await shell.run(f"sudo -n sh -c {shlex.quote(order.stdin)}", "the script", MOST_SECONDS))
    for program, line in order.lines:
        if program and (await shell.run(f"command -v {program}", "what it has")).code != 0:
            continue
        return _ended(await shell.run(line, "the task", MOST_SECONDS))
    wanted = " nor ".join(program for program, _ in order.lines)
    return Done(False, None, f"Neither {wanted} is there.")


def _ended(output: Output) -> Done:
    said = (output.out + output.err).strip()[-MOST_TOLD:]
    if output.cut is not None:
        return Done(False, None, f"{said}\n{output.cut.says}".strip(), cut=True)
    return Done(output.code in WORKED, output.code, said)


def powershell(line: str, seconds: float) -> str:
    """Return the script that runs a command line, waits so long for it, and prints how it ended as JSON."""
    quoted = '/s /c "' + line.replace("'", "''") + '"'
    return (
        "$ErrorActionPreference='Stop'\r\n"
        f"$p=Start-Process cmd.exe -ArgumentList '{quoted}' -PassThru -WindowStyle Hidden\r\n"
        f"if($p.WaitForExit({int(seconds * 1000)})){{$o=@{{code=$p.ExitCode}}}}else{{$p.Kill();$o=@{{code=$null}}}}\r\n"
        "$o|ConvertTo-Json -Compress"
    )


async def _by_powershell(order: TaskOrder, session: Remote) -> Done:
    if order.stdin:
        said = await session.run(order.stdin + "\r\n", "the script")
        return Done(True, 0, said.strip()[-MOST_TOLD:])
    last = Done(False, None, "")
    for _, line in order.lines:
        said = await session.run(powershell(line, MOST_SECONDS), "the task")
        last = _answer(said)
        if not last.worked:
            break
    return last


def _answer(said: str) -> Done:
    try:
        code = json.loads(said)["code"]
    except (ValueError, KeyError, TypeError):
        raise Problem("nonsense", protocol="Remote management (WinRM)", detail=said[:200]) from None
    if code is None:
        return Done(False, None, "It did not end in time and was stopped; it may have asked a question on the screen.")
    return Done(code in WORKED, code, "")


async def wake(route: Route, broadcast: str, mac: str) -> Done:
    """Send the packet that wakes a device to its network's broadcast address. A reading will say whether it woke."""
    host, port = route.dial(broadcast, WAKE_PORT)
    loop = asyncio.get_running_loop()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        sender.setblocking(False)
        sender.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
        try:
            for _ in range(3):  # UDP promises nothing
                await loop.sock_sendto(sender, magic_packet(mac), (host, port))
        except OSError as error:
            raise Problem("unreachable", detail=error.strerror or error) from None
    return Done(True, None, "The packet was sent three times.")
