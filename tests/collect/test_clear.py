"""What goes over ports in clear, and weak certificates, as sweeps meet them on the lab's sockets."""

import pytest

from tarn.collect.clear import asks_in_clear, of_snmp
from tarn.collect.credentials import SnmpCredential
from tarn.collect.look import LookSettings, look
from tarn.lab.serve import Lab
from tarn.lab.timeline import truth
from tests.collect.test_lab import CREDENTIALS, LAB


@pytest.mark.parametrize(
    ("answer", "told"),
    [
        (b'HTTP/1.1 401 Unauthorized\r\nWWW-Authenticate: Basic realm="x"\r\n\r\n', "HTTP sign-in (Basic)"),
        (b"HTTP/1.0 401 No\r\nwww-authenticate:digest nonce=1\r\n\r\n", "HTTP sign-in (Digest)"),
        (b"HTTP/1.1 401 Unauthorized\r\nWWW-Authenticate: Negotiate\r\n\r\n", ""),
        (b"HTTP/1.1 200 OK\r\n\r\n<INPUT name=a TYPE='password'>", "HTTP sign-in (a form)"),
        (b"HTTP/1.1 200 OK\r\n\r\n<p>type=password in words</p>", ""),
        (b"SSH-2.0-x\r\n\r\n<input type=password>", ""),
        (b"", ""),
    ],
)
def test_a_page_that_asks_for_a_password_in_clear_is_told(answer, told):
    assert asks_in_clear(answer) == told


def test_only_snmp_3_with_privacy_goes_unheard():
    assert of_snmp(SnmpCredential("a", "v2c", community="x")) == "SNMP v2c"
    assert of_snmp(SnmpCredential("a", "v3", user="u", auth_secret="s")) == "SNMPv3 without privacy"
    assert of_snmp(SnmpCredential("a", "v3", user="u", auth_secret="s", privacy_secret="p")) == ""


async def test_a_look_tells_what_goes_in_clear_and_how_weak_a_certificate_is(lab):
    camera = await look("10.60.5.111", LookSettings(LAB, CREDENTIALS, patience=0.5))
    ports = {(p.protocol, p.port): p.clear for r in camera.readings if r.section == "ports" for p in r.items}
    assert ports[("tcp", 23)] == "telnet"
    assert ports[("tcp", 80)] == "HTTP sign-in (Basic)"
    assert ports[("udp", 161)] == "SNMP v2c"
    printer = await look("10.60.5.11", LookSettings(LAB, CREDENTIALS, patience=0.5))
    ports = {p.port: p.clear for r in printer.readings if r.section == "ports" for p in r.items}
    assert (ports[21], ports[80]) == ("FTP", "HTTP sign-in (a form)")


async def test_a_short_key_and_a_broken_hash_are_read_over_the_wire():
    lab = Lab(400)
    await lab.start({"avrn-prn-02"})
    try:
        address = next(t["address"] for t in truth(400) if t["name"] == "avrn-prn-02")
        found = await look(address, LookSettings(LAB, (), patience=0.5))
    finally:
        await lab.stop()
    [told] = [c for r in found.readings if r.section == "certificates" for c in r.items]
    assert (told.key_kind, told.key_bits, told.hashed) == ("RSA", 1024, "sha1")
