"""How what is known of vulnerabilities stands: a ground that what is remembered may rest on."""

import sqlite3

from tarn.apps.estate.store.stamps import count_up, counted


def changed(db: sqlite3.Connection) -> None:
    """Count that documents, statuses, or what people say of them are others than before."""
    count_up(db, "advisories")


def changed_own(db: sqlite3.Connection) -> None:
    """Count that rules of our own find others than before."""
    count_up(db, "own findings")


ADVISORIES = counted("advisories")
"""Documents come by feeds; whatever is derived of them, or said of them by people, is counted."""
CARRIED = counted("carried")
"""What hangs on devices by the services that stand on them, which weighs in grades: counted as it is noted."""
OWN = counted("own findings")
"""What rules of our own find, as it is walked on with evidence and the clock."""
