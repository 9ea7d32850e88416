"""Filters against a model: any filter, compiled to SQL, finds just the assets a plain evaluation finds."""

from dataclasses import dataclass, field
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tarn.apps.estate.asking.ask import context, ids, question, visible_among
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.strata import columns
from tarn.apps.people.scope import limited_to
from tarn.core.filters.check import Checked, Cond, Either, Every, Number, Some, Without, check
from tarn.core.filters.parse import parse
from tarn.core.filters.tree import All, Any_, Compare, Counted, Has, Node, Not, Plain, Presence, to_text
from tarn.core.text import fold
from tarn.core.versions import version_key
from tests.documents import DAY, START, packages, sighting

PLACES, NAMES, PRODUCTS, VERSIONS = (
    ["Saltholm", "Tansy", "Élan"],
    ["alpha", "beta", "gamma"],
    ["quill", "tix"],
    ["1", "2", "10", ""],
)


OWNERS = ["North", "South", ""]
"""Whose the devices are, by turns; every third is nobody's."""


@dataclass
class Device:
    """What is held of a device on one day."""

    fields: dict[str, Any]
    software: list[dict[str, str]] = field(default_factory=list)
    disks: list[dict[str, Any]] = field(default_factory=list)


WORLD: list[list[Device]] = [
    [
        Device(
            {
                "name": f"{NAMES[i % 3]}-{i}",
                "place": [*PLACES, None][(i + day) % 4],
                "memory": [None, 4, 8, 16][(i * 3 + day) % 4],
                "cores": [2, 4, None][i % 3],
                "os.version": [None, "9", "10", "11.2"][(i + 2 * day) % 4],
            },
            [{"name": PRODUCTS[j], "version": VERSIONS[(i + j + day) % 4]} for j in range((i + day) % 3)],
            [{"name": f"sd{j}", "size": (j + 1) * 10**9} for j in range(i % 3)],
        )
        for i in range(12)
    ]
    for day in (0, 1)
]


def hand_in() -> None:
    """Hand in both days."""
    documents = []
    for day, devices in enumerate(WORLD):
        for i, d in enumerate(devices):
            hardware = {
                k: v
                for k, v in (("memory", d.fields["memory"] and d.fields["memory"] << 30), ("cores", d.fields["cores"]))
                if v
            }
            documents.append(
                sighting(
                    d.fields["name"],
                    day,
                    identity={"serial": f"SER-{i:03}"},
                    hardware=hardware,
                    system={"os_version": d.fields["os.version"]} if d.fields["os.version"] else {"description": "x"},
                    placement={
                        **({"place": d.fields["place"]} if d.fields["place"] else {"address": "10.0.0.1"}),
                        **({"organisation": OWNERS[i % 3]} if OWNERS[i % 3] else {}),
                    },
                    packages=packages(**{s["name"]: s["version"] for s in d.software}),
                    disks=d.disks,
                )
            )
    list(take_in(documents))
    # A second witness of the same disks: what two tell of is there once.
    again = [
        sighting(d.fields["name"], 1, source="other", identity={"serial": f"SER-{i:03}"}, disks=d.disks)
        for i, d in enumerate(WORLD[1])
        if d.disks
    ]
    list(take_in(again))


def told(cond: Cond, value: Any) -> bool:
    """Evaluate one condition plainly."""
    kind = cond.field.type
    if cond.op == "present":
        return value not in (None, "")
    if value in (None, ""):
        return False  # what has no value is neither more nor less than anything
    if cond.op == "contains":
        return cond.value in fold(str(value))
    mine = version_key(str(value)) if kind == "version" else fold(value) if kind in ("text", "choice") else value
    if kind == "memory":
        mine = value << 30
    match cond.op:
        case "=":
            return bool(mine == cond.value)
        case "<":
            return bool(mine < cond.value)
        case "<=":
            return bool(mine <= cond.value)
        case ">":
            return bool(mine > cond.value)
        case ">=":
            return bool(mine >= cond.value)
    raise AssertionError(cond.op)


def holds(checked: Checked, device: Device, item: dict[str, Any] | None = None) -> bool:
    """Evaluate a checked filter plainly."""
    match checked:
        case Every(items):
            return all(holds(i, device, item) for i in items)
        case Either(items):
            return any(holds(i, device, item) for i in items)
        case Without(inner):
            return not holds(inner, device, item)
        case Cond(f):
            return told(checked, device.fields.get(f.name) if item is None else item.get(f.name))
        case Some(group, inner):
            return any(inner is None or holds(inner, device, i) for i in getattr(device, group))
        case Number(group, inner, op, number):
            n = sum(inner is None or holds(inner, device, i) for i in getattr(device, group))
            return {"=": n == number, "<": n < number, "<=": n <= number, ">": n > number, ">=": n >= number}[op]
    raise TypeError(checked)


_order = st.sampled_from(["=", "!=", "<", "<=", ">", ">="])
_text = st.sampled_from(["=", "!=", "~", "!~"])
_leaves = st.one_of(
    st.builds(Compare, st.just("name"), _text, st.builds(Plain, st.sampled_from([*NAMES, "alpha-3", "ALPHA", "a"]))),
    st.builds(Compare, st.just("place"), _text, st.builds(Plain, st.sampled_from([*PLACES, "elan", "nowhere"]))),
    st.builds(Compare, st.just("memory"), _order, st.builds(Plain, st.sampled_from(["4GB", "8GB", "12GB"]))),
    st.builds(Compare, st.just("cores"), _order, st.builds(Plain, st.sampled_from(["2", "3", "4"]))),
    st.builds(Compare, st.just("os.version"), _order, st.builds(Plain, st.sampled_from(["9", "10", "11"]))),
    st.builds(Presence, st.sampled_from(["place", "memory", "os.version"]), st.booleans()),
)
_software = st.one_of(
    st.builds(Compare, st.just("name"), _text, st.builds(Plain, st.sampled_from([*PRODUCTS, "q"]))),
    st.builds(Compare, st.just("version"), _order, st.builds(Plain, st.sampled_from(VERSIONS[:3]))),
    st.builds(Presence, st.just("version"), st.booleans()),
)
_disk = st.builds(Compare, st.just("size"), _order, st.builds(Plain, st.sampled_from(["1GB", "2GB"])))


def _joined(leaves: Any, most: int) -> Any:
    return st.recursive(
        leaves,
        lambda inner: st.one_of(
            st.builds(Not, inner),
            st.builds(lambda a, b: All((a, b)), inner, inner),
            st.builds(lambda a, b: Any_((a, b)), inner, inner),
        ),
        max_leaves=most,
    )


_brackets = st.one_of(
    st.builds(Has, st.just("software"), _joined(_software, 3), st.booleans()),
    st.builds(Has, st.just("disks"), _joined(_disk, 2), st.booleans()),
    st.builds(Has, st.sampled_from(["software", "disks"]), st.none(), st.just(True)),
    st.builds(
        Counted,
        st.sampled_from(["software", "disks"]),
        _order,
        st.builds(Plain, st.sampled_from(["0", "1", "2"])),
        st.none(),
    ),
    st.builds(
        Counted,
        st.just("software"),
        _order,
        st.builds(Plain, st.sampled_from(["0", "1", "2"])),
        _joined(_software, 2),
    ),
)
_filters = _joined(st.one_of(_leaves, _brackets), 6)


@pytest.mark.django_db
@settings(
    max_examples=250, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow]
)
@given(tree=_filters, day=st.sampled_from([0, 1]))
def test_sql_finds_what_a_plain_evaluation_finds(world: None, tree: Node, day: int) -> None:
    text = to_text(tree)
    at = START + DAY // 2 if day == 0 else None
    checked = check(parse(text), context(at))
    expected = {i + 1 for i, device in enumerate(WORLD[day]) if holds(checked, device)}
    assert set(ids(question(text, at, standing=None))) == expected, text


@pytest.mark.django_db
@settings(
    max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow]
)
@given(tree=_filters, day=st.sampled_from([0, 1]), mine=st.sampled_from([("North",), ("South",), ("North", "South")]))
def test_whoever_is_limited_finds_their_own_part_of_it(
    world: None, tree: Node, day: int, mine: tuple[str, ...]
) -> None:
    text = to_text(tree)
    at = START + DAY // 2 if day == 0 else None
    checked = check(parse(text), context(at))
    theirs = {i + 1 for i in range(len(WORLD[day])) if OWNERS[i % 3] in mine}
    expected = {i + 1 for i, device in enumerate(WORLD[day]) if holds(checked, device)} & theirs
    with limited_to(frozenset(mine) or None):
        asked = question(text, at, standing=None)
        assert set(ids(asked)) == expected, text
        assert set(columns(at).assets.tolist()) == theirs
        assert visible_among(range(1, 30), at) == theirs


@pytest.fixture
def world(db: Any) -> None:
    """Both days of the model, in the tables."""
    hand_in()
