"""Mappings: values as they come, faults that name their target, and the guess."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.mapping import TARGETS, UNITS, MappingError, build, read_value
from tarn.core.mapping_guess import guess_mapping


@pytest.mark.parametrize(
    ("name", "raw", "unit", "value"),
    [
        ("memory", "16 GB", "", 16 << 30),
        ("memory", "16384", "MB", 16 << 30),
        ("memory", "7,5 GiB", "", round(7.5 * (1 << 30))),
        ("mac", "7C-1E-B0-55-9B-A2", "", ("7c:1e:b0:55:9b:a2",)),
        ("mac", "7c1e.b055.9ba2", "", ("7c:1e:b0:55:9b:a2",)),
        ("signed_in", "133801632000000000", "", 1_735_689_600),
        ("checked_in", "2025-01-01T00:00:00Z", "", 1_735_689_600),
        ("checked_in", "01.01.2025", "", 1_735_689_600),
        ("encrypted", True, "", True),
        ("passcode", "No", "", False),
        ("kind", "LAPTOP", "", "laptop"),
        ("serial", "  HB\t1001 ", "", "HB 1001"),
        ("person", "n/a", "", None),
        ("cores", "8", "", 8),
    ],
)
def test_values_are_read_as_people_and_systems_write_them(name, raw, unit, value):
    assert read_value(name, raw, unit) == value


@pytest.mark.parametrize(
    ("name", "raw", "says"),
    [
        ("memory", "16", "unit"),
        ("memory", "plenty", "quantity"),
        ("mac", "7c:1e", "hardware address"),
        ("address", "10.60.4.999", "address"),
        ("kind", "lapdog", "perhaps laptop"),
        ("disabled", "perhaps", "yes or no"),
        ("signed_in", "last week", "date"),
    ],
)
def test_what_cannot_be_read_is_a_fault_that_names_its_target(name, raw, says):
    with pytest.raises(MappingError, match=says) as caught:
        read_value(name, raw)
    assert caught.value.target == name


@given(st.floats(0.5, 4096, allow_nan=False), st.sampled_from(sorted(UNITS)))
def test_memory_scales_with_its_unit(number, unit):
    assert read_value("memory", f"{number:.2f} {unit}") == round(float(f"{number:.2f}") * UNITS[unit])


@given(st.dictionaries(st.sampled_from(sorted(TARGETS)), st.text(max_size=30) | st.integers() | st.none(), max_size=8))
def test_any_row_builds_readings_or_names_its_faults(values):
    readings, faults = build(values, {}, "file")
    assert {f.target for f in faults} <= set(TARGETS)
    sections = {r.section for r in readings}
    for name, raw in values.items():
        if raw is not None and TARGETS[name].section not in sections:
            assert any(f.target == name for f in faults) or read_value(name, raw) is None or name in ("name",)


def test_a_full_name_fills_name_and_domain():
    readings, faults = build({"name": "Salt-PC-01.Skerrivane.example"}, {}, "file")
    assert not faults
    assert (readings[0].facts.name, readings[0].facts.domain) == ("salt-pc-01", "skerrivane.example")


def test_the_guess_takes_headings_units_and_looks():
    rows = [{"Gerät": "x", "Computer name": "a", "Serial No.": "HB1", "RAM (MB)": "8192", "Port": "7c:1e:b0:55:9b:a2"}]
    guessed = guess_mapping(list(rows[0]), rows)
    assert guessed["name"]["from"] == "Computer name"
    assert guessed["serial"]["from"] == "Serial No."
    assert guessed["memory"] == {"from": "RAM (MB)", "unit": "MB"}
    assert guessed["mac"]["from"] == "Port"
    assert "Gerät" not in {m["from"] for m in guessed.values()}


@pytest.mark.parametrize(
    ("values", "unit", "told"),
    [
        ({"price": "985,50", "currency": "eur"}, "", (98_550, "EUR")),
        ({"price": "1 200"}, "NOK", (120_000, "NOK")),
        ({"price": "1200", "currency": "JPY"}, "EUR", (1_200, "JPY")),
        ({"price": "985"}, "", "in which currency"),
        ({"price": "9.9999"}, "EUR", "finer than EUR goes"),
        ({"price": "-3"}, "EUR", "less than nothing"),
        ({"price": "dear"}, "EUR", "no amount such as"),
        ({"price": "3", "currency": "ducats"}, "", "three letters"),
    ],
)
def test_prices_are_read_exactly_in_their_currency(values, unit, told):
    readings, faults = build({"serial": "X1", **values}, {"price": unit}, "file")
    if isinstance(told, str):
        assert any(told in str(f) for f in faults)
    else:
        facts = next(r.facts for r in readings if r.section == "acquisition")
        assert (faults, (facts.price, facts.currency)) == ([], told)


def test_one_value_that_cannot_be_takes_no_other_with_it():
    readings, faults = build({"processor": "Quoin 4", "cores": 1 << 63}, {}, "file")
    assert [f.target for f in faults] == ["cores"]
    assert (readings[0].facts.processor, readings[0].facts.cores) == ("Quoin 4", None)
