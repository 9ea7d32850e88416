"""Serving the lab: every device's listeners in one asyncio process, on loopback.

The address 10.60.a.b answers at 127.60.a.b, each port raised by OFFSET; aboard a vessel, whose networks
nothing ashore has a way to, at 127.N.a.b with a number N of the vessel's own.
"""

import asyncio
import contextlib
import datetime as dt
import json
import logging
import os
import resource
import ssl
import tempfile
import threading
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import asyncssh
from aiohttp import web

from tarn.lab import cloud, mirror, people, services, systems
from tarn.lab.acting import HAND, Ledger, change
from tarn.lab.dns import NameServer, hand_over, zone
from tarn.lab.keys import certificate_pem, host_key
from tarn.lab.ldap import DirectoryServer
from tarn.lab.leases import leases
from tarn.lab.mailbox import serve_mailbox
from tarn.lab.mib import mib
from tarn.lab.model import Device
from tarn.lab.openid import serve_openid
from tarn.lab.pages import page
from tarn.lab.scenario import (
    ASLEEP,
    HAND_PASSWORD,
    NAME_SERVER,
    SNMP_AUTH,
    SNMP_COMMUNITY,
    SNMP_PRIVACY,
    SNMP_USER,
    SSH_PASSWORD,
    SSH_RENEWED,
    SSH_USER,
    VESSEL_NETS,
    WINRM_ACCOUNTS,
)
from tarn.lab.shell import run
from tarn.lab.snmp import Agent
from tarn.lab.timeline import TODAY, World, truth
from tarn.lab.winrm import Computer, write_accounts

OFFSET = int(os.environ.get("TARN_LAB_OFFSET", "20000"))
log = logging.getLogger("tarn.lab")


def dialled(address: str, port: int) -> tuple[str, int]:
    """Return where an address and port of the lab are served."""
    _, _, net, host = address.split(".")
    return f"127.{aboard(int(net))}.{net}.{host}", port + OFFSET


def aboard(net: int) -> int:
    """Return the second number of the loopback addresses of a network: 60 ashore, a number a vessel aboard."""
    return 100 + net // 2 * 2 if net in VESSEL_NETS else 60


class Lab:
    """The running lab. `moment` is the time its devices believed it was when it began; `changes` where what is done
    to them is kept; those `asleep` answer only once they were woken."""

    def __init__(
        self,
        day: int,
        moment: dt.datetime | None = None,
        changes: Path | None = None,
        asleep: tuple[str, ...] = (),
    ) -> None:
        self.day, self.asleep, self.ledger, self._began = day, asleep, Ledger(changes), time.monotonic()
        self.moment = moment or dt.datetime.now(dt.UTC)
        self._closers: list[asyncio.AbstractServer | asyncio.BaseTransport | asyncssh.SSHAcceptor] = []
        self._runners: list[web.AppRunner] = []
        self.waking: list[asyncio.Task[None]] = []
        self._folder = tempfile.TemporaryDirectory(prefix="lab-")

    async def start(self, only: set[str] | None = None) -> int:
        """Start all listeners (or those of the devices named); return how many devices answer."""
        soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
        wanted = hard if hard != resource.RLIM_INFINITY else 65_536
        resource.setrlimit(resource.RLIMIT_NOFILE, (max(soft, min(8192, wanted)), hard))
        devices = [d for d in World().on(self.day) if only is None or d.name in only]
        accounts = Path(self._folder.name) / "accounts"
        hands = {f"{who.partition(chr(92))[0]}\\{HAND}": HAND_PASSWORD for who in WINRM_ACCOUNTS}
        self._accounts = {**WINRM_ACCOUNTS, **hands}
        write_accounts(accounts, self._accounts)
        os.environ["NTLM_USER_FILE"] = str(accounts)  # where the NTLM acceptor looks accounts up
        for device in devices:
            self.ledger.apply(device)
            if device.name in self.asleep and not any(verb == "woken" for verb, _, _ in device.changes):
                await self._sleeps(device)
            else:
                await self._device(device)
        await self._names(World().on(self.day))  # it names what is switched off as well
        if only is None or "systems" in only:
            await self._systems()
        return len(devices)

    def now(self) -> dt.datetime:
        """Return the time the devices believe it is."""
        return self.moment + dt.timedelta(seconds=int(time.monotonic() - self._began))

    async def _sleeps(self, device: Device) -> None:
        """Have a device answer nothing but a packet that wakes it, sent to its network's broadcast address."""
        host, port = dialled(device.address.rpartition(".")[0] + ".255", 9)
        wanted = bytes.fromhex(device.interfaces[0].mac.replace(":", "")) * 16
        loop, lab = asyncio.get_running_loop(), self

        class Adapter(asyncio.DatagramProtocol):
            def datagram_received(self, data: bytes, addr: object) -> None:
                if data == b"\xff" * 6 + wanted and not any(verb == "woken" for verb, _, _ in device.changes):
                    change(device, "woken", "", lab.now())
                    lab.ledger.keep(device)
                    lab.waking.append(loop.create_task(lab._device(device)))

        transport, _ = await loop.create_datagram_endpoint(Adapter, local_addr=(host, port))
        self._closers.append(transport)

    async def stop(self) -> None:
        """Close every listener."""
        for closer in self._closers:
            closer.close()
        for runner in self._runners:
            await runner.cleanup()
        self._folder.cleanup()

    async def serve_http(self, app: web.Application, address: str, port: int, context: ssl.SSLContext | None) -> None:
        """Serve a web application at an address of the lab."""
        runner = web.AppRunner(app, access_log=None)
        await runner.setup()
        self._runners.append(runner)
        host, number = dialled(address, port)
        await web.TCPSite(runner, host, number, ssl_context=context).start()

    async def _systems(self) -> None:
        """Serve the other systems: directory, device and endpoint management, personnel, a cloud account, warranties, tickets."""
        known = World().on(self.day)
        directory = DirectoryServer(
            systems.BASE, systems.directory_entries(known, self.moment), {systems.BIND.lower(): systems.BIND_PASSWORD}
        )
        for port, context in ((389, None), (636, self._self_signed("directory"))):
            host, number = dialled(systems.DIRECTORY, port)
            self._closers.append(await asyncio.start_server(directory.serve, host, number, ssl=context))
        managed = systems.device_management(systems.managed_devices(known, self.moment))
        await self.serve_http(managed, systems.DEVICES, 443, self._self_signed("devices"))
        endpoints = systems.endpoint_management(systems.endpoints(known, self.moment))
        await self.serve_http(endpoints, systems.ENDPOINTS, 8080, None)
        await self.serve_http(people.personnel(), people.ADDRESS, 443, self._self_signed("people"))
        await self.serve_http(cloud.cloud(self.moment), cloud.ADDRESS, 443, self._self_signed("cloud"))
        care = services.warranty_service(services.warranties(known, self.moment))
        await self.serve_http(care, services.WARRANTIES, 443, self._self_signed("care"))
        desk = services.service_desk(services.tickets(known, self.moment))
        await self.serve_http(desk, services.DESK, 8080, None)
        await self.serve_http(mirror.mirror(self.day, self.moment), mirror.ADDRESS, mirror.PORT, None)

    def _self_signed(self, name: str) -> ssl.SSLContext:
        path = Path(self._folder.name) / f"{name}.pem"
        subject = f"{name}.skerrivane.example"
        path.write_bytes(certificate_pem(subject, self.moment - dt.timedelta(9), self.moment + dt.timedelta(300)))
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(path)
        return context

    async def _names(self, devices: list[Device]) -> None:
        """Serve the company's names and addresses by DNS."""
        loop = asyncio.get_running_loop()
        known = zone(devices)
        host, port = dialled(NAME_SERVER, 53)
        for number in {60, *map(aboard, VESSEL_NETS)}:  # a vessel in port reaches the name server ashore
            there = f"127.{number}." + host.split(".", 2)[2]
            transport, _ = await loop.create_datagram_endpoint(lambda: NameServer(known), local_addr=(there, port))
            self._closers.append(transport)
            self._closers.append(await asyncio.start_server(partial(hand_over, known), there, port))

    async def _device(self, device: Device) -> None:
        loop = asyncio.get_running_loop()
        if device.snmp:
            agent = Agent(
                lambda d=device: mib(d),  # type: ignore[misc]
                version=device.snmp,
                community=SNMP_COMMUNITY,
                user=SNMP_USER,
                auth=SNMP_AUTH,
                privacy=SNMP_PRIVACY,
                engine=b"\x80\x00\x1f\x88\x04" + device.identity.encode()[:20],
                looping=device.fault == "loop",
            )
            transport, _ = await loop.create_datagram_endpoint(
                lambda a=agent: a,
                local_addr=dialled(device.address, 161),  # type: ignore[misc]
            )
            self._closers.append(transport)
        if device.ssh:
            for address in (device.address, *device.shared):
                await self._ssh(device, address)
        if device.winrm:
            await self._winrm(device)
        for port in device.open_ports:
            context = self._tls(device, port) if port in device.certificates else None
            host, number = dialled(device.address, port)
            handler = _web(device) if port in (80, 443, 8443, 631) else _silent
            self._closers.append(await asyncio.start_server(handler, host, number, ssl=context))

    def _tls(self, device: Device, port: int) -> ssl.SSLContext:
        path = Path(self._folder.name) / f"{device.name}-{port}.pem"
        wanted = device.presented()[port]
        start = self.moment - dt.timedelta(days=self.day)
        path.write_bytes(
            certificate_pem(
                wanted.subject,
                start + dt.timedelta(days=wanted.begins),
                start + dt.timedelta(days=wanted.ends),
                weak=wanted.weak,
                issued=wanted.issued,
            )
        )
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        if wanted.weak:
            context.set_ciphers("ALL:@SECLEVEL=0")
        context.load_cert_chain(path)
        return context

    async def _winrm(self, device: Device) -> None:
        if device.fault == "nonsense":
            host, port = dialled(device.address, 5986)
            self._closers.append(await asyncio.start_server(_nonsense, host, port))
            return
        accounts = self._accounts if device.winrm == "yes" else {}
        computer = Computer(device, accounts, self.now, self.ledger)
        await self.serve_http(computer.app(), device.address, 5986, self._tls(device, 5986))
        await self.serve_http(computer.app(), device.address, 5985, None)

    async def _ssh(self, device: Device, address: str) -> None:
        host, port = dialled(address, 22)
        if device.fault == "stall":
            self._closers.append(await asyncio.start_server(_stall, host, port))
            return
        if device.fault == "nonsense":
            self._closers.append(await asyncio.start_server(_nonsense, host, port))
            return
        password = {"refuse": SSH_PASSWORD + "-old", "expired": SSH_RENEWED}.get(device.ssh, SSH_PASSWORD)

        class Server(asyncssh.SSHServer):
            def begin_auth(self, username: str) -> bool:
                return True

            def password_auth_supported(self) -> bool:
                return True

            def validate_password(self, username: str, given: str) -> bool:
                if device.ssh == "expired" and username == SSH_USER and given == SSH_PASSWORD:
                    raise asyncssh.PasswordChangeRequired("The password has expired.", "en")
                return (username, given) in ((SSH_USER, password), (HAND, HAND_PASSWORD))

        async def process(session: asyncssh.SSHServerProcess[str]) -> None:
            command = session.command or ""
            out, err, code = run(device, command, self.now(), session.get_extra_info("username"))
            self.ledger.keep(device)
            if device.fault == "cut" and "dpkg-query" in command:
                session.stdout.write(out[: len(out) // 2])
                with contextlib.suppress(Exception):
                    await session.stdout.drain()
                session.get_extra_info("connection").abort()
                return
            session.stdout.write(out)
            session.stderr.write(err)
            session.exit(code)

        self._closers.append(
            await asyncssh.listen(
                host,
                port,
                server_factory=Server,
                server_host_keys=[host_key(device.host_key)],
                process_factory=process,
                encoding="utf-8",
                reuse_address=True,
            )
        )


def _web(device: Device):  # type: ignore[no-untyped-def]
    async def handle(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError, TimeoutError):
            await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), 10)
            writer.write(page(device))
            await writer.drain()
        writer.close()

    return handle


async def _silent(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    with contextlib.suppress(ConnectionError, TimeoutError):
        await asyncio.wait_for(reader.read(1), 5)
    writer.close()


async def _stall(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    await asyncio.sleep(30)
    writer.close()


async def _nonsense(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    with contextlib.suppress(ConnectionError):
        writer.write(b"HTTP/1.1 400 Bad Request\r\nContent-Length: 0\r\n\r\n" + bytes(range(256)))
        await writer.drain()
    writer.close()


MAIL_PORT, SIGN_IN_PORT = OFFSET + 25, OFFSET + 26


async def serve(
    day: int = TODAY,
    truth_file: Path | None = None,
    lease_file: Path | None = None,
    mailbox: Path | None = None,
    changes: Path | None = None,
    ready: Path | None = None,
) -> None:
    """Run the lab until it is cancelled; `ready` is made once everything answers."""
    lab = Lab(day, changes=changes, asleep=ASLEEP)
    number = await lab.start()
    if truth_file:
        truth_file.write_text(json.dumps(truth(day), indent=1))
    if lease_file:
        lease_file.write_text(leases(World().on(day), lab.moment))
    post = await serve_mailbox(mailbox, "127.0.0.1", MAIL_PORT) if mailbox else None
    sign_in = await serve_openid("127.0.0.1", SIGN_IN_PORT)
    if ready:
        ready.touch()
    log.info("%d devices of day %d answer on loopback, ports raised by %d", number, day, OFFSET)
    try:
        await asyncio.Event().wait()
    finally:
        if post is not None:
            post.close()
        await sign_in.cleanup()
        await lab.stop()


@contextlib.contextmanager
def serving(names: set[str] | None = None, day: int = TODAY, asleep: tuple[str, ...] = ()) -> Iterator[Lab]:
    """Have devices of the lab answer (those named, or all) in a thread of their own while this lasts."""
    loop, lab = asyncio.new_event_loop(), Lab(day, asleep=asleep)
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    asyncio.run_coroutine_threadsafe(lab.start(names), loop).result(60)
    try:
        yield lab
    finally:
        asyncio.run_coroutine_threadsafe(lab.stop(), loop).result(30)
        loop.call_soon_threadsafe(loop.stop)
        thread.join(5)
