"""`tarn feed` and `tarn exposure`: documents of advisories read in, and what is open to them."""

import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from tarn.site.asking import asked, fail
from tarn.site.output import write_rows
from tarn.site.ready import ready

if TYPE_CHECKING:
    from tarn.core.exposure.reading import Part

COLUMNS = (
    *("device", "advisory", "aliases", "product", "release", "status", "since", "until", "score", "exploited"),
    *("grade", "because"),
)


def feed(
    paths: Annotated[list[str], typer.Argument(help="files, folders, or addresses of files over HTTP")],
    format: Annotated[str, typer.Option("--format", help="table or json")] = "table",
) -> None:
    """Read documents of advisories in: how many were read, are new, changed, refused, and why. Ends with 1 where any
    was refused."""
    ready()
    from tarn.apps.exposure.feeds.take import parts_from, parts_of, take_by_hand
    from tarn.collect.problems import Problem
    from tarn.collect.sources.kind import SettingError
    from tarn.core.exposure.reading import Part
    from tarn.core.exposure.told import FeedError

    if format not in ("table", "json"):
        fail(f"“{format}” is no format here; table or json.")

    def parts() -> Iterator["Part"]:
        for path in paths:
            if path.startswith(("http://", "https://")):
                try:
                    yield from parts_from(path)
                except (Problem, SettingError) as problem:
                    yield Part(path, b"", refused=FeedError(str(problem)))
            else:
                yield from parts_of(Path(path))

    run = take_by_hand(None, parts(), int(time.time()))
    counts = run.counts
    if format == "json":
        typer.echo(json.dumps({**counts, "faults": run.faults}, ensure_ascii=False, indent=1))
    else:
        for fault in run.faults:
            typer.echo(f"  {fault['place']}: {fault['rule']}", err=True)
        typer.echo(", ".join(f"{number} {what}" for what, number in counts.items()) + ".")
    if counts["refused"]:
        raise typer.Exit(1)


def exposure(
    filter: Annotated[str, typer.Argument(help="a filter; empty asks for the whole register")] = "",
    as_of: Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")] = "",
    known: Annotated[
        str, typer.Option(help="of a past day: what is now known to have been true (now), or was known then (then)")
    ] = "now",
    own: Annotated[bool, typer.Option("--own", help="with what the company's own rules find")] = False,
    format: Annotated[str, typer.Option("--format", help="table, json, csv or count")] = "table",
) -> None:
    """List which devices are open to which advisories, and why."""
    ready()
    from tarn.apps.exposure.shown import listed

    if format not in ("table", "json", "csv", "count"):
        fail(f"“{format}” is no format; one of: table, json, csv, count.")
    rows_of = asked(filter, as_of)
    if known == "now":
        rows = listed(rows_of, "now", own=own)
    elif known == "then":
        rows = listed(rows_of, "then", own=own)
    else:
        fail(f"“{known}” is none of: now, then.")
    if format == "count":
        typer.echo(sum(1 for _ in rows))
        return
    as_text = format != "json"
    told: Iterator[dict[str, Any]] = (dict(row) for row in rows)
    shown = ({n: ", ".join(r[n]) if n == "aliases" and as_text else r[n] for n in COLUMNS} for r in told)
    write_rows(shown, list(COLUMNS), format)


def vex(
    filter: Annotated[str, typer.Argument(help="a filter; empty asks for the whole register")] = "",
    as_of: Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")] = "",
    format: Annotated[str, typer.Option("--format", help="cyclonedx, csaf or openvex")] = "openvex",
) -> None:
    """Write how the releases of devices stand to what is known (VEX)."""
    ready()
    from tarn.apps.exposure import outward
    from tarn.core.exposure.outward import VEX

    if format not in VEX:
        fail(f"“{format}” is no format of VEX here; one of: {', '.join(VEX)}.")
    typer.echo(outward.vex(asked(filter, as_of), format))


def bom(
    filter: Annotated[str, typer.Argument(help="a filter; empty asks for the whole register")] = "",
    as_of: Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")] = "",
) -> None:
    """Write the bill of materials of devices, as CycloneDX."""
    ready()
    from tarn.apps.exposure import outward

    typer.echo(outward.bom(asked(filter, as_of)))
