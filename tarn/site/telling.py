"""`tarn today`, `tarn labels`: what wants a hand, and labels, from a shell."""

from pathlib import Path
from typing import Annotated

import typer

from tarn.site.asking import asked, begin, fail
from tarn.site.output import write_rows
from tarn.site.ready import ready

LINE = ("key", "grade", "count", "text", "beside", "to")


def today(format: Annotated[str, typer.Option("--format", help="table, json or csv")] = "table") -> None:
    """List what wants a hand in the whole company, the most pressing first."""
    begin(format)
    from tarn.apps.today.wanted import today as wanted

    write_rows(({n: w[n] for n in LINE} for w in wanted(None)["wants"]), list(LINE), format)  # type: ignore[literal-required]


def labels(
    filter: Annotated[str, typer.Argument(help="which devices, as a filter")],
    out: Annotated[Path, typer.Option("--out", help="the PDF to write")],
    sheet: Annotated[str, typer.Option("--sheet", help="the sheet, such as a4-24 or strip-62")] = "a4-24",
    code: Annotated[str, typer.Option("--code", help="QR, Data Matrix or Code 128")] = "QR",
    begin: Annotated[int, typer.Option("--begin", help="the first free label of the first sheet")] = 1,
) -> None:
    """Print labels of devices; those that have none get one."""
    ready()
    from tarn.apps.labels.inputs import PrintIn
    from tarn.apps.labels.printing import print_labels
    from tarn.apps.people.actions.refusals import Invalid

    asked(filter, "")
    try:
        made = print_labels(None, PrintIn(filter=filter, sheet=sheet, code=code, begin=begin))
    except Invalid as fault:
        fail(str(fault))
    try:
        out.write_bytes(made)
    except OSError as fault:
        fail(f"{out} could not be written: {fault.strerror}.")
