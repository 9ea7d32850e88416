"""What commands share: a question asked, and how a command says what is wrong and ends."""

from typing import TYPE_CHECKING, NoReturn

import typer

from tarn.site.ready import ready

if TYPE_CHECKING:
    from tarn.apps.estate.asking.ask import Question

FORMATS = ("table", "json", "csv")
"""How rows are written."""


def fail(message: str, code: int = 2) -> NoReturn:
    """Say what is wrong on standard error and end."""
    typer.echo(f"tarn: {message}", err=True)
    raise typer.Exit(code)


def begin(format: str) -> None:
    """Make Tarn ready for a command that writes rows; a format that is none ends it."""
    ready()
    if format not in FORMATS:
        fail(f"“{format}” is no format here; one of: {', '.join(FORMATS)}.")


def asked(filter: str, as_of: str) -> "Question":
    """Return a question as of a date; one that is wrong ends the command, with the place marked."""
    from tarn.apps.estate.asking.ask import question
    from tarn.apps.estate.asking.dial import DialError, read_dial
    from tarn.core.filters.parse import FilterError

    try:
        return question(filter, read_dial(as_of))
    except FilterError as error:
        typer.echo(f"  {filter}\n  {' ' * error.start}{'^' * max(1, error.end - error.start)}", err=True)
        fail(error.message)
    except DialError as error:
        fail(str(error))
