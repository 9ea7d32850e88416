"""Identity: worked cases of the disturbances a real network has."""

import random

import pytest

from tarn.core.identifiers import identifiers, is_placeholder, stable_mac
from tarn.core.identity import match
from tarn.core.sections import Identity
from tarn.core.signs import CLONE_WINDOW, KnownAsset
from tests.generated import Register as InMemory
from tests.generated import hostile, parsed, reachable, score

MAC_A, MAC_B, DOCK = "7c:1e:b0:00:00:01", "7c:1e:b0:00:00:02", "18:f9:5e:00:00:09"
UUID = "5a17c10e-0000-4000-a000-00000000c10e"


class Register:
    """A register of a few assets: what each holds."""

    def __init__(self, **assets: Identity) -> None:
        self.keys = {int(n[1:]): {i.key for i in identifiers(a)} for n, a in assets.items()}
        self.names = {int(n[1:]): a.name or "" for n, a in assets.items()}
        self.seen_at, self.addresses = 1000, dict.fromkeys(self.keys, "10.0.0.1")

    def held(self, key: str):
        have = tuple(a for a, keys in self.keys.items() if key in keys)
        return have[0] if len(have) == 1 else have or None

    def match(self, identity: Identity, *, address: str = "10.0.0.2", at: int = 1000):
        return match(
            identifiers(identity),
            self.held,
            lambda a: KnownAsset(self.keys[a], self.names[a], self.addresses[a], self.seen_at),
            address=address,
            at=at,
        )


@pytest.mark.parametrize(
    "value",
    [
        "To be filled by O.E.M.",
        "None",
        "0000000",
        "Default string",
        "System Serial Number",
        "",
        "N/A",
        "xxxx",
        "1234567890",
        "AAAAAA",
    ],
)
def test_placeholders_identify_nothing(value):
    assert is_placeholder(value)
    assert identifiers(Identity(serial=value, manufacturer="Orrin")) == []


@pytest.mark.parametrize("value", ["HB7K-20931", "S18680483", "4711AB"])
def test_real_serials_do(value):
    assert not is_placeholder(value)


@pytest.mark.parametrize(
    "uuid", ["00000000-0000-0000-0000-000000000000", "03000200-0400-0500-0006-000700080009", "not a uuid"]
)
def test_default_uuids_identify_nothing(uuid):
    assert identifiers(Identity(uuid=uuid)) == []


@pytest.mark.parametrize(
    ("mac", "stable"),
    [
        (MAC_A, True),
        ("02:00:00:00:00:01", False),
        ("da:a1:19:00:00:01", False),
        ("00:00:5e:00:01:0a", False),
        ("01:00:5e:00:00:01", False),
    ],
)
def test_private_group_and_virtual_router_addresses_are_not_stable(mac, stable):
    assert stable_mac(mac) is stable


def test_an_address_alone_is_never_enough():
    assert Register(a1=Identity(name="x")).match(Identity(), address="10.0.0.1").verdict == "new"


def test_re_imaged_and_re_named_stays_one_by_its_serial():
    register = Register(a1=Identity(name="old", serial="HB7K-20931", manufacturer="Halberd", macs=(MAC_A,)))
    found = register.match(Identity(name="new", serial="hb7k-20931 ", manufacturer="HALBERD", macs=(MAC_A,)))
    assert (found.verdict, found.asset) == ("same", 1)
    assert any("serial number" in r for r in found.reasons)


def test_the_same_serial_of_another_maker_is_another_device():
    register = Register(a1=Identity(serial="HB7K-20931", manufacturer="Halberd"))
    assert register.match(Identity(serial="HB7K-20931", manufacturer="Orrin")).verdict == "new"


def test_a_dock_that_goes_round_does_not_join_its_laptops():
    register = Register(a1=Identity(name="lt1", serial="SER-1111", manufacturer="H", macs=(MAC_A, DOCK)))
    found = register.match(Identity(name="lt2", serial="SER-2222", manufacturer="H", macs=(MAC_B, DOCK)))
    assert found.verdict == "new"
    assert any("differs" in r for r in found.reasons)


def test_a_value_several_assets_hold_tells_nothing():
    register = Register(a1=Identity(macs=(DOCK, MAC_A)), a2=Identity(macs=(DOCK, MAC_B)))
    assert register.match(Identity(macs=(DOCK,))).verdict == "new"
    assert register.match(Identity(macs=(DOCK, MAC_B))).asset == 2


def test_clones_with_one_uuid_seen_on_one_night_are_two():
    register = Register(a1=Identity(name="app1", uuid=UUID, macs=(MAC_A,), keys=("host",)))
    found = register.match(Identity(name="app2", uuid=UUID, macs=(MAC_B,), keys=("host",)))
    assert found.verdict == "new"
    assert any("two devices" in r for r in found.reasons)


def test_a_uuid_against_everything_else_waits_for_a_person_when_not_seen_together():
    register = Register(a1=Identity(name="app1", uuid=UUID, macs=(MAC_A,)))
    later = 1000 + CLONE_WINDOW * 5
    found = register.match(Identity(name="app2", uuid=UUID, macs=(MAC_B,)), at=later)
    assert (found.verdict, found.candidates) == ("undecided", [1])


def test_a_replaced_machine_of_the_same_name_is_another():
    register = Register(a1=Identity(name="prn", serial="QU1J-94580", manufacturer="Q", macs=(MAC_A,)))
    assert register.match(Identity(name="prn", serial="QU7U-78478", manufacturer="Q", macs=(MAC_B,))).verdict == "new"


def test_a_name_alone_joins_only_where_nothing_speaks_against_it():
    register = Register(a1=Identity(name="file", domain="skerrivane.example"))
    assert register.match(Identity(name="FILE", domain="skerrivane.example")).asset == 1
    assert register.match(Identity(name="file", domain="other.example")).verdict == "new"


def test_two_assets_that_both_answer_are_not_guessed_between():
    register = Register(a1=Identity(macs=(MAC_A,)), a2=Identity(macs=(MAC_B,)))
    found = register.match(Identity(macs=(MAC_A, MAC_B)))
    assert (found.verdict, found.candidates) == ("undecided", [1, 2])


def test_the_number_tarn_issued_outranks_all():
    register = Register(a1=Identity(tarn="A-00001"), a2=Identity(serial="SER-9", manufacturer="H"))
    assert register.match(Identity(tarn="a-00001", serial="SER-9", manufacturer="H")).asset == 1


@pytest.mark.parametrize(
    ("held", "seen", "verdict"),
    [
        (("pc-1", "s.example"), ("PC-1", None), "same"),
        (("pc-1", None), ("pc-1", "s.example"), "same"),
        (("pc-1.s.example", None), ("pc-1", None), "same"),
        (("pc-1", "s.example"), ("pc-1", "other.example"), "new"),
    ],
)
def test_a_name_without_its_domain_is_one_only_where_domains_do_not_differ(held, seen, verdict):
    register = Register(a1=Identity(name=held[0], domain=held[1]))
    register.names[1] = "pc-1"
    assert register.match(Identity(name=seen[0], domain=seen[1])).verdict == verdict


def test_a_name_that_two_domains_have_tells_nothing_without_one():
    register = Register(a1=Identity(name="pc-1", domain="a.example"), a2=Identity(name="pc-1", domain="b.example"))
    assert register.match(Identity(name="pc-1")).verdict == "new"


def test_a_board_exchanged_in_repair_is_told_from_a_new_machine_at_the_same_dock():
    whole = Identity(serial="HB-00001", manufacturer="Halberd", uuid=UUID, macs=(MAC_A, DOCK), name="pc-1")
    register = Register(a1=whole)
    other = {"serial": "HB-00002", "manufacturer": "Halberd", "name": "pc-1"}
    repaired = register.match(Identity(**other, macs=(MAC_A, DOCK)))
    assert (repaired.verdict, repaired.asset) == ("same", 1)
    assert "board was exchanged" in repaired.reasons[0]
    assert register.match(Identity(**other, macs=(MAC_B, DOCK))).verdict == "new"
    assert register.match(Identity(**other, macs=(DOCK,))).verdict == "new"
    assert register.match(Identity(**{**other, "name": "pc-2"}, macs=(MAC_A, DOCK))).verdict == "new"


def test_a_cloned_uuid_does_not_outweigh_a_serial_number_whose_maker_is_not_told():
    register = Register(a1=Identity(serial="HB-00001", manufacturer="Halberd", uuid=UUID, name="pc-1"))
    assert register.match(Identity(serial="HB-00002", uuid=UUID, name="pc-2")).verdict == "new"
    assert register.match(Identity(serial="HB-00001", uuid=UUID, name="pc-2")).asset == 1


def test_what_is_known_by_hardware_address_under_a_name_of_its_own_joins():
    register = Register(
        a1=Identity(serial="HB-00001", manufacturer="Halberd", name="pc-1"),
        a2=Identity(macs=(MAC_A,), instance="mdm-7", name="Ines's laptop"),
        a3=Identity(macs=(MAC_B,), name="something"),
    )
    seen = Identity(serial="HB-00001", manufacturer="Halberd", macs=(MAC_A, MAC_B), name="pc-1")
    assert register.match(seen).absorbs == (2,), "what no system of record knows is not taken in by an address"


def test_without_an_address_nothing_was_seen_elsewhere():
    register = Register(a1=Identity(macs=(MAC_A,), name="pc-1"))
    assert register.match(Identity(macs=(MAC_B,), name="pc-1"), address="").verdict == "undecided"
    assert register.match(Identity(macs=(MAC_B,), name="pc-1")).verdict == "new"


@pytest.mark.parametrize(
    "spelt", ["Halberd Inc.", "HALBERD COMPUTER CORP", "halberd, ltd", "Hal Berd", "The Halberd Group"]
)
def test_a_maker_spelt_otherwise_is_the_same_maker(spelt):
    register = Register(a1=Identity(serial="HB-00001", manufacturer="Halberd", name="pc-1", macs=(MAC_A,)))
    found = register.match(Identity(serial="HB-00001", manufacturer=spelt, name="pc-2"))
    assert (found.verdict, found.asset) == ("same", 1)


def test_four_strong_signs_outweigh_a_maker_that_is_written_as_quite_another():
    whole = {"serial": "HB-00001", "uuid": UUID, "macs": (MAC_A,), "name": "pc-1", "domain": "s.example"}
    register = Register(a1=Identity(**whole, manufacturer="Halberd"))
    assert register.match(Identity(**whole, manufacturer="Sextant Hulls")).asset == 1


def test_a_number_of_the_companys_own_counts_within_its_scheme_and_a_copied_one_waits():
    register = Register(
        a1=Identity(own_number="4711", own_scheme="deck list", serial="HB-00001", macs=(MAC_A,), name="pc-1"),
        a2=Identity(own_number="4711", own_scheme="engine list", serial="HB-00002", name="pc-2"),
    )
    assert register.match(Identity(own_number="4711", own_scheme="deck list")).asset == 1
    assert register.match(Identity(own_number="4711")).verdict == "new"
    row = Identity(own_number="4711", own_scheme="deck list", serial="PRN-9", name="printer-9")
    assert register.match(row).verdict == "new", "a row whose serial number is another's is no row about it"


def test_a_number_tarn_issued_beside_signs_that_are_all_anothers_waits_for_a_person():
    register = Register(a1=Identity(tarn="A-00001", serial="HB-00001", name="pc-1", macs=(MAC_A,)))
    printer = register.match(Identity(tarn="A-00001", serial="QU1J-94580", name="printer-9"))
    assert (printer.verdict, printer.candidates) == ("undecided", [1])
    assert register.match(Identity(tarn="A-00001", serial="QU1J-94580", name="pc-1")).asset == 1, "a new board"
    assert register.match(Identity(tarn="A-00001")).asset == 1


def test_a_name_another_source_has_for_it_now_is_its_name_too_and_a_former_one_is_not():
    register = Register(a1=Identity(serial="HB-00001", name="pc-1", domain="s.example"))
    keys = register.keys[1] | {"short:ines's laptop"}
    told = identifiers(Identity(name="pc-1", domain="s.example", instance="dir-1"))

    def decide(also):
        known = KnownAsset(keys, "ines's laptop", "10.0.0.1", 1000, also)
        return match(told, lambda key: 1 if key in keys else None, lambda a: known, address="", at=2000).verdict

    assert decide(frozenset({"pc-1"})) == "same"
    assert decide(frozenset()) == "new"


@pytest.mark.parametrize("order", ["time", "reversed", "shuffled"])
def test_a_hostile_estate_is_joined_as_far_as_its_signs_allow_in_any_order(order):
    """Of pairs that some shared sign links more than 97 % are joined, and fewer than one joined pair in 250 wrongly."""
    seen = hostile(1200, seed=7)
    if order == "reversed":
        seen.reverse()
    elif order == "shuffled":
        random.Random(3).shuffle(seen)
    register = InMemory()
    assets = [register.take(s, found) for s, found in zip(seen, parsed(seen), strict=True)]
    result = score(seen, [register.finally_of(a) for a in assets])
    assert result.right > 0.97 * reachable(seen)
    assert result.wrongly_joined < result.right / 250
