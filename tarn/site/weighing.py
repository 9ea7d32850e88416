"""`tarn versions`: how versions stand to each other by an ecosystem's own rule."""

import sys
from typing import Annotated

import typer


def versions(
    scheme: Annotated[str, typer.Argument(help="deb, rpm, semver, pypi, npm, maven, windows or plain")],
) -> None:
    """Read pairs of versions parted by a tab, a pair a line; print -1, 0 or 1 for each.

    Where a line is no pair of versions it is named on standard error, and `?` stands in its place.
    """
    from tarn.core.versions import ORDERS, VersionError, compare

    if scheme not in ORDERS:
        typer.echo(f"tarn: “{scheme}” is no order of versions; one of: {', '.join(ORDERS)}.", err=True)
        raise typer.Exit(2)
    refused = 0
    for place, line in enumerate(sys.stdin, start=1):
        pair = line.rstrip("\r\n").split("\t")
        try:
            if len(pair) != 2 or not all(part.strip() for part in pair):
                raise VersionError("two versions parted by one tab are expected.")
            typer.echo(compare(scheme, *pair))
        except VersionError as error:
            refused += 1
            typer.echo("?")
            typer.echo(f"tarn: line {place}: {error}", err=True)
    if refused:
        raise typer.Exit(1)
