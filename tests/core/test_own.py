"""Fields and kinds of the company's own: values read by type, inheritance, circles, and the registry."""

import threading

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.fields import FIELDS
from tarn.core.filters.check import Context, check
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import to_text
from tarn.core.kinds import KINDS
from tarn.core.mapping import TARGETS, build
from tarn.core.mapping_guess import guess_mapping
from tarn.core.own import (
    OwnError,
    OwnField,
    OwnKind,
    address_block,
    check_field,
    checked_name,
    fields_of,
    know,
    lineage,
    read_own,
)

SIDE = OwnField("Berth side", "choice", choices=("port", "starboard"))
DRAUGHT = OwnField("Draught", "number", "m", kinds=("vessel part",))
KIND = OwnKind("vessel part")


@pytest.fixture
def known():
    know([SIDE, DRAUGHT], [KIND])
    yield
    know([], [])


@pytest.mark.parametrize(
    ("field", "raw", "value"),
    [
        (OwnField("x", "number", "m"), "3,5 m", 3.5),
        (OwnField("x", "number"), "1 200", 1200),
        (OwnField("x", "money", "EUR"), "19.90 EUR", 19.9),
        (OwnField("x", "yes/no"), "Yes", True),
        (OwnField("x", "date"), "2026-08-03", 20_668 * 86_400),
        (SIDE, "PORT", "port"),
        (OwnField("x"), "  a word ", "a word"),
        (OwnField("x", "number"), "", None),
        (OwnField("x", "number", many=True), "3; 1,5;3", "3; 1.5"),
        (OwnField("x", "date", many=True), "2026-08-03;2026-01-02", "2026-08-03; 2026-01-02"),
        (OwnField("x", many=True), " ; ", None),
        (OwnField("x", "address block"), "10.60.4.9/24", "10.60.4.9/24"),
        (
            OwnField("x", "address block"),
            "fd00::9/64, 00-11-22-AA-bb-cc, gateway fd00::1, bridge",
            "fd00::9/64, gateway fd00::1, mac 00:11:22:aa:bb:cc, name bridge",
        ),
    ],
)
def test_values_are_read_as_their_type_says(field, raw, value):
    assert read_own(field, raw) == value


@pytest.mark.parametrize(
    ("field", "raw", "says"),
    [
        (OwnField("Depth", "number", "m"), "deep", "Depth: “deep” is not a number of m"),
        (OwnField("Depth", "number"), "inf", "is not a number below"),
        (SIDE, "left", "one of: port, starboard"),
        (OwnField("x", "date"), "3.8.26", "a day such as"),
        (OwnField("x", "link"), "page.example", "begins with https://"),
        (OwnField("x", "yes/no"), "perhaps", "yes or no"),
        (OwnField("x", "number", many=True), "3; four", "“four” is not a number"),
        (OwnField("x", "address block"), "10.60.4.9/44", "an address with its mask"),
        (OwnField("x", "made of others", template="{name}"), "x", "is made of other fields"),
    ],
)
def test_what_does_not_fit_is_named(field, raw, says):
    with pytest.raises(OwnError, match=says):
        read_own(field, raw)


@given(st.text(max_size=80))
def test_a_name_that_passes_can_stand_in_a_filter(text):
    try:
        name = checked_name(text, "field")
    except OwnError:
        return
    node = parse(f'field("{name}") = x')
    assert to_text(node).startswith('field("')
    assert parse(to_text(node)) == node


def test_fields_come_down_the_tree_of_kinds_but_for_those_hidden():
    kinds = [OwnKind("vessel part"), OwnKind("winch", "vessel part", hidden=("Draught",)), OwnKind("capstan", "winch")]
    pull = OwnField("Pull", "number", "kN", kinds=("winch",))
    fields = [SIDE, DRAUGHT, pull]
    assert [f.name for f in fields_of("vessel part", fields, kinds)] == ["Berth side", "Draught"]
    assert [f.name for f in fields_of("winch", fields, kinds)] == ["Berth side", "Pull"]
    assert [f.name for f in fields_of("capstan", fields, kinds)] == ["Berth side", "Draught", "Pull"]
    assert [f.name for f in fields_of("laptop", fields, kinds)] == ["Berth side"]


def test_a_circle_of_kinds_is_shown():
    with pytest.raises(OwnError, match="a → b → a"):
        lineage("a", [OwnKind("a", "b"), OwnKind("b", "a")])


def test_a_field_is_like_any_other_once_known(known):
    context = Context(None, {}, lambda n: parse(""))
    check(parse('field("berth SIDE") = port and field("Draught") > 3 and kind = "vessel part"'), context)
    with pytest.raises(FilterError, match="one of: port, starboard"):
        check(parse('field("Berth side") = left'), context)
    mapping = guess_mapping(["Serial number", "Berth side"], [])
    assert mapping["own:Berth side"]["from"] == "Berth side"
    readings, faults = build({"name": "winch-1", "own:Draught": "4", "kind": "Vessel part"}, {}, "file.row")
    assert not faults
    assert next(r for r in readings if r.section == "decision").facts.own == {"Draught": 4}
    assert "Draught" in build({"name": "w", "own:Draught": "deep"}, {}, "file.row")[1][0].args[0]
    know([], [])
    assert not [n for n in (*FIELDS, *TARGETS) if "Draught" in n]
    assert FIELDS["kind"].choices == KINDS


@pytest.mark.parametrize(
    ("field", "says"),
    [
        (OwnField("x", "colour"), "is no type"),
        (OwnField("x", "choice", choices=("one",)), "two words or more"),
        (OwnField("x", "choice", choices=("One", "one")), "there twice"),
        (OwnField("x", "money"), "currency"),
        (OwnField("x", "text", choices=("a", "b")), "Only a choice"),
    ],
)
def test_a_field_that_cannot_be_says_why(field, says):
    with pytest.raises(OwnError, match=says):
        check_field(field)


@pytest.mark.parametrize(
    ("template", "says"),
    [
        ("", "Write which fields"),
        ("no field", "Write which fields"),
        ("{nmae}", "no field “nmae”"),
        ("{name} {", "opened and not closed"),
        ("{Made}", "made of others itself"),
    ],
)
def test_what_cannot_be_put_together_is_refused(template, says):
    know([OwnField("Made", "made of others", template="{name}")], [])
    with pytest.raises(OwnError, match=says) as refused:
        check_field(OwnField("x", "made of others", template=template))
    know([], [])
    assert refused.value.field == "template"


addresses = st.one_of(st.ip_addresses(v=4).map(lambda a: f"{a}/24"), st.ip_addresses(v=6).map(lambda a: f"{a}/64"))


@given(addresses, st.sampled_from(["", "mac 00:11:22:33:44:55", "eth0", "name port, mac 0011.2233"]))
def test_an_address_block_read_again_is_the_same(address, rest):
    try:
        once = address_block(f"{address}, {rest}")
    except ValueError:
        assert "0011.2233" in rest
        return
    assert address_block(once) == once


def test_fields_of_ones_own_are_exchanged_whole_under_whoever_goes_through_them():
    """One thread reads the registry while another makes and drops fields: each reading is of one state of it."""
    over, wrong = threading.Event(), []

    def read():
        while not over.is_set():
            try:
                names = [n for n in FIELDS if n.startswith("field:")]
            except RuntimeError as error:
                wrong.append(error)
                return
            if len(names) not in (0, 40):
                wrong.append(names)

    reading = threading.Thread(target=read)
    reading.start()
    for _ in range(200):
        know([OwnField(f"Berth {n}", "text") for n in range(40)], [])
        know([], [])
    over.set()
    reading.join(10)
    assert wrong == []


@given(st.integers(-(10**14), 10**14), st.sampled_from(["", "m", "kg"]))
def test_a_number_is_read_back_from_how_it_is_written(number, unit):
    field = OwnField("x", "number", unit)
    assert read_own(field, f"{number} {unit}".strip()) == number
    assert read_own(field, number) == number


@given(st.dates())
def test_a_day_is_held_as_its_seconds_and_a_moment_is_none(day):
    field = OwnField("x", "date")
    assert read_own(field, day.isoformat()) == (day.toordinal() - 719_163) * 86_400
    with pytest.raises(OwnError, match="is not a day such as"):
        read_own(field, f"{day.isoformat()}T10:00")


@given(st.lists(st.sampled_from(["port", "STARBOARD", " Port "]), min_size=1, max_size=4))
def test_several_values_are_each_read_and_kept_once(words):
    field = OwnField("x", "choice", choices=("port", "starboard"), many=True)
    read = read_own(field, "; ".join(words))
    assert read.split("; ") == list(dict.fromkeys(w.strip().lower() for w in words))
    assert read_own(field, read) == read
