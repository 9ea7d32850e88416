"""Statements of one's own: what the views tell, and that nothing else is read, changed or waited for."""

import pytest

from tarn.apps.estate.selections.statements import StatementError, carry_out, described

pytestmark = pytest.mark.django_db(transaction=True)


def test_the_views_tell_what_the_register_does(estate):
    found = carry_out("SELECT name, kind, memory >> 30 FROM assets WHERE standing = 'register' ORDER BY name;")
    assert found.columns == ["name", "kind", "memory >> 30"]
    assert ("salt-tix-01", "server", 32) in found.rows
    assert len(found.rows) == 4
    joined = carry_out(
        "SELECT a.name, s.product, s.version FROM software s JOIN assets a ON a.number = s.asset "
        "WHERE s.listed_as = 'tixline-server'"
    )
    assert joined.rows == [("salt-tix-01", "tixline-server", "3.9.0")]
    past = carry_out("SELECT count(*) FROM software_over_time WHERE until IS NOT NULL AND listed_as = 'old-tool'")
    assert past.rows == [(1,)]


def test_every_view_can_be_read(estate):
    for view in described():
        assert view["meaning"], view["name"]
        assert carry_out(f'SELECT * FROM "{view["name"]}"').columns == view["columns"]


@pytest.mark.parametrize(
    ("statement", "says"),
    [
        ("SELECT * FROM auth_user", "Only the views listed"),
        ("SELECT * FROM discovery_credential", "Only the views listed"),
        ("SELECT sql FROM sqlite_master", "Only the views listed"),
        ("SELECT (SELECT password FROM auth_user LIMIT 1) FROM assets", "Only the views listed"),
        ("WITH assets AS (SELECT password FROM auth_user) SELECT * FROM assets", "Only the views listed"),
        ("SELECT * FROM (SELECT password FROM auth_user) AS assets", "Only the views listed"),
        ("SELECT * FROM main.auth_user AS assets", "Only the views listed"),
        ("SELECT x.password FROM assets JOIN auth_user x", "Only the views listed"),
        ("SELECT count(*) FROM auth_user", "Only the views listed"),
        ("WITH x AS (SELECT count(*) AS n FROM auth_user) SELECT n FROM x", "Only the views listed"),
        ("SELECT sql FROM temp.sqlite_master", "Only the views listed"),
        ("SELECT name FROM assets WHERE EXISTS (SELECT 1 FROM auth_user)", "Only the views listed"),
        ("DELETE FROM estate_asset", "Only the views listed"),
        ("UPDATE assets SET name = 'x'", "Only the views listed|does not understand"),
        ("PRAGMA query_only = 0", "Only the views listed"),
        ("ATTACH DATABASE '/tmp/x.sqlite3' AS x", "Only the views listed"),
        ("CREATE TABLE x (y)", "Only the views listed"),
        ("SELECT 1; DROP TABLE estate_asset", "does not understand it: You can only execute one statement"),
        ("SELEC name FROM assets", "does not understand it"),
        ("  ;", "begins with SELECT"),
    ],
)
def test_nothing_else_is_read_and_nothing_changed(estate, statement, says):
    with pytest.raises(StatementError, match=says):
        carry_out(statement)


def test_a_statement_without_end_is_stopped(estate):
    with pytest.raises(StatementError, match=r"took longer than 0\.2 s"):
        carry_out("WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT count(*) FROM n", 0.2)


@pytest.mark.parametrize(
    "statement",
    [
        "SELECT hex(zeroblob(1000000000))",
        "WITH RECURSIVE n(x, y) AS (SELECT 1, hex(zeroblob(2000000)) UNION ALL SELECT x + 1, y || x FROM n) "
        "SELECT count(*) FROM (SELECT y FROM n ORDER BY y)",
    ],
)
def test_a_statement_that_wants_much_memory_is_stopped_and_nothing_else_is(estate, statement):
    with pytest.raises(StatementError, match=r"larger than 8 MB|MB of memory|longer than"):
        carry_out(statement, 3, 256 << 20)
    assert carry_out("SELECT 1").rows == [(1,)]


def test_a_blob_is_given_as_text(estate):
    assert carry_out("SELECT x'00ff', 1.5, NULL").rows == [("x'00ff'", 1.5, None)]


def test_more_rows_than_are_given_are_said(estate):
    found = carry_out("WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 20000) SELECT x FROM n")
    assert (len(found.rows), found.cut) == (10_000, True)


def test_only_administrators_may(estate, as_role):
    body = {"statement": "SELECT name FROM assets"}
    assert as_role("manager").post("/api/sql", body, content_type="application/json").status_code == 403
    administrator = as_role("administrator")
    answer = administrator.post("/api/sql", body, content_type="application/json")
    assert len(answer.json()["rows"]) == 4
    wrong = administrator.post("/api/sql", {"statement": "SELECT nothing"}, content_type="application/json")
    assert (wrong.status_code, wrong.json()["field"]) == (422, "statement")
    assert [v["name"] for v in administrator.get("/api/sql/views").json()][:2] == ["assets", "assets_over_time"]
