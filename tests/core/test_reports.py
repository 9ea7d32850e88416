"""Reports: columns and formulas are checked at their place; groups and totals agree with the rows."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.formula import TODAY, Formula, FormulaError
from tarn.core.reports import Column, Definition, ReportError, Total, check, lines


def definition(*columns, **rest):
    made = [Column(formula=c[1:]) if c.startswith("=") else Column(field=c) for c in columns]
    return Definition(columns=made, **rest)


def told(made, rows):
    return [(li.kind, li.keys, li.values or li.totals, li.rows) for li in lines(made, check(made), rows)]


def test_groups_have_figures_and_the_whole_too():
    """Worked: memory 8 + 16 in Saltholm, 4 and one unknown at Averne; mean over what is known, 28 / 3."""
    made = definition(
        "place", "name", "memory",
        group_by=["place"],
        totals=[Total(column="name"), Total(column="memory", function="sum"), Total(column="memory", function="mean")],
    )  # fmt: skip
    rows = [
        {"place": "Averne", "name": "a", "memory": 4},
        {"place": "Averne", "name": "b", "memory": None},
        {"place": "Saltholm", "name": "c", "memory": 8},
        {"place": "Saltholm", "name": "d", "memory": 16},
    ]
    assert told(made, rows) == [
        ("row", (), ["Averne", "a", 4], 0),
        ("row", (), ["Averne", "b", None], 0),
        ("group", ("Averne",), [2, 4, 4.0], 2),
        ("row", (), ["Saltholm", "c", 8], 0),
        ("row", (), ["Saltholm", "d", 16], 0),
        ("group", ("Saltholm",), [2, 24, 12.0], 2),
        ("whole", (), [4, 28, 9.333333], 4),
    ]


def test_formulas_reckon_with_the_columns_before_them():
    made = definition("memory", "cores", "=memory / cores", "=(memory - 2) * -1")
    assert [li.values for li in lines(made, check(made), [{"memory": 16, "cores": 4}, {"memory": 16, "cores": 0}])] == [
        [16, 4, 4.0, -14.0],
        [16, 0, None, -14.0],
    ]
    assert Formula("asset.cores + 1", "x").value({}) is None


@pytest.mark.parametrize(
    ("made", "field", "says"),
    [
        (definition("name", row="toy"), "row", "nothing a row may be"),
        (Definition(columns=[]), "columns", "at least one"),
        (definition("nmae"), "columns", "Did you mean name"),
        (definition("name", "name"), "columns", "twice"),
        (definition("=memory / cores"), "columns", "no column before it"),
        (definition("memory", "=memory("), "columns", "breaks off"),
        (definition("memory", "=open('x')"), "columns", "no arithmetic"),
        (definition("memory", "=memory ** 9"), "columns", "no arithmetic"),
        (definition("memory", "=__import__"), "columns", "no column before it"),
        (Definition(columns=[Column()]), "columns", "field or a formula"),
        (definition("name", group_by=["place"]), "group_by", "no column"),
        (definition("name", totals=[Total(column="name", function="sum")]), "totals", "no number"),
        (definition("name", totals=[Total(column="memory")]), "totals", "no column"),
        (definition("name", sort="-memory"), "sort", "no column"),
        (definition("name", inner="full > 90"), "inner", "report’s filter"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(made, field, says):
    with pytest.raises(ReportError) as refused:
        check(made)
    assert (refused.value.field, says in str(refused.value)) == (field, True)


_ROWS = st.lists(
    st.fixed_dictionaries(
        {"place": st.sampled_from([None, "a", "b"]), "kind": st.sampled_from("xy"), "memory": st.none() | st.integers(0, 99)}
    )
)  # fmt: skip


@given(_ROWS)
def test_the_groups_figures_add_up_to_the_whole(rows):
    made = definition(
        "place", "kind", "memory",
        group_by=["place", "kind"],
        totals=[Total(column="memory", function="sum"), Total(column="memory"), Total(column="kind", function="distinct")],
    )  # fmt: skip
    rows.sort(key=lambda r: (r["place"] or "", r["kind"]))
    out = list(lines(made, check(made), [dict(r) for r in rows]))
    whole = out[-1]
    assert (whole.kind, whole.rows, sum(li.kind == "row" for li in out)) == ("whole", len(rows), len(rows))
    for depth in (1, 2):
        groups = [li for li in out if li.kind == "group" and len(li.keys) == depth]
        assert sum(li.totals[0] or 0 for li in groups) == (whole.totals[0] or 0)
        assert sum(li.totals[1] for li in groups) == whole.totals[1]
    assert whole.totals[2] == len({r["kind"] for r in rows})


def test_days_are_taken_from_days_and_names_are_as_they_are_written():
    row = {"bought": "2026-01-01", "warranty.end": "2026-12-31", "field:Berth side": 4, "Rank": 3, TODAY: "2026-01-11"}
    days = ("bought", "warranty.end")
    assert Formula("warranty.end - bought", "x", days).value(row) == 364
    assert Formula('(today - bought) / 10 * field("Berth side") + Rank', "x", days).value(row) == 7
    assert Formula("warranty.end - bought", "x", days).value({**row, "bought": None}) is None
    for text in ("bought + 1", "bought", "-bought", "today - 1", "bought * 2"):
        with pytest.raises(FormulaError, match="day"):
            Formula(text, "x", days)
