"""Commands for whoever looks after an installation: rebuilding, and looking at how it stands."""

import sys
from typing import Annotated

import typer

from tarn.site.ready import configure, ready


def _progress(text: str) -> None:
    """Show how far long work has got, where somebody is watching; empty text ends the line."""
    if sys.stderr.isatty():
        typer.echo(f"\r{text}" if text else "", nl=not text, err=True)


def rebuild(
    check: Annotated[
        bool, typer.Option("--check", help="rebuild beside the tables and compare, changing nothing")
    ] = False,
) -> None:
    """Derive everything anew from the sightings."""
    ready()
    from tarn.apps.estate.door.entrance import forget
    from tarn.apps.estate.door.rebuild import differences, exchange, rebuild_beside
    from tarn.apps.estate.store.database import raw_connection
    from tarn.apps.exposure.finding.checking import differences as exposure_differs
    from tarn.site.home import home

    db = raw_connection()
    path = rebuild_beside(db, home(), lambda n: _progress(f"{n} sightings read again"))
    _progress("")
    try:
        found = [*differences(db, path), *(exposure_differs() if check else [])]
        for d in found:
            typer.echo(f"{d.table}: {d.only_held} rows held only, {d.only_rebuilt} rebuilt only\n  {d.example}")
        if check:
            typer.echo("The tables differ." if found else "The tables are what the sightings say.")
            raise typer.Exit(1 if found else 0)
        exchange(db, path)
        forget()
        typer.echo("Rebuilt.")
    finally:
        path.unlink()


def doctor() -> None:
    """Look at how the installation stands, and at what a process remembers of it."""
    configure()
    from tarn.site.doctor import findings, remembered
    from tarn.site.output import write_table

    sick = False
    for finding in findings():
        sick |= not finding.sound
        typer.echo(f"{'sound ' if finding.sound else 'AMISS '} {finding.thing:<10} {finding.says}")
    if sick:
        raise typer.Exit(1)
    typer.echo("")
    rows = [
        [w.name, w.rests_on, w.held, f"{w.megabytes:.1f}", "" if w.seconds is None else f"{w.seconds:.2f}"]
        for w in remembered()
    ]
    write_table(rows, ["remembered", "rests on", "held", "MB", "seconds to make"])


def older(
    day: Annotated[str, typer.Argument(help="the first day that is still to be told of, as 2026-01-31")],
    format: Annotated[str, typer.Option(help="table, json or csv")] = "table",
) -> None:
    """Tell what knowing nothing before a day would free, and what could not be told then; nothing is removed."""
    from tarn.site.asking import begin, fail

    begin(format)
    from dataclasses import asdict
    from datetime import date

    from tarn.apps.estate.asking.dial import zone
    from tarn.core.days import OutsideCalendar, within_calendar
    from tarn.core.filters.values import day_start
    from tarn.site.older import older as what_is_older
    from tarn.site.output import write_rows

    try:
        before = day_start(within_calendar(date.fromisoformat(day)), zone())
    except OutsideCalendar as fault:
        fail(str(fault))
    except ValueError:
        fail(f"“{day}” is no day; one is written as 2026-01-31.")
    write_rows((asdict(one) for one in what_is_older(before)), ["table", "rows", "of", "bytes", "lost"], format)
