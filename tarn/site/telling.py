"""`tarn today`, `tarn labels`, `tarn handbook`: what wants a hand, labels, and handbooks, from a shell."""

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


def handbook(
    name: Annotated[str, typer.Argument(help="the handbook, by its name")],
    out: Annotated[Path, typer.Option("--out", help="the file to write; its ending tells the format")],
    issue: Annotated[bool, typer.Option("--issue", help="issue it anew; else its last issue is written")] = False,
) -> None:
    """Write an issue of a handbook: PDF, DOCX, HTML or Markdown."""
    ready()
    from tarn.apps.handbooks.issuing import issue as issue_it
    from tarn.apps.handbooks.models import Handbook
    from tarn.apps.handbooks.writing.formats import FORMATS, file_of
    from tarn.apps.people.actions.refusals import Invalid

    form = out.suffix.removeprefix(".").lower()
    if form not in FORMATS:
        fail(f"{out.name} tells no format: it has to end in one of .{', .'.join(FORMATS)}.")
    held = list(Handbook.objects.filter(name__iexact=name))
    if len(held) != 1:
        there = ", ".join(Handbook.objects.values_list("name", flat=True)) or "none yet"
        fail(f"There are {len(held)} handbooks called “{name}”. Here are: {there}.")
    try:
        made = issue_it(None, held[0].pk) if issue else held[0].issues.filter(state="issued").first()
    except Invalid as fault:
        fail(str(fault))
    if made is None:
        fail(f"“{name}” was never issued; say --issue.")
    try:
        out.write_bytes(file_of(made, form)[1])
    except OSError as fault:
        fail(f"{out} could not be written: {fault.strerror}.")
    typer.echo(f"{out}: {made}, {made.state}, {len(made.changed)} differences from the issue before.")
