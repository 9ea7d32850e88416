"""The estate in hand: products, changes, baselines, names and files, against the best that the same data allows."""

import csv
import io

import numpy as np
import xlsxwriter

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.selections.membership import members_of
from tarn.apps.estate.software import installs, products
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.filling.facts import verdicts
from tarn.apps.reports.reads.asking import ask
from tarn.apps.reports.writing import Head, as_csv, as_xlsx
from tarn.apps.software.reads import rooms
from tarn.core.filling import FillRule, Ready
from tarn.core.naming import Naming
from tarn.core.reports import Column, Definition
from tests.bench.figures import Figure, best, timed
from tests.bench.synthetic import DAY, START
from tests.documents import sighting

RULES = [f"software[product = product-{n:04d}]" for n in (3, 17, 101, 999, 2500)]


def overview() -> list[Figure]:
    """The overview against reading as many summary rows; and as of a past day, once its state is held."""
    db = raw_connection()
    db.execute("CREATE TEMP TABLE IF NOT EXISTS bench_summary AS SELECT t.id, t.name, t.publisher, count(*) AS n, "
               "min(i.valid_from) AS first FROM estate_installspan i JOIN estate_listing p ON p.id = i.listing_id "
               "JOIN estate_product t ON t.id = p.product_id WHERE i.valid_to IS NULL GROUP BY t.id")  # fmt: skip

    def summary() -> None:
        db.execute("SELECT id, name, publisher, n, first FROM bench_summary ORDER BY n DESC, name").fetchall()

    past = START + DAY // 2
    cold = timed(lambda: rooms.overview("", None, ("product",)))
    floor = best(summary)
    now = best(lambda: rooms.overview("", None, ("product",)), 3)
    then = best(lambda: rooms.overview("", past, ("product",)), 3)
    _read_a_few_again()
    again = timed(lambda: rooms.overview("", None, ("product",)))
    held = installs.installs(None)
    counting = best(lambda: held.counted(("product",), np.ones(held.most, dtype=bool), 10_000), 3)
    note = f"{now * 1e3:.0f} ms; counting alone {counting * 1e3:.0f} ms; state built once in {cold:.2f} s"
    return [
        Figure("software_overview", now / floor, "× reading summary rows", "<= 3", note),
        Figure(
            "software_after", again / cold, "× a state from nothing", "<= 0.2", f"{again:.2f} s, 100 devices read again"
        ),
        Figure("software_as_of", then / floor, "× reading summary rows", "<= 5", f"{then * 1e3:.0f} ms"),
    ]


def _read_a_few_again() -> None:
    """Take in what a hundred devices were read to hold."""
    some = raw_connection().execute("SELECT name FROM estate_assetspan WHERE valid_to IS NULL LIMIT 100").fetchall()
    told = [{"name": "product-0001", "version": "99"}]
    list(take_in(sighting(name, 3, source="bench", packages=told) for (name,) in some))


def changed() -> Figure:
    """Changes of a day, paired, against a self-join on the same indexes."""
    db = raw_connection()
    since, until = START + DAY // 2, START + 2 * DAY

    def by_hand() -> None:
        db.execute(
            "SELECT n.asset_id, n.listing_id, o.release_id, n.release_id, n.valid_from FROM estate_installspan n "
            "LEFT JOIN estate_installspan o ON o.asset_id = n.asset_id AND o.listing_id = n.listing_id "
            "AND o.valid_to = n.valid_from WHERE n.initial = 0 AND n.valid_from > ? AND n.valid_from <= ?",
            (since, until),
        ).fetchall()

    asked = question("")
    floor, ours = best(by_hand, 3), best(lambda: products.changes(asked, since, until, ("product",)), 3)
    found = len(products.changes(asked, since, until, ("product",)))
    return Figure("changes", ours / floor, "× hand-written SQL", "<= 2", f"{ours * 1e3:.0f} ms, {found:,} paired")


def lacking() -> Figure:
    """A baseline of five rules against one statement a rule."""
    db = raw_connection()

    def by_hand() -> None:
        for rule in RULES:
            name = rule.split("= ")[1].rstrip("]")
            db.execute(
                "SELECT s.asset_id FROM estate_assetspan s WHERE s.valid_to IS NULL AND s.asset_id IN (SELECT asset_id "
                "FROM estate_installspan WHERE valid_to IS NULL AND listing_id = (SELECT id FROM estate_listing "
                "WHERE name_fold = ?))",
                (name,),
            ).fetchall()

    floor, ours = best(by_hand), best(lambda: [ids(question(r)) for r in RULES])
    return Figure("baseline_of_five", ours / floor, "× hand-written SQL", "<= 2", f"{ours * 1e3:.1f} ms")


def names() -> Figure:
    """Names recognised a second once they have been seen."""
    listed = [
        (f"Harbour Tool {n % 900} {n % 7}.{n % 3} (x64)", "Harbour Ltd.", f"{n % 7}.{n % 3}") for n in range(20_000)
    ]
    naming = Naming()
    first = timed(lambda: [naming.recognise(*one) for one in listed])
    again = best(lambda: [naming.recognise(*one) for one in listed], 3)
    note = f"{len(set(listed)) / first:,.0f} a second at first sight"
    return Figure("names_recognised", len(listed) / again, "names a second", ">= 50000", note)


def filled() -> list[Figure]:
    """Devices a second that two fill rules are reckoned for; and the count that is shown while a question is built."""
    told = [
        FillRule(1, "place", "place", "name", pattern="^([a-z]+)-", table={"a": "b", "*": "elsewhere"}),
        FillRule(2, "note", "note", "kind", compose="a {value}"),
    ]
    devices = len(ids(question("")))
    took = best(lambda: verdicts([Ready(r) for r in told], {1: "", 2: ""}), 3)
    asked = "kind = server and no software[product = product-0017] and memory >= 8GB"
    live = best(lambda: count(question(asked)), 3)
    return [
        Figure("fill_rules", devices / took, "devices a second", ">= 20000", f"{took * 1e3:.0f} ms for two rules"),
        Figure("count_while_built", live * 1e3, "ms", "<= 100", asked),
    ]


def kept() -> Figure:
    """Two hundred live sets after a sweep of a hundredth of the estate, against asking all of them of everything."""
    texts = [f"kind = server and no software[product = product-{n:04d}] and memory >= {n % 9}GB" for n in range(100)]
    texts += [f"software[product = product-{n:04d}] or place = {'abcdefgh'[n % 8]}" for n in range(100)]
    whole = timed(lambda: [ids(question(t)) for t in texts])
    for text in texts:
        members_of(text)
    few = count(question("")) // 100
    some = (
        raw_connection().execute("SELECT name FROM estate_assetspan WHERE valid_to IS NULL LIMIT ?", (few,)).fetchall()
    )
    list(take_in(sighting(name, 4, source="bench", hardware={"memory": 1 << 34}) for (name,) in some))
    again = timed(lambda: [members_of(t) for t in texts])
    return Figure(
        "sets_after_sweep", again / whole, "× asking all of everything", "<= 0.1", f"{again:.2f} s for 200 sets"
    )


def files() -> list[Figure]:
    """The whole register as CSV and XLSX against csv.writer over a bare cursor, and against the library alone."""
    db = raw_connection()
    fields = ["name", "kind", "serial", "manufacturer", "model", "place", "address", "memory"]
    definition = Definition(columns=[Column(field=f) for f in fields])
    head = Head("x", "y", "now", "now", __import__("zoneinfo").ZoneInfo("UTC"))
    bare = (
        "SELECT s.name, k.text, s.serial, m.text, o.text, p.text, s.address, s.memory FROM estate_assetspan s "
        "LEFT JOIN estate_term k ON k.id = s.kind_id LEFT JOIN estate_term m ON m.id = s.manufacturer_id "
        "LEFT JOIN estate_term o ON o.id = s.model_id LEFT JOIN estate_term p ON p.id = s.place_id "
        "WHERE s.valid_to IS NULL ORDER BY s.name_fold"
    )

    def plain_csv() -> None:
        writer = csv.writer(io.StringIO())
        writer.writerows(db.execute(bare))

    rows = db.execute(bare).fetchall()

    def plain_xlsx() -> None:
        book = xlsxwriter.Workbook(io.BytesIO(), {"constant_memory": True})
        sheet = book.add_worksheet()
        for at, row in enumerate(rows):
            for place, value in enumerate(row):
                if isinstance(value, int):
                    sheet.write_number(at, place, value)
                elif value:
                    sheet.write_string(at, place, value)
        book.close()

    csv_floor, csv_ours = best(plain_csv, 3), best(lambda: [None for _ in as_csv(head, ask(definition, None))], 3)
    xlsx_floor, xlsx_ours = best(plain_xlsx, 1), best(lambda: as_xlsx(head, ask(definition, None)).close(), 1)
    return [
        Figure("report_csv", csv_floor / csv_ours, "of csv.writer over a cursor", ">= 0.4", f"{len(rows):,} rows"),
        Figure("report_xlsx", xlsx_floor / xlsx_ours, "of the library alone", ">= 0.5", f"{len(rows):,} rows"),
    ]
