"""What computers do: services, connections, containers, guests; and Macs, from formats of our own making."""

import asyncio
import json
import plistlib

import pytest

from tarn.collect.found import guests_of
from tarn.collect.look import Look
from tarn.collect.ssh import macos, read, workings
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, Unread
from tarn.lab.model import Guest
from tarn.lab.workings import domain_xml


def items(reader, text, **more):
    """What a reader makes of an output: the items of its first reading."""
    made = reader(Output(text, more.get("err", ""), more.get("code", 0)))
    return made[0].items if made else None


def test_services_as_they_run_and_as_they_start():
    text = (
        "ssh.service loaded active running Secure shell server\n"
        "● broken.service loaded failed failed Broken thing\n"
        "gone.service not-found inactive dead gone.service\n"
        "ssh.socket loaded active listening A socket\n"
        f"{MARK}\nssh.service enabled enabled\nbroken.service static -\n"
    )
    found = {s.name: (s.running, s.start, s.label) for s in items(workings.services, text)}
    assert found == {
        "ssh": (True, "automatic", "Secure shell server"),
        "broken": (False, "manual", "Broken thing"),
    }
    assert items(workings.services, f"{MARK}\n") is None, "a system without systemd has none to tell"


def test_connections_that_others_opened_are_not_this_computers():
    text = (
        '0 0 10.60.4.21:40112 10.60.4.29:5432 users:(("tixline",pid=811,fd=9))\n'
        '0 0 10.60.4.21:40113 10.60.4.29:5432 users:(("tixline",pid=811,fd=10))\n'
        '0 0 10.60.4.21:22 10.60.5.20:51022 users:(("sshd",pid=90,fd=4))\n'
        '0 0 127.0.0.1:40200 127.0.0.1:6379 users:(("tixline",pid=811,fd=11))\n'
        '0 0 [::ffff:10.60.4.21]:40300 [::ffff:10.60.4.26]:25 users:(("postman",pid=9,fd=1))\n'
        '0 0 [2001:db8::5]:40301 [2001:db8::9]:443 users:(("postman",pid=9,fd=2))\n'
        "0 0 10.60.4.21:40400 10.60.4.30:80\n"
        'ESTAB 0 0 10.60.4.21:40500 10.60.4.31:389 users:(("sssd",pid=4,fd=2))\n'
    )
    assert [(c.process, c.peer, c.port) for c in items(workings.connections, text)] == [
        ("postman", "10.60.4.26", 25),
        ("postman", "2001:db8::9", 443),
        ("sssd", "10.60.4.31", 389),
        ("tixline", "10.60.4.29", 5432),
    ]
    with pytest.raises(Unread):
        workings.connections(Output("", "", 127))


def test_containers_of_either_engine_and_what_a_refusal_says():
    listed = f"/usr/bin/docker\n{MARK}\nweb\tregistry.example/web:1\trunning\nold\tregistry.example/old:0\texited\n"
    assert [(c.name, c.running) for c in items(workings.containers, listed)] == [("old", False), ("web", True)]
    assert items(workings.containers, f"{MARK}\n") is None
    assert items(workings.containers, f"/usr/bin/podman\n{MARK}\n") == []
    with pytest.raises(Unread, match="permission denied"):
        workings.containers(Output(f"/usr/bin/docker\n{MARK}\npermission denied at the engine's socket\n", "", 1))


def test_guests_of_domain_xml_and_a_bomb_among_them():
    one = Guest("5a17c10e-0000-4000-a000-00000000c10e", "salt-app-01", 2, 8 << 30, ("34:9f:7a:00:00:01",))
    bomb = '<!DOCTYPE d [<!ENTITY a "aa"><!ENTITY b "&a;&a;">]><domain><name>&b;</name></domain>'
    text = f"{domain_xml(one)}{MARK}\nshut off\n{MARK}\n{bomb}\n{MARK}\nrunning\n{MARK}\n<domain/>\n{MARK}\n\n{MARK}\n"
    (made,) = workings.guests(Output(text, "", 0))
    (guest,) = made.items
    assert (guest.name, guest.state, guest.cores, guest.memory) == ("salt-app-01", "off", 2, 8 << 30)
    assert guest.macs == "34:9f:7a:00:00:01"
    assert guest.disks == "/var/lib/libvirt/images/salt-app-01.qcow2", "a drive without a disk in it is none"
    assert not made.complete
    assert "2 guests could not be read" in made.note
    assert workings.guests(Output("", "", 0)) == []


@pytest.mark.parametrize(
    ("unit", "text", "bytes_"),
    [("KiB", "4194304", 4 << 30), ("GiB", "4", 4 << 30), ("bytes", "1000", 1000), ("MB", "5", 5 * 10**6)],
)
def test_memory_of_a_guest_in_any_unit(unit, text, bytes_):
    xml = f"<domain><uuid>U-1</uuid><memory unit='{unit}'>{text}</memory></domain>"
    assert items(workings.guests, f"{xml}\n{MARK}\nrunning\n{MARK}\n")[0].memory == bytes_


def test_a_host_vouches_for_its_guests_each_a_sighting():
    look = Look("10.60.4.10", taken_for="salt-hv-01")
    one = Guest("5a17c10e-0000-4000-a000-00000000c10e", "salt-app-01", 2, 8 << 30, ("34:9f:7a:00:00:01",))
    look.readings = workings.guests(Output(f"{domain_xml(one)}{MARK}\nrunning\n{MARK}\n", "", 0))
    (sighting,) = guests_of(look, "Ferry")
    assert (sighting.source.kind, sighting.source.name) == ("virtual host", "salt-hv-01")
    identity = sighting.readings[0].facts
    assert (identity.uuid, identity.macs) == (one.uuid, one.macs)
    assert sighting.readings[-1].facts.organisation == "Ferry"


def test_when_the_kernel_was_started():
    (made,) = workings.booted(Output("btime 1790000000\n", "", 0))
    assert made.facts.booted == 1_790_000_000
    assert workings.booted(Output("", "", 1)) == []


OVERVIEW = {
    "SPHardwareDataType": [
        {
            "machine_name": "Notebook",
            "serial_number": "C02TARN00001",
            "platform_UUID": "6F9619FF-8B86-D011-B42D-00CF4FC964FF",
            "chip_type": "Lume L3",
            "number_processors": "proc 8:4:4",
            "physical_memory": "16 GB",
        }
    ]
}
APPLICATIONS = {
    "SPApplicationsDataType": [
        {
            "_name": "Quill",
            "version": "16.2",
            "signed_by": ["Developer ID Application: Quill Works (AB12CD34EF)", "CA"],
        },
        {"_name": "Quill", "version": "16.2"},
        {"version": "1"},
    ]
}
IFCONFIG = """lo0: flags=8049<UP,LOOPBACK,RUNNING,MULTICAST> mtu 16384
\tinet 127.0.0.1 netmask 0xff000000
en0: flags=8863<UP,BROADCAST,SMART,RUNNING,SIMPLEX,MULTICAST> mtu 1500
\tether 34:9f:7a:00:00:02
\tinet6 fe80::1%en0 prefixlen 64 secured scopeid 0x4
\tinet 10.60.5.77 netmask 0xffffff00 broadcast 10.60.5.255
\tinet6 2001:db8::77 prefixlen 64 autoconf
\tstatus: active
en1: flags=8863<UP> mtu 1500
\tether 36:9f:7a:00:00:03
\tstatus: inactive
utun0: flags=8051<UP,POINTOPOINT> mtu 1380
"""
ANSWERS = {
    "uname -s": "Darwin\n",
    "identity": json.dumps(OVERVIEW) + f"\n{MARK}\nsalt-mb-01.local\n",
    "system": "ProductName:\t\tmacOS\nProductVersion:\t\t14.5\nBuildVersion:\t\t23F79\nDarwin 23.5.0 arm64\n"
    "kern.boottime: { sec = 1789000000, usec = 12 } Mon\n",
    "disks": plistlib.dumps({"AllDisksAndPartitions": [{"DeviceIdentifier": "disk0", "Size": 500 * 10**9}]}).decode(),
    "filesystems": "Filesystem 1024-blocks Used Available Capacity Mounted on\n"
    "/dev/disk3s1s1 482797652 10000000 200000000 5% /\n/dev/disk3s5 482797652 240000000 200000000 54% /System/Volumes/Data\n"
    "/dev/disk3s6 482797652 20 200000000 1% /System/Volumes/VM\ndevfs 200 200 0 100% /dev\n",
    "network": IFCONFIG,
    "accounts": f"_spotlight 89\nroot 0\nines 501\npiet 502\n{MARK}\nGroupMembership: root ines\n",
    "packages": json.dumps(APPLICATIONS),
    "installs": "kMDItemDisplayName = (null)\n",
    "ports": "p312\ncquilld\nn*:7000\np99\ncsshd\nn*:22\nn127.0.0.1:631\n",
}


class _Mac:
    def __init__(self, **changed):
        self.answers = {**ANSWERS, **changed}

    async def run(self, line, section):
        return Output(self.answers["uname -s" if line == "uname -s" else section], "", 0)


def test_a_mac_is_read_section_by_section():
    readings, problems = asyncio.run(read.read_all(_Mac()))
    assert problems == []
    by = {}
    for r in readings:
        by.setdefault(r.section, []).append(r)
    first, macs = (r.facts for r in by["identity"])
    assert (first.name, first.domain, first.serial, first.model) == ("salt-mb-01", None, "C02TARN00001", "Notebook")
    assert macs.macs == ("34:9f:7a:00:00:02", "36:9f:7a:00:00:03")
    hardware, system = by["hardware"][0].facts, by["system"][0].facts
    assert (hardware.processor, hardware.cores, hardware.memory) == ("Lume L3", 8, 16 << 30)
    assert (system.platform, system.os_version, system.os_kernel, system.booted) == (
        "macOS",
        "14.5",
        "23.5.0",
        1_789_000_000,
    )
    assert [(d.name, d.size) for d in by["disks"][0].items] == [("disk0", 500 * 10**9)]
    assert {f.mount: f.full for f in by["filesystems"][0].items} == {"/": 0, "/System/Volumes/Data": 50}
    assert [(i.name, i.up) for i in by["interfaces"][0].items] == [("en0", True), ("en1", False)]
    assert [a.address for a in by["addresses"][0].items] == ["10.60.5.77", "2001:db8::77"]
    assert [(a.name, a.administrator) for a in by["accounts"][0].items] == [
        ("ines", True),
        ("piet", False),
        ("root", True),
    ]
    assert [(p.name, p.version, p.publisher) for p in by["packages"][0].items] == [("Quill", "16.2", "")]
    assert [(p.port, p.process) for p in by["ports"][0].items] == [(22, "sshd"), (7000, "quilld")]


def test_what_a_mac_will_not_tell_is_said_section_by_section():
    readings, problems = asyncio.run(read.read_all(_Mac(identity="error", disks="<plist", network="", accounts="")))
    assert {p.met["section"] for p in problems} == {"identity", "disks", "network", "accounts"}
    assert {r.section for r in readings} >= {"system", "packages", "ports"}


def test_a_signature_names_the_publisher():
    one = {"SPApplicationsDataType": APPLICATIONS["SPApplicationsDataType"][:1]}
    assert items(macos.packages, json.dumps(one))[0].publisher == "Quill Works"


def test_when_packages_came_and_when_their_programs_were_last_started():
    """Worked: 1,700,000,000 s is day 19,675 and 80,000 s; weeks are counted from 1970-01-01."""
    came, later = 1_700_000_000, 1_720_000_000
    text = (
        f"{came} /var/lib/dpkg/info/quill.list\n{came} /var/lib/dpkg/info/libquill:amd64.list\n"
        f"{came} /var/lib/dpkg/info/ember.list\n1690000000 sextant\n{MARK}\n"
        "/var/lib/dpkg/info/quill.list:/usr/bin/quill\n/var/lib/dpkg/info/quill.list:/usr/bin/quill-set\n"
        f"/var/lib/dpkg/info/ember.list:/usr/bin/ember\n{MARK}\n"
        f"{later} /usr/bin/quill\n{came + 90_000_00} /usr/bin/quill-set\n{came + 3600} /usr/bin/ember\n"
    )
    held = {i.name: (i.installed, i.used) for i in items(workings.installs, text)}
    day = 19_675 * 86_400
    assert held == {
        "quill": (day, later - later % 604_800),
        "libquill": (day, None),
        "ember": (day, None),  # read within a day of being installed: by the installing itself
        "sextant": (1_690_000_000 - 1_690_000_000 % 86_400, None),
    }
    assert items(workings.installs, f"{MARK}\n{MARK}\n") is None, "neither dpkg nor rpm"


def test_when_a_mac_opened_its_applications():
    text = (
        'kMDItemDisplayName  = "Quill.app"\nkMDItemLastUsedDate = 2026-11-20 08:12:00 +0000\n'
        'kMDItemDisplayName  = "Ember.app"\nkMDItemLastUsedDate = (null)\n'
    )
    assert [(i.name, i.used) for i in items(macos.installs, text)] == [("Quill", 1_795_132_800 // 604_800 * 604_800)]
