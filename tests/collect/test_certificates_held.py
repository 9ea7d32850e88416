"""Where a password goes over TLS: only to the key that is expected. The server here would take whatever it is told and
keeps every octet, so that nothing heard means that nothing was sent."""

import asyncio
import contextlib
import datetime as dt
import ssl

import pytest

from tarn.collect.credentials import LdapCredential, WinrmCredential
from tarn.collect.ldap.client import directory
from tarn.collect.look import LookSettings, look
from tarn.collect.presented import Expected, tls_key
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT, LAB
from tarn.collect.winrm.client import winrm
from tarn.lab.keys import certificate_pem, public_pin

OURS, OTHER = public_pin("ear.example"), public_pin("other.example")
PC = "10.60.5.121"


@pytest.fixture
async def ear(tmp_path):
    """Listen over TLS as ear.example; yields the port and what was heard."""
    now = dt.datetime.now(dt.UTC)
    (tmp_path / "ear.pem").write_bytes(certificate_pem("ear.example", now - dt.timedelta(1), now + dt.timedelta(9)))
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(tmp_path / "ear.pem")
    heard = bytearray()

    async def listen(reader, writer):
        with contextlib.suppress(OSError, ssl.SSLError):
            heard.extend(await reader.read(4_000))
        writer.close()

    server = await asyncio.start_server(listen, "127.0.0.1", 0, ssl=context)
    yield server.sockets[0].getsockname()[1], heard
    server.close()


def clients(port):
    """Return each way a password is sent over TLS."""
    secret = {"user": "harbour", "password": "low-water-42", "port": port, "timeout": 2}
    return {
        "basic": (winrm, WinrmCredential("w", manner="basic", **secret)),
        "ntlm": (winrm, WinrmCredential("w", manner="ntlm", **secret)),
        "bind": (directory, LdapCredential("d", **secret)),
    }


async def came_to(work, credential, expected):
    with pytest.raises(Problem) as caught:
        async with work(DIRECT, "127.0.0.1", credential, expected):
            pass
    return caught.value


@pytest.mark.parametrize("way", ["basic", "ntlm", "bind"])
async def test_nothing_is_sent_to_another_key_nor_to_a_first_that_nobody_accepted(ear, way):
    port, heard = ear
    work, credential = clients(port)[way]
    another = await came_to(work, credential, Expected(frozenset({tls_key(port, OTHER)})))
    assert (another.code, another.met["key"]) == ("another-certificate", OURS)
    first = await came_to(work, credential, Expected(first_too=False))
    assert (first.code, first.met["key"]) == ("first-certificate", OURS)
    assert heard == b""
    taken = await came_to(work, credential, Expected(frozenset({tls_key(port, OURS)}), first_too=False))
    assert "certificate" not in taken.code
    assert heard, "to the key that is expected it speaks"


@pytest.mark.parametrize("way", ["basic", "bind"])
async def test_a_known_device_that_moved_here_is_spoken_to(ear, way):
    port, heard = ear
    work, credential = clients(port)[way]
    here, met = frozenset({tls_key(port, OTHER)}), frozenset({tls_key(port, OURS), tls_key(443, OTHER)})
    assert "certificate" not in (await came_to(work, credential, Expected(here, met))).code
    assert heard


async def test_a_sweep_notes_the_key_it_signed_in_to_and_keeps_to_it(lab):
    pin = public_pin("salt-pc-01.skerrivane.example")
    win = WinrmCredential("win", "SKERRIVANE\\tarn-reader", "low-water-42", timeout=5)
    found = await look(PC, LookSettings(LAB, (win,), frozenset({"winrm"}), 0.4))
    assert found.outcome == "fully read"
    (told,) = [r for r in found.readings if r.section == "certificates"]
    assert [(c.port, c.key) for c in told.items] == [(5986, pin)]
    assert not told.complete, "the others of its ports were not looked at"
    other = frozenset({tls_key(5986, OTHER)})
    met = await look(PC, LookSettings(LAB, (win,), frozenset({"winrm"}), 0.4, host_keys={PC: other}))
    assert (met.code, met.met["key"]) == ("another-certificate", pin)
    assert met.worked == []
