"""Trials: each step's verdict, against the lab."""

import pytest

from tarn.collect import names
from tarn.collect.credentials import SnmpCredential, SshCredential, WinrmCredential
from tarn.collect.presented import Expected, tls_key
from tarn.collect.routes import LAB
from tarn.collect.trial import TITLES, try_credential
from tarn.lab.keys import public_pin

SSH = SshCredential("linux", "tarn-reader", "low-water-42", timeout=5)
WINRM = WinrmCredential("win", "SKERRIVANE\\tarn-reader", "low-water-42", timeout=5)
SNMP = SnmpCredential(
    "v3", "v3", user="harbour", auth_secret="harbour-auth-pass", privacy_secret="harbour-priv-pass", timeout=1
)


async def tried(address, credential, known=frozenset(), *, first_too=True):
    expected = Expected(known, first_too=first_too)
    steps = [s async for s in try_credential(LAB, address, credential, expected)]
    assert [s.step for s in steps] == list(TITLES)
    return {s.step: s for s in steps}


@pytest.mark.parametrize(("address", "credential"), [("10.60.4.24", SSH), ("10.60.5.121", WINRM), ("10.60.4.3", SNMP)])
async def test_a_sound_credential_passes_every_step(lab, address, credential):
    steps = await tried(address, credential)
    assert {s.verdict for s in steps.values()} <= {"passed", "noted", "not applicable"}
    assert steps["rights"].says.startswith(("Reads", "The account"))
    assert steps["names"].verdict == "passed"


async def test_an_expired_password_is_said_and_what_follows_is_not_reached(lab):
    steps = await tried("10.60.8.76", SSH)
    assert steps["sign-in"].verdict == "failed"
    assert "has expired" in steps["sign-in"].says
    assert "Renew" in steps["sign-in"].advice
    assert [steps[s].verdict for s in ("session", "command", "rights")] == ["not reached"] * 3
    mended = SshCredential("linux", "tarn-reader", "low-water-43", timeout=5)
    assert (await tried("10.60.8.76", mended))["rights"].verdict in ("passed", "noted")


async def test_a_stale_name_is_noted_and_reading_goes_on(lab):
    steps = await tried("10.60.4.23", SSH)
    assert steps["names"].verdict == "noted"
    assert "10.60.4.123" in steps["names"].says
    assert steps["sign-in"].verdict == "passed"


async def test_another_host_key_than_before_ends_the_trial(lab):
    same = await tried("10.60.4.24", SSH)
    key = same["server"].says.split()[2].rstrip(",")
    assert "as before" in (await tried("10.60.4.24", SSH, frozenset({key})))["server"].says
    other = await tried("10.60.4.24", SSH, frozenset({"SHA256:of-another"}))
    assert (other["server"].verdict, other["sign-in"].verdict) == ("failed", "not reached")


async def test_another_certificate_than_before_ends_the_trial(lab):
    pin = public_pin("salt-pc-01.skerrivane.example")
    first = await tried("10.60.5.121", WINRM, first_too=False)
    assert (first["server"].code, first["server"].key) == ("first-key", tls_key(5986, pin))
    assert first["sign-in"].verdict == "not reached"
    known = await tried("10.60.5.121", WINRM, frozenset({first["server"].key}), first_too=False)
    assert "key as before" in known["server"].says
    assert known["sign-in"].verdict == "passed"
    other = await tried("10.60.5.121", WINRM, frozenset({tls_key(5986, "x" * 43 + "=")}))
    assert (other["server"].code, other["sign-in"].verdict) == ("another-key", "not reached")
    elsewhere = await tried("10.60.5.121", WINRM, frozenset({tls_key(443, "x" * 43 + "="), "SHA256:of-its-ssh"}))
    assert elsewhere["sign-in"].verdict == "passed", "keys of other ports say nothing of this one"


async def test_silence_a_closed_port_and_refusal_end_at_their_own_step(lab):
    assert (await tried("10.60.5.254", SSH))["answers"].verdict == "failed"
    assert (await tried("10.60.5.121", SSH))["port"].verdict == "failed"
    assert (await tried("10.60.5.125", WINRM))["sign-in"].verdict == "failed"
    silent = SnmpCredential("wrong", "v2c", community="nobody", timeout=0.3)
    assert (await tried("10.60.5.11", silent))["sign-in"].verdict == "failed"


async def test_an_account_without_rights_is_told_what_it_will_miss(lab):
    rights = (await tried("10.60.5.126", WINRM))["rights"]
    assert rights.verdict == "noted"
    assert "no administrator" in rights.says
    assert "listeners" in rights.advice


async def test_names_and_addresses(lab):
    assert await names.name_of(LAB, "10.60.4.24") == "salt-crew-01.skerrivane.example"
    assert await names.addresses_of(LAB, "salt-crew-01.skerrivane.example") == ["10.60.4.24"]
    assert await names.name_of(LAB, "10.60.4.250") == ""


async def test_v1_walks_row_by_row_to_the_end(lab):
    from tarn.collect.snmp.client import snmp

    credential = SnmpCredential("v1", "v1", community="skerry-read", timeout=1)
    async with snmp(LAB, "10.60.5.11", credential) as walker:
        rows = await walker.walk("1.3.6.1.2.1.1")
        assert len(rows) == 6
        assert await walker.walk("1.3.6.1.9") == []
