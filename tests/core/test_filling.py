"""What fill rules make of assets: worked examples, order, pins, values that do not fit; and that order never leaks."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.filling import Filled, FillError, FillRule, Ready, resolve

PLACES = {"salt": "Saltholm", "avrn": "Port Averne"}
BY_NAME = FillRule(1, "place by name", "place", "name", pattern=r"^([a-z]+)-", table=PLACES)
BY_PORT = FillRule(2, "place by switch", "place", "switch.place")


def run(rules, facts, pins=None, fits=lambda field, value: value):
    ready = [Ready(r) for r in rules]
    every = {r.number: list(facts) for r in rules}
    return [(v.asset, v.rule, v.value, v.outcome) for v in resolve(ready, every, facts, pins or {}, fits)]


@pytest.mark.parametrize(
    ("rule", "facts", "made"),
    [
        (BY_NAME, {"name": "SALT-ws-01"}, Filled("SALT-ws-01", "Saltholm")),
        (BY_NAME, {"name": "grey-ws-01"}, Filled("grey-ws-01", None)),
        (BY_NAME, {"name": "alone"}, Filled("alone", None)),
        (BY_NAME, {}, None),
        (BY_PORT, {"switch.place": "Saltholm"}, Filled("Saltholm", "Saltholm")),
        (
            FillRule(3, "n", "note", "name", pattern=r"(?P<site>\w+)-(?P<kind>\w+)-", compose="{kind} at {site}"),
            {"name": "salt-ws-01"},
            Filled("salt-ws-01", "ws at salt"),
        ),
        (FillRule(4, "n", "note", formula="memory / 1024 + 1"), {"memory": 2048}, Filled("3", "3")),
        (
            FillRule(5, "n", "note", "kind", table={"laptop": "carried", "*": "stays"}),
            {"kind": "till"},
            Filled("till", "stays"),
        ),
    ],
)
def test_worked_examples(rule, facts, made):
    assert Ready(rule).make(facts) == made


def test_the_first_rule_fills_and_the_later_one_yields():
    facts = {7: {"name": "salt-ws-01", "switch.place": "Port Averne", "place": None}}
    assert run([BY_NAME, BY_PORT], facts) == [(7, 1, "Saltholm", "fills"), (7, 2, "Port Averne", "yields")]
    facts[7]["name"] = "unknown"
    assert run([BY_NAME, BY_PORT], facts) == [(7, 1, None, "nothing"), (7, 2, "Port Averne", "fills")]


def test_a_persons_word_stands_and_what_is_so_already_is_told():
    facts = {7: {"name": "salt-ws-01", "place": "Saltholm"}, 8: {"name": "salt-ws-02", "place": "Slipway"}}
    pins = {8: {"place": ("ines", "Slipway")}}
    assert run([BY_NAME], facts, pins) == [(7, 1, "Saltholm", "same"), (8, 1, "Saltholm", "pinned")]


def test_a_value_that_does_not_fit_is_told_and_lets_the_next_rule_try():
    def fits(field, value):
        if value == "Saltholm":
            raise ValueError("no such place")
        return value

    facts = {7: {"name": "salt-ws-01", "switch.place": "Grey Ness"}}
    assert run([BY_NAME, BY_PORT], facts, fits=fits) == [(7, 1, "Saltholm", "wrong"), (7, 2, "Grey Ness", "fills")]


@pytest.mark.parametrize(
    ("rule", "part", "says"),
    [
        (FillRule(1, "n", "place"), "reads", "one of the two"),
        (FillRule(1, "n", "place", "name", pattern="(("), "pattern", "cannot be read"),
        (
            FillRule(1, "n", "place", "name", pattern="(a)(?P<b>c)", compose="{d}"),
            "compose",
            "there are: 0, 1, 2, b, value",
        ),
        (FillRule(1, "n", "place", formula="import os"), "formula", "breaks off"),
        (FillRule(1, "n", "place", formula="open(name)"), "formula", "is no arithmetic"),
    ],
)
def test_a_rule_that_cannot_be_names_its_part(rule, part, says):
    with pytest.raises(FillError, match=says) as caught:
        Ready(rule)
    assert caught.value.field == part


@given(st.dictionaries(st.integers(1, 30), st.sampled_from(["salt-1", "avrn-2", "x", ""]), min_size=1), st.booleans())
def test_of_each_asset_and_field_one_rule_at_most_fills(names, turned):
    facts = {a: {"name": n, "switch.place": "Grey Ness" if a % 2 else None} for a, n in names.items()}
    rules = [BY_PORT, BY_NAME] if turned else [BY_NAME, BY_PORT]
    out = run(rules, facts)
    fills = [a for a, _, _, outcome in out if outcome == "fills"]
    assert len(fills) == len(set(fills))
    assert len(out) == 2 * len(facts), "every rule says of every asset what came of it"
