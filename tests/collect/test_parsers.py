"""Readers of output and tables on the odd cases that a healthy host does not show."""

import contextlib

import pytest

from tarn.collect.problems import Problem
from tarn.collect.snmp.read import identity_and_system, package, text
from tarn.collect.ssh import linux
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import Unread
from tarn.core.items import Package


def said(out: str, cut: Problem | None = None) -> Output:
    return Output(out, "", 0, cut)


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
    made = linux.packages(said(lines))[0]
    assert [(p.name, p.publisher) for p in made.items] == [("good", "Someone")]
    assert made.complete
    assert "1 left out" in made.note


def test_a_list_cut_short_keeps_what_came_and_drops_the_half_line():
    cut = Problem("cut-off", protocol="SSH", section="packages")
    made = linux.packages(said("a\t1\tamd64\t\tinstalled\nb\t2\tamd", cut))[0]
    assert [p.name for p in made.items] == ["a"]
    assert not made.complete
    assert "closed the connection" in made.note


def test_rpm_epochs_and_vendors():
    made = linux.packages(said("quill\t(none):16-1\tx86_64\t(none)\ngrebe\t2:14-1\tx86_64\tGrebe\n"))[0]
    assert [(p.name, p.version, p.publisher) for p in made.items] == [
        ("grebe", "2:14-1", "Grebe"),
        ("quill", "16-1", ""),
    ]


def test_administrators_by_group_and_by_uid():
    passwd = "root:x:0:0:root:/root:/bin/sh\ntoor:x:0:0::/root:/bin/sh\nann:x:1000:1000:Ann,,:/h:/bin/sh\nbob:x:1001:1:B:/h:/usr/sbin/nologin\nbroken line\n"
    made = linux.accounts(said(passwd + "--tarn--\nsudo:x:27:ann\n"))[0]
    found = {a.name: (a.administrator, a.enabled) for a in made.items}
    assert found == {"root": (True, True), "toor": (True, True), "ann": (True, True), "bob": (False, False)}


@pytest.mark.parametrize(
    "reader", [linux.identity, linux.system, linux.hardware, linux.network, linux.packages, linux.accounts]
)
def test_nothing_at_all_is_unread_and_not_empty(reader):
    with pytest.raises(Unread):
        reader(said(""))


@pytest.mark.parametrize("reader", [step[3] for step in linux.STEPS])
def test_garbage_is_an_error_in_words_or_nothing(reader):
    with contextlib.suppress(Unread):
        reader(said("\x00\x01 { not = json ] \n\t\t\t\t\n=\n" * 50))


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
