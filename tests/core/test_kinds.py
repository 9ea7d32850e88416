"""What a device is taken for: by its words, its name, its ports and its packages; how sure, and why."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.kinds import KINDS, article, guess, platform_of, telling_package

FACTS = st.fixed_dictionaries(
    {},
    optional={
        "description": st.sampled_from(
            ["Layer 3 switch", "LaserPrint 400", "rack server", "a router", "", "brass bell"]
        ),
        "model": st.sampled_from(["R520", "Notebook 14", "Camera dome", ""]),
        "name": st.sampled_from(["salt-sw-01", "avrn-till-06", "tansy", "salt-pc-2", ""]),
        "platform": st.sampled_from(["Linux", "Windows", "firmware"]),
    },
)
PORTS = st.sets(st.sampled_from([22, 80, 554, 631, 5060, 5432, 9100, 16509]))
PACKAGES = st.sets(st.sampled_from(["bash", "xorg", "kiosk-shell", "till-client", "tixline"]))


@pytest.mark.parametrize(
    ("facts", "ports", "packages", "kind"),
    [
        ({"description": "Multi-layer switch, 48 ports"}, set(), set(), "switch"),
        ({"description": "laserprint 9", "name": "salt-prn-01"}, {9100}, set(), "printer"),
        ({"name": "salt-cam-03"}, {554}, set(), "camera"),
        ({"name": "avrn-till-06", "platform": "Linux"}, set(), {"till-client", "bash"}, "till"),
        ({"platform": "Linux"}, {5432}, {"bash"}, "server"),
        ({"platform": "Linux"}, set(), {"xorg", "bash"}, "workstation"),
        ({"platform": "Linux"}, set(), {"kiosk-shell", "xorg"}, "kiosk"),
        ({"model": "Notebook 14"}, set(), set(), "laptop"),
        ({}, {16509}, set(), "hypervisor"),
        ({"name": "tansy"}, {22}, set(), "device"),
    ],
)
def test_it_is_taken_for_what_most_speaks_for(facts, ports, packages, kind):
    found = guess(facts, ports, packages)
    assert found.kind == kind
    assert found.reasons


def test_a_name_alone_is_believed_less_than_a_name_and_what_it_does():
    named, doing = guess({"name": "salt-prn-01"}, set(), set()), guess({"name": "salt-prn-01"}, {9100}, set())
    assert named.kind == doing.kind == "printer"
    assert named.sure < doing.sure
    assert any("port 9100" in why for why in doing.reasons)


def test_two_kinds_that_are_equally_likely_make_it_less_sure():
    alone = guess({"description": "switch"}, set(), set())
    both = guess({"description": "switch and router"}, set(), set())
    assert both.sure < alone.sure


@given(FACTS, PORTS, PACKAGES, st.booleans())
def test_a_guess_is_one_of_the_kinds_gives_its_reasons_and_is_never_certain(facts, ports, packages, virtual):
    found = guess(facts, ports, packages, virtual=virtual)
    assert found.kind in KINDS
    assert 20 <= found.sure <= 98
    assert found.reasons
    assert found == guess(facts, set(ports), set(packages), virtual=virtual)


@given(FACTS, PORTS)
def test_where_nothing_is_said_nothing_is_claimed(facts, ports):
    found = guess(facts, ports, set())
    assert (found.kind == "device") == (found.sure == 20)


@given(st.sampled_from(["bash", "tixline", "brass-bell", "libxorg1"]), PACKAGES)
def test_a_package_that_tells_nothing_changes_no_kind(package, packages):
    if not telling_package(package):
        facts = {"platform": "Linux"}
        assert guess(facts, set(), packages | {"bash"}).kind == guess(facts, set(), packages | {"bash", package}).kind


@pytest.mark.parametrize(
    ("said", "platform"),
    [
        ("Microsoft Windows 11 Pro", "Windows"),
        ("Debian GNU/Linux 12", "Linux"),
        ("macOS 14.5", "macOS"),
        ("iPadOS 17", "iOS"),
        ("Android 14 on Linux 5.10", "Android"),
        ("Gateway firmware 3.2", "firmware"),
        ("OpenStep", None),
    ],
)
def test_the_family_of_a_system_is_read_from_its_name(said, platform):
    assert platform_of(said) == platform


def test_kinds_are_spoken_of_with_their_article():
    assert [article(k) for k in ("access point", "server")] == ["an access point", "a server"]
