"""WinRM: a real client library against the lab's WS-Management, and the reading of what comes back."""

import datetime as dt
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypsrp.wsman import WSMan

from tarn.collect.credentials import WinrmCredential
from tarn.collect.guard import MOST_REFUSALS, Guard
from tarn.collect.look import LookSettings, look
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import LAB
from tarn.collect.winrm import windows, workings
from tarn.collect.winrm.client import winrm
from tarn.core.sightings import effective
from tarn.lab import powershell
from tarn.lab.powershell import listed_name
from tarn.lab.timeline import World

USER, PASSWORD = "SKERRIVANE\\tarn-reader", "low-water-42"
PC, REFUSING, LIMITED = "10.60.5.121", "10.60.5.125", "10.60.5.126"


def credential(**rest: object) -> WinrmCredential:
    return WinrmCredential(**{"name": "win", "user": USER, "password": PASSWORD, "timeout": 5, **rest})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "by",
    [
        {},
        {"plain": True, "port": 5985},
        {"manner": "basic"},
        {"manner": "basic", "plain": True, "port": 5985},
    ],
    ids=["ntlm over TLS", "ntlm, sealed messages", "basic over TLS", "basic, plain"],
)
async def test_every_way_to_sign_in_reads_the_same_computer(lab, by):
    there = next(d for d in World().on(400) if d.name == "salt-pc-01")
    async with winrm(LAB, PC, credential(**by), Expected()) as session:
        readings, problems = await windows.read_all(session)
    assert problems == []
    held = {r.section: r for r in readings}
    assert held["identity"].facts.serial == there.serial
    assert held["identity"].facts.uuid == there.uuid
    assert held["hardware"].facts.memory == there.memory
    listed = {listed_name(there, p) for p in there.packages.values()}
    assert {p.name for p in held["packages"].items} > {*listed, "Tern Notes", "Callow C++ Runtime 14 (x86)"}
    assert {m.member for m in held["memberships"].items} >= {"harbour-admin", "SKERRIVANE\\Domain Admins"}
    assert [p.up_to_date for p in held["protections"].items] in ([True], [False])
    assert held["addresses"].items[0].address == PC
    for_all = {i.name: i for i in held["installs"].items if not i.user}
    assert set(for_all) > listed
    assert all(i.installed and i.installed % 86_400 == 0 for i in for_all.values())
    assert all(for_all[name].removes for name in listed)
    assert {bool(i.used) for i in for_all.values()} == {True, False}, "some were never started"
    assert [i.name for i in held["installs"].items if i.user.startswith("S-1-5-21-")] == ["Tern Notes"]
    assert "Berth plan refresh" in {t.name for t in held["scheduled"].items}
    assert {f.name for f in held["features"].items} >= {"NetFx4-AdvSrvs"}
    assert {k.state for k in held["licence_keys"].items} == {"", "licensed", "in firmware"}


@pytest.mark.parametrize(
    ("wrong", "code"),
    [
        ({"password": "ebb"}, "sign-in-refused"),
        ({"verify": True}, "untrusted"),
        ({"port": 5999}, "refused"),
        ({"plain": True, "manner": "basic", "port": 80}, "cut-off"),
    ],
)
async def test_each_failure_is_told_apart(lab, wrong, code):
    with pytest.raises(Problem) as caught:
        async with winrm(LAB, PC, credential(**wrong), Expected()):
            pass
    assert caught.value.code == code or (code == "cut-off" and caught.value.code in ("refused", "nonsense"))


async def test_an_account_without_rights_brings_the_rest_and_says_what_is_missing(lab):
    found = await look(LIMITED, LookSettings(LAB, (credential(),), patience=1))
    assert found.outcome == "part read"
    assert "listeners" in {p.met["section"] for p in found.problems}
    assert any("An ordinary account is not shown all of it." in r.note for r in found.readings)
    assert found.sighting(("sweep", "t")) is not None
    assert {r.section for r in found.readings} >= {"packages", "services"}


async def test_an_account_is_left_alone_after_refusals_and_tried_again_once_let_in(lab):
    settings = LookSettings(LAB, (credential(),), patience=1)
    for _ in range(MOST_REFUSALS):
        found = await look(REFUSING, settings)
        assert found.code == "sign-in-refused"
    assert (await look(REFUSING, settings)).code == "guarded"
    assert settings.guard.counts() == {USER.lower(): MOST_REFUSALS}
    sound = LookSettings(LAB, (credential(),), patience=1)
    assert (await look(PC, sound)).outcome == "fully read"
    for _ in range(MOST_REFUSALS + 2):
        assert (await look(REFUSING, sound)).code == "sign-in-refused"


def test_the_guard_counts_only_accounts_a_directory_holds():
    guard = Guard()
    local = credential(user="Administrator")
    for _ in range(10):
        guard.refused(local)
    assert guard.stops(local) is None
    assert Guard({USER.lower(): 3}).stops(credential()) is not None


async def test_a_credential_is_used_only_for_its_places_and_what_worked_comes_first():
    first, second = credential(name="a"), credential(name="b")
    settings = LookSettings(LAB, (first, second), limited={"a": frozenset({"MV Tansy"})}, place=lambda a: "Saltholm")
    assert settings.tried(WinrmCredential, PC) == [second]
    settings = LookSettings(LAB, (first, second), worked={PC: {"b"}})
    assert [c.name for c in settings.tried(WinrmCredential, PC)] == ["b", "a"]
    assert [c.name for c in settings.tried(WinrmCredential, "10.60.5.99")] == ["a", "b"]


@pytest.mark.parametrize(
    ("said", "seconds"),
    [
        ("/Date(1767225600000)/", 1_767_225_600),
        ("2026-01-01T00:00:00Z", 1_767_225_600),
        ("20260101", 1_767_225_600),
        ({"value": "/Date(1767225600000)/", "DateTime": "Thursday"}, 1_767_225_600),
        ("soon", None),
        (None, None),
    ],
)
def test_times_as_powershell_prints_them(said, seconds):
    assert windows.moment(said) == seconds


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=12),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)


@given(
    st.dictionaries(st.sampled_from(["computer", "os", "disks", "adapters", "programs", "users", "memberships"]), JSON)
)
def test_whatever_a_computer_answers_a_reader_either_reads_or_says_so(answer):
    readings, problems = windows.read_answer(answer)
    assert all(r.collector.startswith("winrm.") for r in readings)
    assert {p.code for p in problems} <= {"not-permitted", "failed"}


async def test_a_computer_that_prints_no_json_is_nonsense():
    class Strange:
        async def run(self, script, section):
            return "Windows PowerShell\r\nbanner"

    with pytest.raises(Problem) as caught:
        await windows.read_all(Strange())
    assert caught.value.code == "nonsense"


async def test_a_second_script_that_fails_keeps_what_the_first_brought(lab):
    class Half:
        def __init__(self, inner):
            self.inner, self.asked = inner, 0

        async def run(self, script, section):
            self.asked += 1
            if self.asked == 2:
                raise Problem("cut-off", protocol="WinRM", section=section)
            return await self.inner.run(script, section)

    async with winrm(LAB, PC, credential(), Expected()) as session:
        readings, problems = await windows.read_all(Half(session))
    assert [p.code for p in problems] == ["cut-off"]
    assert "hardware" in {r.section for r in readings}
    assert "packages" not in {r.section for r in readings}


async def test_a_windows_computer_is_fully_read_in_a_look(lab):
    found = await look(PC, LookSettings(LAB, (credential(),), patience=1))
    assert (found.outcome, found.worked) == ("fully read", ["win"])
    sighting = found.sighting(("sweep", "t"))
    assert sighting is not None
    assert effective(sighting)["system"].facts.os_name == "Windows 11 Pro"


def test_shares_are_those_people_offer_and_not_the_systems_own():
    server = next(d for d in World().on(400) if d.name == "salt-win-01")
    told = powershell._TABLES["Win32_Share"](server, dt.datetime(2026, 11, 1, tzinfo=dt.UTC))
    (reading,) = workings.shares({"shares": told})
    assert [(s.name, s.sort, s.path) for s in reading.items] == [("berth-plans", "SMB", "D:\\Plans")]


def test_a_new_session_leaves_alone_what_others_write_their_messages_with(monkeypatch):
    class Watched(dict):
        def __delitem__(self, key):
            raise AssertionError(f"{key} was taken out while others may be writing")

    monkeypatch.setattr(ElementTree, "_namespace_map", Watched(ElementTree._namespace_map))
    WSMan("127.0.0.1", username=USER, password=PASSWORD).close()
    assert ElementTree._namespace_map["http://www.w3.org/XML/1998/namespace"] == "xml"
