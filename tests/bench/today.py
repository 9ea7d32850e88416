"""Telling people on the whole estate: what wants a hand, a board of twelve cards, a thousand labels, a handbook of
sixty pages, a count taken along, and finding by a phone."""

import json
import tracemalloc
from itertools import islice
from typing import Any

import pypdfium2
from django.contrib.auth import get_user_model

from tarn.apps.counts.change import open_count
from tarn.apps.counts.inputs import CountIn
from tarn.apps.counts.reads.shown import pack
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.handbooks.change import begin, keep
from tarn.apps.handbooks.inputs import HandbookIn, HandbookNew
from tarn.apps.handbooks.issuing import issue
from tarn.apps.handbooks.writing.formats import file_of
from tarn.apps.labels.inputs import PrintIn
from tarn.apps.labels.printing import print_labels
from tarn.apps.today.boards.answers import answers
from tarn.apps.today.boards.shipped import CARDS
from tarn.apps.today.wanted import today
from tests.bench.figures import Figure, best, timed

BOARD = ("contact", "contact-kinds", "seen-by", "kinds", "systems", "missing", "grades", "late", "new-week", "at-intake",
         "toner", "disks")  # fmt: skip


def measure() -> list[Figure]:
    """Return the figures: from request to last answer, and again once the answers are remembered."""
    board: list[dict[str, Any]] = [CARDS[key].model_dump() for key in BOARD]

    def answered() -> None:
        left = board
        while left:
            left = [c for c, a in zip(left, answers(left, None), strict=True) if a["waits"]]

    first = timed(lambda: today(None))
    lines = best(lambda: today(None), 3)
    board_first = timed(answered)
    again = best(answered, 3)
    rows = raw_connection().execute("SELECT asset_id FROM estate_assetspan WHERE valid_to IS NULL LIMIT 1000")
    sheet = PrintIn(assets=[asset for (asset,) in rows], sheet="a4-24")
    made = timed(lambda: print_labels(None, sheet))
    return [
        *_told(),
        Figure("today", lines * 1e3, "ms", "<= 300", f"{first * 1e3:.0f} ms the first time"),
        Figure("board_of_twelve", again * 1e3, "ms", "<= 300", f"{board_first * 1e3:.0f} ms the first time"),
        Figure("labels_1000", made, "s", "<= 3", sheet.sheet),
    ]


def _told() -> list[Figure]:
    """Return what a handbook, a count and finding take."""
    columns = "name, kind, place, model, serial"
    blocks = [
        {"type": "live", "attrs": {"key": f"b{n}", "kind": "devices", "settings": {"columns": columns, "most": 90}}}
        for n in range(30)
    ]
    author = get_user_model().objects.create_superuser("bench", password="low-water-bench")
    made = begin(author, HandbookNew(name="Sixty pages"))
    said = HandbookIn(name="Sixty pages", document={"type": "doc", "content": blocks}, version=made.version)
    keep(author, made.pk, said)
    taken = timed(lambda: issue(author, made.pk))
    tracemalloc.start()  # by itself: it makes everything two or three times as slow
    issue(author, made.pk)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    pdf = b""

    def written() -> None:
        nonlocal pdf
        pdf = file_of(made.issues.all()[0], "pdf")[1]

    wrote = timed(written)
    pages = len(pypdfium2.PdfDocument(pdf))
    half = "kind in (workstation, laptop)"
    count = open_count(author, CountIn(name="Five thousand", filter=half))
    size = len(json.dumps(pack(count.pk)).encode())
    found = best(
        lambda: list(islice(rows_of("asset", ["name", "number", "kind"], question("salt-lt"), "", ["name"], 12), 12)), 5
    )
    return [
        Figure("handbook_issued", taken + wrote, "s", "<= 10", f"{pages} pages, {wrote:.1f} s of it the PDF"),
        Figure("handbook_memory", peak / 1e6, "MB", "<= 100", "at most while it was issued"),
        Figure("count_along", size / 1e6, "MB", "<= 5", f"{count.expected.count():,} devices"),
        Figure("phone_find", found * 1e3, "ms", "<= 150", "the question alone"),
    ]
