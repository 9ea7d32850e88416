"""Asking against the best hand-written SQL for the same question."""

from typing import Any

from tarn.apps.estate.asking.ask import context, count, question, words_of
from tarn.apps.estate.register.pages import page
from tarn.apps.estate.register.strata import columns, strata
from tarn.apps.estate.store.database import raw_connection
from tarn.core.filters.check import check
from tarn.core.filters.complete import complete
from tarn.core.filters.parse import parse
from tests.bench.figures import Figure, best
from tests.bench.synthetic import DAY, START

REGISTER = 'kind = server and place = Saltholm and os.name = "Debian GNU/Linux"'
BRACKET = "software[name = product-0007 and version < 3] and no software[name = product-0011]"
FIELDS = ["name", "kind", "os.name", "address", "memory", "place", "last_seen"]
PAST = START + DAY // 2
BANDS = ("kind", "platform", "place", "os.name", "manufacturer", "state", "department", "evidence")


def _term(field: str, text: str) -> int:
    row = raw_connection().execute("SELECT id FROM estate_term WHERE field = ? AND text = ?", (field, text)).fetchone()
    return int(row[0])


def _asked(text: str, at: int | None = None) -> Any:
    def run() -> None:
        asked = question(text, at)
        count(asked)
        page(asked, FIELDS, "name", 0, 100)

    return run


def register() -> list[Figure]:
    """A page with total, three filters and a sort; a bracket filter; both as of a past day."""
    db = raw_connection()
    values = (
        _term("standing", "register"),
        _term("kind", "server"),
        _term("os_name", "Debian GNU/Linux"),
        _term("place", "Saltholm"),
    )
    where = "s.valid_to IS NULL AND s.standing_id = ? AND s.kind_id = ? AND s.os_name_id = ? AND s.place_id = ?"

    def by_hand() -> None:
        db.execute(f"SELECT count(*) FROM estate_assetspan s WHERE {where}", values).fetchone()
        db.execute(
            "SELECT s.asset_id, s.name, k.text, o.text, s.address, s.memory, p.text, "
            "strftime('%Y-%m-%dT%H:%M:%SZ', a.last_seen, 'unixepoch') FROM estate_assetspan s "
            "JOIN estate_asset a ON a.id = s.asset_id JOIN estate_term k ON k.id = s.kind_id "
            "JOIN estate_term o ON o.id = s.os_name_id JOIN estate_term p ON p.id = s.place_id "
            f"WHERE {where} ORDER BY s.name_fold LIMIT 100",
            values,
        ).fetchall()

    def bracket_by_hand() -> None:
        wanted = [r for (r,) in db.execute(
            "SELECT r.id FROM estate_release r JOIN estate_listing p ON p.id = r.listing_id "
            "WHERE p.name_fold = 'product-0007' AND r.version_key < '400132'")]  # fmt: skip
        product = db.execute("SELECT id FROM estate_listing WHERE name_fold = 'product-0007'").fetchone()[0]
        other = db.execute("SELECT id FROM estate_listing WHERE name_fold = 'product-0011'").fetchone()[0]
        marks = ",".join(map(str, wanted))
        condition = (
            "s.valid_to IS NULL AND s.standing_id = ? AND s.asset_id IN (SELECT asset_id FROM estate_installspan "
            f"WHERE valid_to IS NULL AND listing_id = {product} AND release_id IN ({marks})) AND s.asset_id NOT IN "
            f"(SELECT asset_id FROM estate_installspan WHERE valid_to IS NULL AND listing_id = {other})"
        )
        db.execute(f"SELECT count(*) FROM estate_assetspan s WHERE {condition}", values[:1]).fetchone()
        db.execute(
            "SELECT s.asset_id, s.name, s.address, s.memory FROM estate_assetspan s "
            f"WHERE {condition} ORDER BY s.name_fold LIMIT 100",
            values[:1],
        ).fetchall()

    page_now, page_hand = best(_asked(REGISTER)), best(by_hand)
    bracket_now, bracket_hand = best(_asked(BRACKET)), best(bracket_by_hand)
    page_then, bracket_then = best(_asked(REGISTER, PAST)), best(_asked(BRACKET, PAST))
    found = count(question(REGISTER)), count(question(BRACKET))
    return [
        Figure(
            "register_page",
            page_now / page_hand,
            "× hand-written SQL",
            "<= 2",
            f"{page_now * 1e3:.1f} ms, {found[0]} found",
        ),
        Figure(
            "bracket",
            bracket_now / bracket_hand,
            "× hand-written SQL",
            "<= 2",
            f"{bracket_now * 1e3:.1f} ms, {found[1]} found",
        ),
        Figure("register_as_of", page_then / page_now, "× the present", "<= 2", f"{page_then * 1e3:.1f} ms"),
        Figure("bracket_as_of", bracket_then / bracket_now, "× the present", "<= 2", f"{bracket_then * 1e3:.1f} ms"),
    ]


def bands() -> Figure:
    """Eight bands over the whole estate, against eight GROUP BY queries."""
    db = raw_connection()
    columns(None)
    standing = _term("standing", "register")
    asked = question("")

    def by_sql() -> None:
        for column in (
            "kind_id",
            "platform_id",
            "place_id",
            "os_name_id",
            "manufacturer_id",
            "state_id",
            "department_id",
        ):
            db.execute(
                f"SELECT {column}, count(*) FROM estate_assetspan WHERE valid_to IS NULL AND standing_id = ? GROUP BY 1",
                (standing,),
            ).fetchall()
        db.execute(
            "SELECT a.sources, count(*) FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id "
            "WHERE s.valid_to IS NULL AND s.standing_id = ? GROUP BY 1",
            (standing,),
        ).fetchall()

    ours, floor = best(lambda: strata(asked, BANDS)), best(by_sql)
    return Figure(
        "strata", ours / floor, "× eight GROUP BY", "<= 0.2", f"{ours * 1e3:.2f} ms against {floor * 1e3:.1f}"
    )


def language() -> list[Figure]:
    """Reading and checking a filter; completing one."""
    text = f"({REGISTER}) and {BRACKET} and last_seen > now - 30d"
    known = context(None)
    read = parse.__wrapped__  # without what is remembered of filters asked before
    parsing = best(lambda: [check(read(text), known) for _ in range(20)]) / 20
    begun = "kind = server and software[name ~ product-00"
    completing = best(lambda: [complete(begun, len(begun), words_of, [], []) for _ in range(20)]) / 20
    return [
        Figure("filter_parse", parsing * 1e3, "ms", "<= 2", text),
        Figure("completion", completing * 1e3, "ms", "<= 5", begun),
    ]
