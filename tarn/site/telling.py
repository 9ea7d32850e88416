"""`tarn today`: what wants a hand, for scripts and for a look from a shell."""

from typing import Annotated

import typer

from tarn.site.asking import fail
from tarn.site.output import write_rows
from tarn.site.ready import ready

LINE = ("key", "grade", "count", "text", "beside", "to")


def today(format: Annotated[str, typer.Option("--format", help="table, json or csv")] = "table") -> None:
    """List what wants a hand in the whole company, the most pressing first."""
    ready()
    if format not in ("table", "json", "csv"):
        fail(f"“{format}” is no format here; one of: table, json, csv.")
    from tarn.apps.today.wanted import today as wanted

    write_rows(({n: w[n] for n in LINE} for w in wanted(None, [])["wants"]), list(LINE), format)  # type: ignore[literal-required]
