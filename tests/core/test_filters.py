"""The filter language: its faces turn into each other, its errors name their place."""

from datetime import datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from pydantic import ValidationError

from tarn.core.fields import FIELDS, GROUPS
from tarn.core.filters.check import RESTS_ON, Cond, Context, Either, Every, Without, check
from tarn.core.filters.complete import complete
from tarn.core.filters.draft import DraftGroup, DraftRule, draft_of, problems_of, tree_of
from tarn.core.filters.english import english
from tarn.core.filters.narrow import asked_by, conditions, excluding, narrowed, widened
from tarn.core.filters.parse import MOST_TEXT, FilterError, parse
from tarn.core.filters.plain import narrowing
from tarn.core.filters.tree import EVERYTHING, Compare, Has, Not, Plain, Words, from_json, to_json, to_text
from tarn.core.filters.tree import All as AllOf
from tarn.core.filters.tree import Any_ as AnyOf
from tarn.core.filters.values import Clock

LONDON = ZoneInfo("Europe/London")
NOON = 1_785_762_000  # 2026-08-03 13:00 in London
SETS = {"a": "in set b", "b": "in set c", "c": "in set a", "fine": "kind = server"}
CONTEXT = Context(
    Clock(NOON, LONDON), {"suites": (Plain("Quill Office"),)}, lambda n: parse(SETS[n]), lambda: list(SETS)
)

EXAMPLES = [
    'kind = server and place in (Saltholm, "Port Averne")',
    "memory < 16GB and not state = retired",
    "name ~ tix",
    "name ~ /^(salt|avrn)-/",
    "software[name ~ quill and version < 11]",
    "no software[name in @suites]",
    "count software > 200",
    "count interfaces[speed >= 1Gb] = 2",
    "last_seen < now - 30d",
    "last_seen in 2026-08-01 .. today",
    "manufacturer = none or place != none",
    "address in 10.60.4.0/24",
    'in set "fine"',
    "tansy laptop",
    "unread accounts and not unread system",
    "filesystems[mount = /]",
    "guest of [place = Vault]",
    "powered by [name = ups] heard within 2w and not called by [kind = kiosk] heard within 12h",
    "no talks to [name = db] or depends on [kind = switch and not plugged into [place = Vault]]",
    "not (name = a or name = b) and (kind = server or kind = router)",
    'name = "and" and name = "two words" and name ~ "a \\"quote\\""',
    "",
]


@pytest.mark.parametrize("text", EXAMPLES)
def test_text_tree_and_json_turn_into_each_other(text):
    tree = parse(text)
    again = parse(to_text(tree))
    assert to_json(again) == to_json(tree)
    assert to_text(from_json(to_json(tree))) == to_text(tree)
    check(tree, CONTEXT)
    assert english(tree).startswith(("assets", "all assets"))


_word = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), min_size=1, max_size=12)
_leaf = st.one_of(
    st.builds(
        Compare,
        st.sampled_from(["name", "serial", "place"]),
        st.sampled_from(["=", "!=", "~"]),
        st.builds(Plain, _word),
    ),
    st.builds(lambda w: Words((w,)), _word),
    st.builds(lambda w, no: Has("software", Compare("name", "~", Plain(w)), no), _word, st.booleans()),
)
_trees = st.recursive(
    _leaf,
    lambda inner: st.one_of(
        st.builds(Not, inner),
        st.builds(lambda a, b: AllOf((a, b)), inner, inner),
        st.builds(lambda a, b: AnyOf((a, b)), inner, inner),
    ),
    max_leaves=6,
)


def _plain(node):
    """Drop how a value was quoted: it carries no meaning."""
    if isinstance(node, dict):
        return {k: _plain(v) for k, v in node.items() if k != "quoted"}
    return [_plain(n) for n in node] if isinstance(node, list) else node


@example(Words(("/",), 0))
@given(_trees)
def test_any_tree_reads_back_from_its_text(tree):
    text = to_text(tree)
    assert to_text(parse(text)) == text
    assert _plain(to_json(parse(text))) == _plain(to_json(parse(to_text(parse(text)))))


@pytest.mark.parametrize("text", EXAMPLES)
def test_a_filter_is_built_of_its_draft_again(text):
    tree = parse(text)
    draft = draft_of(tree)
    assert to_text(tree_of(draft) or EVERYTHING) == to_text(tree)
    assert problems_of(draft, lambda node: check(parse(to_text(node)), CONTEXT)) == {}


@given(_trees)
def test_any_tree_is_built_of_its_draft_again(tree):
    text = to_text(tree)
    again = to_text(tree_of(draft_of(parse(text))) or EVERYTHING)
    assert to_text(parse(again)) == again
    # A group within a group of the same kind and “not” twice are drawn as they are.
    assert sorted(again.replace("(", "").replace(")", "").split()) == sorted(
        to_text(parse(text)).replace("(", "").replace(")", "").split()
    )


@pytest.mark.parametrize(
    ("typed", "written"),
    [
        ("Saltholm", "Saltholm"),
        ("Port Averne", '"Port Averne"'),
        ("none", '"none"'),
        ("@suites", "@suites"),
        ("/^(a|b)/", "/^(a|b)/"),
        ("now - 30d", "now - 30d"),
        ("16 GB", "16GB"),
        ("4GB .. 8GB", "4GB .. 8GB"),
        ("10.60.4.0/24", "10.60.4.0/24"),
        ('say "so"', '"say \\"so\\""'),
        ("R or D", '"R or D"'),
        ("a and name = b", '"a and name = b"'),
    ],
)
def test_what_is_typed_is_a_value_and_never_more(typed, written):
    rule = DraftRule(type="rule", id=1, field="name", op="=", text=typed)
    assert to_text(tree_of(rule)) == f"name = {written}"


def test_what_is_not_whole_is_left_out_and_what_is_wrong_is_told_of_its_item():
    def rule(number, field, op, text=""):
        return {"type": "rule", "id": number, "field": field, "op": op, "text": text}

    def group(number, *items, mode="all"):
        return {"type": "group", "id": number, "mode": mode, "items": list(items)}

    def bracket(item, quantity, inner, **more):
        return {"type": "bracket", "id": item, "list": "software", "quantity": quantity, "inner": inner, **more}

    draft = DraftGroup.model_validate(
        group(
            1,
            rule(2, "memory", "<", "lots"),
            rule(3, "kind", "="),
            rule(4, "place", "in", "Port Averne, Oropol"),
            bracket(5, "no", group(6, rule(7, "version", "<", "11"), rule(8, "nam", "=", "x"))),
            bracket(9, "count", group(10), op=">", number="many"),
            bracket(11, "some", group(12)),
            group(13, group(14), mode="any"),
            {"type": "set", "id": 15, "name": "fein"},
            {"type": "written", "id": 16, "text": "and"},
        )
    )
    wrong = problems_of(draft, lambda node: check(parse(to_text(node)), CONTEXT))
    assert sorted(wrong) == [2, 8, 15, 16]
    assert "“lots” is no value for memory" in wrong[2]
    assert "nam" in wrong[8]
    draft.items = [one for one in draft.items if one.id in (3, 4, 9, 11, 13)]
    assert to_text(tree_of(draft)) == 'place in ("Port Averne", Oropol) and count software > 0'


def test_a_draft_names_fields_and_nothing_else():
    for field in ("kind = server or name", "name\n", "(name"):
        with pytest.raises(ValidationError):
            DraftRule(type="rule", id=1, field=field, op="=", text="x")


@pytest.mark.parametrize(
    ("asked", "condition", "narrow", "widen", "exclude"),
    [
        ("", "kind = kiosk", "kind = kiosk", "", "not kind = kiosk"),
        (
            "kind = server or kind = router",
            "place = Oropol",
            "(kind = server or kind = router) and place = Oropol",
            "kind = server or kind = router",
            "(kind = server or kind = router) and not place = Oropol",
        ),
        # The same is known however it is written, and asked once.
        ('Kind  =  "Server" and name ~ a', "kind = server", "Kind = Server and name ~ a", "name ~ a", None),
        (
            "kind = till and last_seen < now - 1d and last_seen >= now - 7d",
            "last_seen < now - 1d and last_seen >= now - 7d",
            "kind = till and last_seen < now - 1d and last_seen >= now - 7d",
            "kind = till",
            None,
        ),
        (
            'software[name ~ a and version < 2] and name = "x and y"',
            'name = "x and y"',
            'software[name ~ a and version < 2] and name = "x and y"',
            "software[name ~ a and version < 2]",
            None,
        ),
    ],
)
def test_a_filter_is_narrowed_widened_and_rid_of_a_condition(asked, condition, narrow, widen, exclude):
    tree, by = parse(asked), parse(condition)
    assert to_text(narrowed(tree, by)) == narrow
    assert to_text(widened(tree, by)) == widen
    assert asked_by(narrowed(tree, by))(by)
    assert not asked_by(widened(tree, by))(by)
    if exclude is not None:
        assert to_text(excluding(tree, by)) == exclude


def test_letter_case_tells_patterns_apart_and_nothing_else():
    assert asked_by(parse("place = Saltholm and name ~ ws"))(parse('place = "saltholm"'))
    assert not asked_by(parse(r"name = /\S+/"))(parse(r"name = /\s+/"))


@given(_trees, _trees)
def test_what_is_narrowed_is_widened_to_what_was(tree, by):
    tree, by = parse(to_text(tree)), parse(to_text(by))
    there = {to_text(one).casefold() for one in conditions(tree)}
    if any(to_text(one).casefold() in there for one in conditions(by)):
        return
    assert to_text(widened(narrowed(tree, by), by)) == to_text(
        tree if len(conditions(tree)) == 1 else AllOf(conditions(tree))
    )
    assert narrowed(narrowed(tree, by), by) == narrowed(tree, by)


def test_and_binds_tighter_than_or():
    tree = parse("name = a or name = b and name = c")
    assert isinstance(tree, AnyOf)
    assert isinstance(tree.items[1], AllOf)


@pytest.mark.parametrize(
    ("text", "place", "says", "try_"),
    [
        ("knid = server", "knid", "no field", "kind"),
        ("kind = sever", "sever", "no value for kind", "server"),
        ("software[nam = x]", "nam", "no field", "name"),
        ("softwear[name = x]", "softwear", "no list", "software"),
        ("memory < big", "big", "quantity", None),
        ("place = Port Averne", "Averne", "quotes", '"Port Averne"'),
        ("name < 3", "name", "not ordered", None),
        ("address in 10.60.4.1/24", "10.60.4.1/24", "10.60.4.0/24", None),
        ("last_seen < 2026-13-01", "2026-13-01", "no value", None),
        ("name ~ /(a/", "/(a/", "refused", None),
        (r"name ~ /(a)\1/", r"/(a)\1/", "refused", None),
        ("name in @suite", "@suite", "no phrase", "@suites"),
        ("in set fin", "fin", "no set", '"fine"'),
        ('field("Berth side") = port', "f", "no field of its own", None),
        ("depends on [nmae = x]", "nmae", "no field", "name"),
        ("memory ~ 8", "memory", "looks for a piece of text", None),
        ("last_seen ~ 2026", "last_seen", "looks for a piece of text", None),
        ("software[ruling ~ bar]", "ruling", "one of: permitted", None),
        ("kind ~ /serv/", "kind", "one of: server", None),
        ('place = ""', '""', "place = none", None),
        ("mac = 3c:52", "3c:52", "mac ~ 3c:52", None),
        ("connections[peer in 10.60.4.9/24]", "10.60.4.9/24", "10.60.4.0/24", None),
        ("kind = server, laptop", ",", "parentheses", "kind in (server, laptop)"),
        ("kind = server)", ")", "not opened", None),
        ("last_seen < now - 30days", "- 30days", "30d", "30d"),
        ("person = ana@x.example", "ana@x.example", "quotes", '"ana@x.example"'),
        ("filesystems[mount = /boot/efi]", "/boot/efi", "quotes", '"/boot/efi"'),
        ("(" * 60 + "name = a" + ")" * 60, "(", "nested", None),
        ("not " * 60 + "name = a", "not", "nested", None),
        ("kind & server", "&", "no meaning", None),
        ("name = a and and name = b", "and", "cannot stand here", None),
    ],
)
def test_errors_name_the_place_and_the_nearest_known_name(text, place, says, try_):
    with pytest.raises(FilterError) as caught:
        check(parse(text), CONTEXT)
    assert says in caught.value.message
    assert text[caught.value.start :].startswith(place[:1])
    assert try_ is None or try_ in caught.value.try_


@pytest.mark.parametrize("text", ["(name = a", "software[name = a", "kind =", 'name = "x', "name = a or"])
def test_unfinished_filters_say_what_is_missing(text):
    with pytest.raises(FilterError) as caught:
        parse(text)
    assert caught.value.end >= caught.value.start


def test_too_long_a_filter_is_refused():
    with pytest.raises(FilterError, match="characters"):
        parse("a" * (MOST_TEXT + 1))


def test_sets_that_ask_for_each_other_are_refused_with_the_path():
    with pytest.raises(FilterError, match="a → b → c → a"):
        check(parse("in set a"), CONTEXT)


def _value(text: str):
    checked = check(parse(text), CONTEXT)
    while isinstance(checked, Either | Every) and len(checked.items) == 1:
        checked = checked.items[0]
    return checked.value if isinstance(checked, Cond) else checked


def test_quantities_have_units():
    assert _value("memory = 16GB") == 16 * 2**30
    assert check(parse("disks[size > 480GB]"), CONTEXT).inner.value == 480 * 10**9
    assert check(parse("interfaces[speed = 1Gb]"), CONTEXT).inner.value == 10**9


def test_days_begin_in_the_companys_zone():
    # 3 August 2026 begins in London at 23:00 UTC of the day before (summer time).
    first, after = _value("last_seen = today")
    assert (first, after - first) == (1_785_711_600, 86_400)
    assert _value("last_seen < today - 1mo") == 1_783_033_200  # 3 July
    assert _value("last_seen >= 2026-03-29 + 1d") - _value("last_seen >= 2026-03-29") == 82_800  # the clocks go on


def test_not_equal_counts_what_is_absent():
    assert isinstance(check(parse("place != Saltholm"), CONTEXT), Without)


def test_every_field_has_a_meaning_and_can_be_compared():
    for group, known in [("", FIELDS), *GROUPS.items()]:
        for field in known.values():
            assert field.meaning
            text = f"{group}[{field.name} != none]" if group else f"{field.name} != none"
            check(parse(text), CONTEXT)


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("", "name"),
        ("ki", "kind"),
        ("kind ", "="),
        ("kind = s", "server"),
        ("kind = server ", "and"),
        ("kind = server and pl", "platform"),
        ("software[na", "name"),
        ("software[name ~ qu", '"Quill Office"'),
        ("in set fi", "fine"),
        ("name in @", "@suites"),
        ("last_seen < ", "today"),
    ],
)
def test_completion_offers_what_may_stand_there(text, first):
    offers = complete(text, len(text), lambda f, b, n: ["Quill Office"], ["suites"], ["fine"])
    assert offers
    assert offers[0].text == first
    assert text[: offers[0].start] + offers[0].text


@pytest.mark.parametrize("spelt", ["3C:52:82:00:01:ab", "3c-52-82-00-01-ab", "3c52.8200.01ab", "3c52820001AB"])
def test_hardware_addresses_are_read_in_every_common_spelling(spelt):
    assert _value(f"mac = {spelt}") == "3c:52:82:00:01:ab"
    assert _value(f"mac ~ {spelt[:7]}").startswith("3c:52")


ROWS = {"name": ("Name", "text"), "devices": ("Devices", "number"), "ends": ("Ends", "day"), "at": ("When", "moment")}


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("devices < 5", ["b"]),
        ("devices = none", ["c"]),
        ("devices != 9", ["b", "c"]),
        ("ends <= 2026-08-03", ["a"]),
        ("ends in 2026-08-03 .. 2026-12-31", ["a", "b"]),
        ("at < 2026-08-03T10:00:00Z or name ~ /^c/", ["a", "c"]),
        ("not name in (a, b)", ["c"]),
    ],
)
def test_rows_in_hand_are_narrowed_by_the_same_language(text, found):
    rows = [
        {"name": "a", "devices": 9, "ends": "2026-08-03", "at": "2026-08-03T09:59:59Z"},
        {"name": "b", "devices": 3, "ends": "2026-12-01", "at": "2026-08-03T10:00:00Z"},
        {"name": "c", "devices": None, "ends": None, "at": ""},
    ]
    wanted = narrowing(text, ROWS, "row", CONTEXT)
    assert [r["name"] for r in rows if wanted(r)] == found


@pytest.mark.parametrize("zone", ["Pacific/Auckland", "America/Anchorage", "Europe/London", "UTC"])
def test_a_day_is_the_same_day_in_any_time_zone(zone):
    """3 August 2026 is stored as its first second in UTC; a moment begins where the company is."""
    known = Context(Clock(NOON, ZoneInfo(zone)), {}, lambda n: parse(SETS[n]), lambda: list(SETS))
    stored = 1_785_715_200
    first, after = check(parse("bought = 2026-08-03"), known).value
    assert first <= stored < after
    assert check(parse("bought < 2026-08-03"), known).value <= stored
    seen = check(parse("last_seen = 2026-08-03"), known).value[0]
    assert seen - stored == -int(datetime(2026, 8, 3, tzinfo=ZoneInfo(zone)).utcoffset().total_seconds())


@pytest.mark.parametrize(
    ("text", "rests_on"),
    [
        ("kind = server", set()),
        ('name ~ nowell or note ~ "not today"', set()),
        ("last_seen < now - 30d", {"clock"}),
        ("first_seen = today", {"clock"}),
        ("first_seen in 2026-01-01 .. today", {"clock"}),
        ("last_seen < 2026-03-01", set()),
        ("not (place in Saltholm)", {"trees"}),
        ("software[ruling = barred]", {"rulings"}),
        ("person.left = yes", {"people"}),
        ("in set recent", {"sets", "clock"}),
        ("kind = @crew", {"phrases"}),
        ("disks[size > 1TB] and signins[at > now - 7d]", {"clock"}),
    ],
)
def test_a_question_knows_what_it_rests_on_beside_evidence(text, rests_on):
    sets = {"recent": "last_seen > now - 7d"}
    known = Context(Clock(NOON, ZoneInfo("UTC")), {"crew": (Plain("server", True),)}, lambda n: parse(sets[n]))
    check(parse(text), known)
    assert known.rests_on == rests_on
    assert known.rests_on <= set(RESTS_ON)
