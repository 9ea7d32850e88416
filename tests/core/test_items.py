"""Lists declared by their classes: what follows from a class, and what a class may not be."""

import typing

import pytest

from tarn.core.fields import GROUPS, PLURAL, SINGULAR, TYPES, is_day
from tarn.core.item import Attribute, Item, Name
from tarn.core.item_words import said, without_secrets
from tarn.core.items import SECTIONS
from tarn.core.report_rows import row_names
from tarn.core.reports import columns_of
from tarn.core.sections import ITEMS, KEYS
from tarn.core.sightings import READINGS


@pytest.mark.parametrize("section", SECTIONS.values(), ids=SECTIONS)
def test_what_knows_of_lists_follows_from_the_class(section):
    for name, attribute in section.attributes.items():
        assert attribute.type in {*TYPES, "day", "code"}, name
        assert attribute.meaning[0].islower() or attribute.meaning[0].isupper() or attribute.meaning[0].isdigit()
    assert (ITEMS[section.name], KEYS[section.name]) == (section.item, section.key)
    assert section.name in READINGS
    assert (SINGULAR[section.name], PLURAL[section.name]) == (section.one, section.many)
    asked = {n for n, a in section.attributes.items() if a.asked}
    assert set(GROUPS.get(section.name, {})) - ({"left"} if section.name == "accounts" else set()) == asked
    if asked:
        assert section.name in row_names()
        assert asked <= set(columns_of(section.name))
    assert not {n for n in section.secrets if section.attributes[n].asked}, "what is shown to few is asked by nobody"


def test_days_and_codes_are_told_from_moments_and_numbers():
    assert is_day(GROUPS["installs"]["installed"])
    assert not is_day(GROUPS["signins"]["at"])
    assert GROUPS["installs"]["used"].type == "moment"
    assert columns_of("ports")["port"] == ("Port", "code")
    assert columns_of("memory_modules")["speed"] == ("Speed", "number")


def test_a_list_that_is_not_declared_whole_is_no_list():
    with pytest.raises(TypeError, match="“colour” of a list is not declared"):

        class Sail(Item, section="sails", key=("colour",), one="sail", many="sails"):
            colour: Name

    with pytest.raises(TypeError, match="size"):

        class Mast(Item, section="masts", key=("size",), one="mast", many="masts"):
            name: typing.Annotated[Name, Attribute("its name")]

    assert not {"sails", "masts"} & set(SECTIONS)


@pytest.mark.parametrize(
    ("section", "name", "value", "words"),
    [
        ("disks", "size", 480 * 10**9, "480 GB"),
        ("memory_modules", "size", 16 << 30, "16 GB"),
        ("memory_modules", "speed", 3200, "3200 MT/s"),
        ("interfaces", "speed", 10**9, "1 Gb/s"),
        ("interfaces", "up", 0, "no"),
        ("filesystems", "full", 85, "85 %"),
        ("certificates", "ends", 1_782_000_000, "2026-06-21"),
        ("installs", "installed", 1_781_913_600, "2026-06-20"),
        ("ports", "port", 8080, "8080"),
        ("protections", "on", 1, "yes"),
        ("disks", "serial", "", "none"),
        ("accounts", "enabled", None, "none"),
    ],
)
def test_values_are_told_in_their_own_words(section, name, value, words):
    assert said(SECTIONS[section].attributes[name], value) == words


def test_secrets_are_hidden_but_for_their_end_and_nothing_else_is():
    keys = [
        {"product": "Quill", "key": "AAAAA-BBBBB-CCCCC", "state": ""},
        {"product": "Tern", "key": "…XYZ12", "state": ""},
    ]
    assert [k["key"] for k in without_secrets(SECTIONS["licence_keys"], keys)] == ["…CCCCC", "…XYZ12"]
    disks = [{"name": "sda", "serial": "S-1"}]
    assert without_secrets(SECTIONS["disks"], disks) == disks
