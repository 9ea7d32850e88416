"""Today on the whole estate: what wants a hand, a board of twelve cards, a thousand labels."""

from typing import Any

from tarn.apps.estate.store.database import raw_connection
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
        Figure("today", lines * 1e3, "ms", "<= 300", f"{first * 1e3:.0f} ms the first time"),
        Figure("board_of_twelve", again * 1e3, "ms", "<= 300", f"{board_first * 1e3:.0f} ms the first time"),
        Figure("labels_1000", made, "s", "<= 3", sheet.sheet),
    ]
