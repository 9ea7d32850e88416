"""Commands of the continuous copy: keeping it, putting it in place, standing by to take over."""

import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from tarn.site.asking import fail
from tarn.site.ready import configure

_PLACE = "a folder's whole path, or s3://BUCKET/PREFIX"
To = Annotated[str, typer.Option("--to", envvar="TARN_COPY", help=_PLACE)]
From = Annotated[str, typer.Option("--from", envvar="TARN_COPY", help=f"a continuous copy: {_PLACE}")]


def copy(
    to: To = "",
    take_over: Annotated[bool, typer.Option("--take-over", help="the machine that wrote it is gone for good")] = False,
) -> None:
    """Keep a continuous copy of the data, at most seconds behind."""
    configure()
    from tarn.site.copying.copy import Copying, claim, litestream
    from tarn.site.copying.places import CopyError, place_of

    try:
        litestream()
        place = place_of(to)
        claim(place, take_over=take_over)
        typer.echo(f"Copying to {place.said}.", err=True)
        Copying(place).run()
    except CopyError as fault:
        fail(str(fault), 1)


def restore(
    file: Annotated[Path | None, typer.Argument(help="a backup; none: the continuous copy")] = None,
    force: Annotated[bool, typer.Option("--force", help="replace data that is there")] = False,
    source: From = "",
    at: Annotated[str, typer.Option(help="the moment to go back to, such as 2026-11-30T14:05Z; of a copy only")] = "",
) -> None:
    """Put a backup or a continuous copy in place. Stop Tarn before."""
    configure()
    from tarn.site.copying.places import CopyError, place_of
    from tarn.site.copying.restoring import moment, restore_copy
    from tarn.site.keeping import KeepingError, read_backup

    if file is not None and at:
        fail("a backup is of one moment; --at goes back in a continuous copy.", 1)
    if file is None and not source:
        fail("name a backup, or a continuous copy with --from.", 1)
    try:
        if file is not None:
            typer.echo(read_backup(file, force=force))
        else:
            typer.echo(restore_copy(place_of(source), moment(at) if at else None, force=force))
    except (KeepingError, CopyError) as fault:
        fail(str(fault), 1)


def standby(
    first: Annotated[str, typer.Argument(help="where the first is reached, such as https://tarn.example")],
    source: From = "",
    patience: Annotated[float, typer.Option(help="seconds the first may be silent", min=5)] = 30,
) -> None:
    """Stand by: once the first is silent, put its copy in place and run in its stead."""
    configure()
    from tarn.site.copying.places import CopyError, place_of
    from tarn.site.copying.restoring import take_over, wait_until_gone

    try:
        place = place_of(source)
        typer.echo(f"Standing by for {first}, with the copy at {place.said}.", err=True)
        wait_until_gone(first, patience)
        typer.echo(f"{first} has been silent for {patience:.0f} s: taking over.", err=True)
        typer.echo(take_over(place), err=True)
    except CopyError as fault:
        fail(str(fault), 1)
    except KeyboardInterrupt:
        return
    sys.stderr.flush()
    os.execv(sys.executable, [sys.executable, "-m", "tarn.site.cli_main", "run"])
