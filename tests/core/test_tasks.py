"""What a task is on one device: which line is run, and why none is."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.tasks import Entry, Script, Target, exit_in_words, magic_packet, order_for, silent

LINUX = Target("Linux", "10.60.4.23", "02:00:00:00:00:01", "10.60.4.255")
WINDOWS = Target("Windows", "10.60.5.121")


def test_a_package_is_removed_by_its_own_manager_and_takes_nothing_along():
    order = order_for("uninstall", Target("Linux", "10.60.4.23", entries=(Entry("quill-office", "16.1"),)))
    assert dict(order.lines)["rpm"] == "sudo -n rpm --erase quill-office"
    assert dict(order.lines)["dpkg"].endswith("dpkg --remove quill-office")
    assert "apt" not in order.shown, "apt-get would take along what needs it"


def test_a_package_is_updated_by_its_own_manager_and_nothing_new_comes():
    order = order_for("update", Target("Linux", "10.60.4.23", entries=(Entry("quill-office", "16.1"),)))
    assert dict(order.lines)["apt-get"].endswith("apt-get install --only-upgrade --yes quill-office")
    assert dict(order.lines)["dnf"] == "sudo -n dnf upgrade --assumeyes quill-office"


@given(st.text(max_size=40))
def test_no_package_name_can_be_more_than_a_name(name):
    order = order_for("uninstall", Target("Linux", "10.60.4.23", entries=(Entry(name),)))
    if order.refused:
        assert name in order.refused
    else:
        assert re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9._+-]*", name), "nothing a shell would take for more"


@pytest.mark.parametrize(
    ("command", "becomes"),
    [
        (
            "MsiExec.exe /I{5C1F0E2A-7B44-4C1D-9B0E-0A3D5C7E9F11}",
            "msiexec.exe /x {5C1F0E2A-7B44-4C1D-9B0E-0A3D5C7E9F11} /qn /norestart",
        ),
        (
            '"C:\\Windows\\System32\\msiexec.exe" /X{5c1f0e2a-7b44-4c1d-9b0e-0a3d5c7e9f11}',
            "msiexec.exe /x {5c1f0e2a-7b44-4c1d-9b0e-0a3d5c7e9f11} /qn /norestart",
        ),
        ('"C:\\Program Files\\Quill\\remove.exe" /S', '"C:\\Program Files\\Quill\\remove.exe" /S'),
    ],
)
def test_windows_installer_is_asked_without_windows(command, becomes):
    assert silent(command) == becomes


@pytest.mark.parametrize(
    ("kind", "target", "because"),
    [
        ("restart", Target("firmware", "10.60.4.1"), "runs firmware"),
        ("restart", Target("Linux"), "No address"),
        ("uninstall", LINUX, "not installed here by now"),
        ("uninstall", Target("Windows", "10.60.5.1", entries=(Entry("Quill"),)), "no command for its own removal"),
        ("uninstall", Target("Windows", "10.60.5.1", entries=(Entry("Tern", "", "r.exe", "asa"),)), "for asa alone"),
        ("uninstall", Target("macOS", "10.60.5.1", entries=(Entry("Quill"),)), "macOS keeps no command"),
        ("update", LINUX, "not installed here by now"),
        ("update", Target("Windows", "10.60.5.1", entries=(Entry("Quill"),)), "no package manager of its own"),
        ("update", Target("Linux", "10.60.4.1", entries=(Entry("a; b"),)), "is no name a package manager"),
        ("wake", Target("Linux", "10.60.4.1", "", "10.60.4.255"), "No hardware address"),
        ("wake", Target("Linux", "10.60.4.1", "02:00:00:00:00:01"), "network it is on is not known"),
    ],
)
def test_what_cannot_be_done_says_why(kind, target, because):
    order = order_for(kind, target)
    assert because in order.refused
    assert not order.lines


def test_a_script_is_only_for_its_platform():
    script = Script("tidy", "Linux", "userdel svc")
    assert order_for("script", LINUX, script).stdin == "userdel svc"
    assert "for Linux; it runs Windows" in order_for("script", WINDOWS, script).refused


def test_the_packet_that_wakes():
    packet = magic_packet("02:aa:bb:cc:dd:ee")
    assert len(packet) == 102
    assert packet.startswith(b"\xff" * 6 + b"\x02\xaa\xbb\xcc\xdd\xee")
    assert packet.count(b"\x02\xaa\xbb\xcc\xdd\xee") == 16


def test_exit_codes_in_words():
    assert exit_in_words(3010) == "a restart completes it"
    assert "code 7" in exit_in_words(7)
