"""What computers do: services, connections, containers, guests; and Macs, from formats of our own making."""

import asyncio
import json
import plistlib
import subprocess
import sys

import pytest

from tarn.collect.found import guests_of
from tarn.collect.looked import Look
from tarn.collect.ssh import clustered, hosting, macos, read, workings
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, Answers, Part, Unread, answers
from tarn.core.items import Connection
from tarn.lab.model import Guest
from tarn.lab.workings import domain_xml


def said(*parts, **out):
    """What commands printed, each to a good end; or (name, output, code) as given."""
    return Answers([*(Part(*p) for p in parts), *(Part(n, o, 0) for n, o in out.items())])


def items(reader, *parts, **out):
    """What a reader makes of answers: the items of its first reading."""
    made = reader(said(*parts, **out))
    return made[0].items if made else None


def test_services_as_they_run_and_as_they_start():
    text = (
        "ssh.service loaded active running Secure shell server\n"
        "● broken.service loaded failed failed Broken thing\n"
        "gone.service not-found inactive dead gone.service\n"
        "ssh.socket loaded active listening A socket\n"
    )
    files = "ssh.service enabled enabled\nbroken.service static -\n"
    found = {s.name: (s.running, s.start, s.label) for s in items(workings.services, units=text, files=files)}
    assert found == {
        "ssh": (True, "automatic", "Secure shell server"),
        "broken": (False, "manual", "Broken thing"),
    }
    assert items(workings.services, ("units", "", 127)) is None, "a system without systemd has none to tell"


def test_who_calls_and_who_is_called_are_told_apart():
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
    told = items(workings.connections, uid="0\n", connections=text)
    assert [(c.direction, c.process, c.peer, c.port) for c in told] == [
        ("in", "sshd", "10.60.5.20", 22),
        ("out", "postman", "10.60.4.26", 25),
        ("out", "postman", "2001:db8::9", 443),
        ("out", "sssd", "10.60.4.31", 389),
        ("out", "tixline", "10.60.4.29", 5432),
    ]
    more = '0 0 10.60.4.21:40100 10.60.4.40:443 users:(("short",pid=9,fd=3))\nThis account is not for you.\n'
    twice = items(workings.connections, uid="0\n", connections=text, again=text + more)
    assert [c for c in twice if c not in told] == [Connection(process="short", peer="10.60.4.40", port=443)]
    with pytest.raises(Unread, match="not there"):
        workings.connections(said(("connections", "", 127), again=text))
    (by_another,) = workings.connections(said(uid="1000\n", connections=text))
    assert (by_another.unseen, [c.peer for c in by_another.items if not c.process]) == (("process",), ["10.60.4.30"])


def test_containers_of_either_engine_and_what_a_refusal_says():
    published = "0.0.0.0:80->8080/tcp, :::80->8080/tcp"
    listed = (
        f"web\tregistry.example/web:1\trunning\t{published}\tfront, back\t/srv/web\n"
        "old\tregistry.example/old:0\texited\t\tbridge\t\n"
    )
    none, there = ("podman", "", 127), ("socket", "/run/docker.sock\n", 0)
    found = items(workings.containers, there, none, docker=listed)
    assert [(c.name, c.running, c.ports, c.networks, c.volumes) for c in found] == [
        ("old", False, "", "bridge", ""),
        ("web", True, "0.0.0.0:80->8080/tcp :::80->8080/tcp", "front back", "/srv/web"),
    ]
    assert items(workings.containers, ("socket", "", 2), ("docker", "", 127), none) is None
    assert items(workings.containers, ("socket", "", 2), ("docker", "", 1), none) is None, "an engine that is off"
    assert items(workings.containers, ("docker", "", 127), podman="") == []
    with pytest.raises(Unread, match="docker"):
        workings.containers(said(there, ("docker", "permission denied\n", 1), none))


def test_guests_of_domain_xml_and_a_bomb_among_them():
    one = Guest("5a17c10e-0000-4000-a000-00000000c10e", "salt-app-01", 2, 8 << 30, ("34:9f:7a:00:00:01",))
    bomb = '<!DOCTYPE d [<!ENTITY a "aa"><!ENTITY b "&a;&a;">]><domain><name>&b;</name></domain>'
    each = [(domain_xml(one), "shut off\n"), (bomb, "running\n"), ("<domain/>", "\n")]
    snaps = " before update   2026-10-02 04:05:06 +0000   running\n"
    parts = [p for xml, state in each for p in (("xml", xml, 0), ("state", state, 0), ("snaps", snaps, 0))]
    made, links, kept = hosting.guests(said(*parts, daemon="/run/libvirt/libvirt-sock\n", list="a\nb\nc\n"))
    (guest,) = made.items
    assert [(k.guest, k.name, k.taken) for k in kept.items] == [("salt-app-01", "before update", 1_790_913_906)]
    assert [(k.guest, k.mac, k.network) for k in links.items] == [("salt-app-01", "34:9f:7a:00:00:01", "br0")]
    assert (guest.name, guest.state, guest.cores, guest.memory) == ("salt-app-01", "off", 2, 8 << 30)
    assert guest.macs == "34:9f:7a:00:00:01"
    assert guest.disks == "/var/lib/libvirt/images/salt-app-01.qcow2", "a drive without a disk in it is none"
    assert not made.complete
    assert "2 guests could not be read" in made.note
    assert hosting.guests(said(("daemon", "", 2), list="")) == [], "no virtual host"


@pytest.mark.parametrize(
    ("unit", "text", "bytes_"),
    [("KiB", "4194304", 4 << 30), ("GiB", "4", 4 << 30), ("bytes", "1000", 1000), ("MB", "5", 5 * 10**6)],
)
def test_memory_of_a_guest_in_any_unit(unit, text, bytes_):
    xml = f"<domain><uuid>U-1</uuid><memory unit='{unit}'>{text}</memory></domain>"
    found = items(hosting.guests, daemon="x", list="u-1\n", xml=xml, state="running\n")
    assert found[0].memory == bytes_


def test_a_host_vouches_for_its_guests_each_a_sighting():
    look = Look("10.60.4.10", taken_for="salt-hv-01")
    one = Guest("5a17c10e-0000-4000-a000-00000000c10e", "salt-app-01", 2, 8 << 30, ("34:9f:7a:00:00:01",))
    look.readings = hosting.guests(said(daemon="x", list="u\n", xml=domain_xml(one), state="running\n"))
    (sighting,) = guests_of(look, "Ferry")
    assert (sighting.source.kind, sighting.source.name) == ("virtual host", "salt-hv-01")
    identity = sighting.readings[0].facts
    assert (identity.uuid, identity.macs) == (one.uuid, one.macs)
    assert sighting.readings[-1].facts.organisation == "Ferry"


def test_when_the_kernel_was_started():
    (made,) = workings.booted(said(boot="btime 1790000000\n"))
    assert made.facts.booted == 1_790_000_000


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
MAC_ANSWERS = {
    "overview": json.dumps(OVERVIEW),
    "host": "salt-mb-01.local\n",
    "platform": '+-o M1  <class IOPlatformExpertDevice>\n    {\n      "manufacturer" = <"Tallow Systems">\n    }\n',
    "version": "ProductName:\t\tmacOS\nProductVersion:\t\t14.5\nBuildVersion:\t\t23F79\n",
    "kernel": "Darwin 23.5.0 arm64\n",
    "boot": "kern.boottime: { sec = 1789000000, usec = 12 } Mon\n",
    "disks": plistlib.dumps({"AllDisksAndPartitions": [{"DeviceIdentifier": "disk0", "Size": 500 * 10**9}]}).decode(),
    "filesystems": "Filesystem 1024-blocks Used Available Capacity Mounted on\n"
    "/dev/disk3s1s1 482797652 10000000 200000000 5% /\n/dev/disk3s5 482797652 240000000 200000000 54% /System/Volumes/Data\n"
    "/dev/disk3s6 482797652 20 200000000 1% /System/Volumes/VM\ndevfs 200 200 0 100% /dev\n",
    "links": IFCONFIG,
    "users": "_spotlight 89\nroot 0\nines 501\npiet 502\n",
    "admin": "GroupMembership: root ines\n",
    "packages": json.dumps(APPLICATIONS),
    "installs": 'kMDItemDisplayName = "Quill.app"\nkMDItemLastUsedDate = 2026-11-20 08:12:00 +0000\n',
    "uid": "0\n",
    "processes": "    1     0 root             Mon Sep 28 04:12:00 2026     /sbin/launchd\n"
    "  312     1 piet             Mon Sep 28 08:01:30 2026     /Applications/Quill.app/quilld --token abc123 -x\n"
    "all listed",
    "listening": "p312\nn*:7000\n",
    "ports": "p312\ncquilld\nn*:7000\np99\ncsshd\nn*:22\nn127.0.0.1:631\n",
}


class _Mac:
    def __init__(self, **changed):
        self.answers = {**MAC_ANSWERS, **changed}

    async def run(self, line, section, seconds=0, most=0):
        if line == "uname -s":
            return Output("Darwin\n", "", 0)
        step = next(s for s in macos.STEPS if s.section == section)
        return Output("".join(f"{self.answers[a.name]}\n{MARK} {a.name} 0\n" for a in step.asks), "", 0)


def test_a_mac_is_read_section_by_section():
    readings, problems = asyncio.run(read.read_all(_Mac()))
    assert problems == []
    by = {}
    for r in readings:
        by.setdefault(r.section, []).append(r)
    first, macs = (r.facts for r in by["identity"])
    assert (first.name, first.domain, first.serial, first.model) == ("salt-mb-01", None, "C02TARN00001", "Notebook")
    assert first.manufacturer == "Tallow Systems"
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
    assert {f.mount: f.full for f in by["filesystems"][0].items} == {"/": 5, "/System/Volumes/Data": 55}
    assert [(i.name, i.up) for i in by["interfaces"][0].items] == [("en0", True), ("en1", False)]
    assert [a.address for a in by["addresses"][0].items] == ["10.60.5.77", "2001:db8::77"]
    assert [(a.name, a.administrator) for a in by["accounts"][0].items] == [
        ("ines", True),
        ("piet", False),
        ("root", True),
    ]
    assert [(p.name, p.version, p.publisher) for p in by["packages"][0].items] == [("Quill", "16.2", "")]
    assert [(p.port, p.process) for p in by["ports"][0].items] == [(22, "sshd"), (7000, "quilld")]
    assert [(p.command, p.account, p.listens, p.parent) for p in by["processes"][0].items] == [
        ("/Applications/Quill.app/quilld --token *** -x", "piet", "7000", "launchd"),
        ("/sbin/launchd", "root", "", ""),
    ]


def test_what_a_mac_will_not_tell_is_said_section_by_section():
    readings, problems = asyncio.run(read.read_all(_Mac(overview="error", disks="<plist", links="", users="")))
    assert {p.met["section"] for p in problems} == {"identity", "disks", "network", "accounts"}
    assert {r.section for r in readings} >= {"system", "packages", "ports"}


def test_a_signature_names_the_publisher():
    one = {"SPApplicationsDataType": APPLICATIONS["SPApplicationsDataType"][:1]}
    assert items(macos.packages, packages=json.dumps(one))[0].publisher == "Quill Works"


def test_when_packages_came_and_when_their_programs_were_last_started():
    """Worked: 1,700,000,000 s is day 19,675 and 80,000 s; weeks are counted from 1970-01-01."""
    came, later = 1_700_000_000, 1_720_000_000
    dpkg = (
        f"{came} /var/lib/dpkg/info/quill.list\n{came} /var/lib/dpkg/info/libquill:amd64.list\n"
        f"{came} /var/lib/dpkg/info/ember.list\n"
    )
    lists = (
        "/var/lib/dpkg/info/quill.list:/usr/bin/quill\n/var/lib/dpkg/info/quill.list:/usr/bin/quill-set\n"
        "/var/lib/dpkg/info/ember.list:/usr/bin/ember\n"
    )
    programs = f"{later} /usr/bin/quill\n{came + 90_000_00} /usr/bin/quill-set\n{came + 3600} /usr/bin/ember\n"
    found = items(workings.installs, dpkg=dpkg, rpm="1690000000 sextant\n", lists=lists, programs=programs)
    held = {i.name: (i.installed, i.used) for i in found}
    day = 19_675 * 86_400
    assert held == {
        "quill": (day, later - later % 604_800),
        "libquill": (day, None),
        "ember": (day, None),  # read within a day of being installed: by the installing itself
        "sextant": (1_690_000_000 - 1_690_000_000 % 86_400, None),
    }
    assert items(workings.installs, ("dpkg", "", 1), ("rpm", "", 127)) is None, "neither dpkg nor rpm"


def test_when_a_mac_opened_its_applications():
    text = (
        'kMDItemDisplayName  = "Quill.app"\nkMDItemLastUsedDate = 2026-11-20 08:12:00 +0000\n'
        'kMDItemDisplayName  = "Ember.app"\nkMDItemLastUsedDate = (null)\n'
    )
    assert [(i.name, i.used) for i in items(macos.installs, installs=text)] == [
        ("Quill", 1_795_132_800 // 604_800 * 604_800)
    ]


def test_a_cluster_tells_nodes_that_are_down_or_on_stand_by_and_the_addresses_it_keeps():
    cib = (
        '<cib><configuration><crm_config/><nodes><node uname="a"/><node uname="b"><instance_attributes>'
        '<nvpair name="standby" value="on"/></instance_attributes></node><node uname="c"/></nodes><resources>'
        '<group id="g"><primitive id="ip" type="IPaddr2"><instance_attributes><nvpair name="ip" value="192.0.2.9"/>'
        "</instance_attributes></primitive></group></resources></configuration><status>"
        '<node_state uname="a" crmd="online"/><node_state uname="b" crmd="1790913906"/><node_state uname="c" crmd="offline"/>'
        "</status></cib>"
    )
    parts = items(clustered.cluster_parts, cib_as_root=cib)
    assert {(p.cluster, p.sort, p.name, p.state) for p in parts} == {
        ("cluster", "node", "a", "online"), ("cluster", "node", "b", "stand-by"), ("cluster", "node", "c", "offline"),
        ("cluster", "address", "192.0.2.9", ""),
    }  # fmt: skip
    assert clustered.cluster_parts(said(("cib", "", 102), ("cib_as_root", "", 102))) == []
    for text in ("no cluster here", "<html/>"):
        with pytest.raises(Unread):
            clustered.cluster_parts(said(cib=text))


TALKING = """
import socket, subprocess, sys, threading
step = sys.argv[1]
server = socket.create_server(("192.0.2.1", 5432))
caller = subprocess.Popen([sys.executable, "-c",
    "import socket, time; s = socket.create_connection(('192.0.2.1', 5432), source_address=('192.0.2.2', 0)); time.sleep(60)"])
called, _ = server.accept()
subprocess.run(["sh", "-c", step])
print("OWN", caller.pid)
caller.kill()
"""


def test_who_calls_and_who_is_called_on_this_very_machine():
    """Against two real processes that talk, in a network of their own, as ss(8) tells of them."""
    step = next(s for s in workings.STEPS if s.section == "connections")
    inside = (
        'ip link set lo up && ip address add 192.0.2.1/32 dev lo && ip address add 192.0.2.2/32 dev lo && exec "$@"'
    )
    done = subprocess.run(
        ["unshare", "--map-root-user", "--net", "sh", "-c", inside, "sh", sys.executable, "-c", TALKING, step.line],
        capture_output=True, text=True, timeout=60, check=False,
    )  # fmt: skip
    if "unshare failed" in done.stderr or "Operation not permitted" in done.stderr:
        pytest.skip("this machine lets nobody make a network of their own")
    (reading,) = workings.connections(answers(Output(done.stdout, done.stderr, 0)))
    assert {(c.direction, c.peer, c.port) for c in reading.items} == {
        ("in", "192.0.2.2", 5432),
        ("out", "192.0.2.1", 5432),
    }
    assert {c.process.startswith("python") for c in reading.items} == {True}
