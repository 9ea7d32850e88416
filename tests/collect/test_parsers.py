"""Readers of output and tables on the odd cases that a healthy host does not show."""

import contextlib

import pytest

from tarn.collect.problems import Problem
from tarn.collect.snmp.read import identity_and_system, package, text
from tarn.collect.ssh import accounts, linux, read
from tarn.collect.ssh.parsing import Answers, Part, Unread
from tarn.core.items import Package


def said(cut: Problem | None = None, **out: str) -> Answers:
    """What commands printed, each to a good end; the last did not come to its end where the line was cut."""
    parts = [Part(n, o, 0) for n, o in out.items()]
    if cut:
        parts[-1] = Part("", parts[-1].out, None)
    return Answers(parts, "", cut)


@pytest.mark.parametrize(
    ("described", "expected"),
    [
        ("adduser_3.134_all", Package(name="adduser", version="3.134", arch="all")),
        ("bash-5.2.26-3.fc40.x86_64", Package(name="bash", version="5.2.26-3.fc40", arch="x86_64")),
        ("quill-office-16.0.1", Package(name="quill-office", version="16.0.1")),
        ("Pellucid Reader 11.0", Package(name="Pellucid Reader", version="11.0")),
        ("just a name", Package(name="just a name")),
    ],
)
def test_packages_of_one_text(described, expected):
    assert package(described) == expected


def test_octets_that_are_no_text_become_text():
    assert text(b"caf\xe9\x00\x01 x") == "café x"
    assert text("naïve".encode()) == "naïve"


def test_absurd_package_names_are_left_out_and_said_so():
    lines = f"good\t1\tamd64\tSomeone <a@b.example>\tinstalled\n{'x' * 400}\t1\tamd64\t\tinstalled\nhalf\t1\tamd64\t\tconfig-files\n"
    made = linux.packages(said(dpkg=lines, rpm=""))[0]
    assert [(p.name, p.publisher) for p in made.items] == [("good", "Someone")]
    assert made.complete
    assert "1 left out" in made.note


def test_a_list_cut_short_keeps_what_came_and_drops_the_half_line():
    cut = Problem("cut-off", protocol="SSH", section="packages")
    made = read.read_step(STEPS["packages"], said(cut, dpkg="a\t1\tamd64\t\tinstalled\nb\t2\tamd"))[0][0]
    assert [p.name for p in made.items] == ["a"]
    assert not made.complete
    assert "closed the connection" in made.note


def test_rpm_epochs_and_vendors():
    made = linux.packages(said(dpkg="", rpm="quill\t(none):16-1\tx86_64\t(none)\ngrebe\t2:14-1\tx86_64\tGrebe\n"))[0]
    assert [(p.name, p.version, p.publisher) for p in made.items] == [
        ("grebe", "2:14-1", "Grebe"),
        ("quill", "16-1", ""),
    ]


PASSWD = """root:x:0:0:root:/root:/bin/sh
toor:x:0:0::/root:/bin/sh
ann:x:1000:1000:Ann,,:/h:/bin/sh
bob:x:1001:1:B:/h:/usr/sbin/nologin
cid:x:1002:27:C:/h:/bin/sh
dot:x:1003:1003:D:/h:/bin/sh
eve:x:1004:1004:E:/h:/bin/sh
fay:x:1005:1005:F:/h:/bin/sh
broken line
"""
GROUP = "root:x:0:\nsudo:x:27:ann\ndeck:x:1100:fay\n"


def test_administrators_by_group_uid_primary_group_and_sudoers():
    sudoers = (
        "Defaults env_reset\nUser_Alias CREW = dot, !eve\nCmnd_Alias EVERY = ALL\nRunas_Alias OP = root\n"
        "root ALL=(ALL:ALL) ALL\nCREW ALL=(OP) NOPASSWD: EVERY\n%deck quay=/bin/ls, \\\n (ALL) ALL\n"
        "ann ALL=(postgres) ALL\neve ALL=/usr/bin/dpkg-query\n@includedir /etc/sudoers.d\n"
    )
    shadow = "root:$6:\nann:!$:\ncid:!:\ndot:$6:19000\neve:$6:99999\nfay:$6:\ntoor:*:\nbob:*:\n"
    made = accounts.accounts(said(uid="0\n", passwd=PASSWD, group=GROUP, shadow=shadow, sudoers=sudoers))[0]
    assert {a.name: (a.administrator, a.enabled) for a in made.items} == {
        "root": (True, True),
        "toor": (True, True),
        "ann": (True, False),  # locked
        "bob": (False, False),  # no shell
        "cid": (True, True),  # sudo is the primary group; never had a password
        "dot": (True, False),  # by an alias; over since 1970-01-01 + 19,000 days
        "eve": (False, True),  # may run one program only
        "fay": (True, True),  # by a group, on a line that is continued
    }
    assert not made.unseen


def test_an_ordinary_account_leaves_unsaid_who_is_locked_and_who_may_use_sudo():
    made = accounts.accounts(said(uid="1000\n", passwd=PASSWD, group=GROUP))[0]
    found = {a.name: (a.administrator, a.enabled) for a in made.items}
    assert (found["ann"], found["bob"], found["dot"]) == ((True, None), (None, False), (None, None))
    assert made.unseen == ("enabled", "administrator")


def test_a_port_tells_where_it_is_bound_and_how_full_is_what_df_says():
    """Worked: of 100 blocks 10 are used and 30 left to ordinary accounts: df says 25 %."""
    listed = (
        'tcp LISTEN 0 128 10.60.4.5:5432 0.0.0.0:* users:(("db",pid=5,fd=3))\n'
        "tcp LISTEN 0 128 [fd00::5]:5432 [::]:*\ntcp LISTEN 0 128 127.0.0.1:5432 0.0.0.0:*\n"
        "tcp LISTEN 0 128 *:22 *:*\nudp UNCONN 0 0 0.0.0.0%eth0:68 0.0.0.0:*\n"
    )
    ports = linux.ports(said(uid="0\n", ports=listed))[0].items
    assert [(p.protocol, p.port, p.bound) for p in ports] == [
        ("tcp", 22, ""), ("tcp", 5432, "10.60.4.5 fd00::5"), ("udp", 68, "")
    ]  # fmt: skip
    table = "Filesystem Type 1-blocks Used Available Capacity Mounted on\n/dev/a ext4 100 10 30 25% /\n"
    assert linux.filesystems(said(filesystems=table))[0].items[0].full == 25


def test_who_reads_is_told_what_root_may_only_where_it_is_not_root():
    by_root = linux.identity(said(uid="0\n", dmi="/sys/class/dmi/id/sys_vendor:Fathom\n", fqdn="a.b\n", host="a\n"))[0]
    assert by_root.note == "The machine tells no serial number."
    by_another = linux.identity(said(uid="1000\n", host="a\n"))[0]
    assert "root may" in by_another.note
    assert (by_root.complete, by_another.complete) == (True, False)


STEPS = {s.section: s for s in linux.STEPS}


@pytest.mark.parametrize("step", linux.STEPS, ids=lambda s: s.section)
def test_garbage_is_an_error_in_words_or_nothing(step):
    garbage = "\x00\x01 { not = json ] \n\t\t\t\t\n=\n" * 50
    parts = {a.name: garbage for a in step.asks}
    with contextlib.suppress(Unread):
        assert all(not getattr(r, "items", ()) for r in read.read_step(step, said(**parts))[0])


class _Agent:
    def __init__(self, **rows: object) -> None:
        self.rows = {f"1.3.6.1.2.1.1.{n[1:]}.0": v for n, v in rows.items()}

    async def get(self, oids):
        return {o: self.rows[o] for o in oids if o in self.rows}

    async def walk(self, oid):
        return []


async def test_an_agent_with_only_a_name_is_still_read():
    identity, system = await identity_and_system(_Agent(n5=b"box.lan"))
    assert (identity.facts.name, identity.facts.domain) == ("box", "lan")
    assert system.facts.platform == "firmware"
