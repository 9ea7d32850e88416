"""The command line: `tarn`."""

import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

import typer

from tarn.site.asking import asked, fail
from tarn.site.copying.commands import copy, restore, standby
from tarn.site.exposing import bom, exposure, feed, vex
from tarn.site.ready import configure, ready
from tarn.site.relying import depends, links, service, stops
from tarn.site.starting import looks_key, run, serve, worker
from tarn.site.telling import handbook, labels, today
from tarn.site.upkeep import doctor, older, rebuild
from tarn.site.weighing import versions

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)


FormatOption = Annotated[str, typer.Option("--format", help="table, json, csv or count")]


@app.command()
def ask(
    filter: Annotated[str, typer.Argument(help="a filter; empty asks for the whole register")] = "",
    as_of: Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")] = "",
    fields: Annotated[str, typer.Option(help="fields to show, parted by commas")] = "name,kind,os.name,address,place",
    format: FormatOption = "table",
    sort: Annotated[str, typer.Option(help="a field; with - in front, downwards")] = "name",
) -> None:
    """Ask the register."""
    ready()
    from tarn.apps.estate.asking.ask import count
    from tarn.apps.estate.register.pages import FieldError, everything, field_named
    from tarn.site.output import write_rows

    if format not in ("table", "json", "csv", "count"):
        fail(f"“{format}” is no format; one of: table, json, csv, count.")
    names = [f.strip() for f in fields.split(",") if f.strip()]
    these = asked(filter, as_of)
    try:
        for name in [*names, sort.lstrip("-")]:
            field_named(name)
    except FieldError as error:
        fail(str(error))
    if format == "count":
        typer.echo(count(these))
        return
    rows = ({n: row[n] for n in names} for row in everything(these, names, sort))
    write_rows(rows, names, format)


@app.command()
def ingest(file: Annotated[Path, typer.Argument(help="sighting documents, one a line; - for standard input")]) -> None:
    """Take sightings in. Those that fail the schema are named and refused; the rest goes in."""
    ready()
    from tarn.apps.estate.door.entrance import take_in
    from tarn.core.sightings import Sighting, SightingError, read_sighting

    refused = 0

    def documents() -> Iterator[Sighting]:
        nonlocal refused
        stream = sys.stdin if str(file) == "-" else file.open(encoding="utf-8")
        with stream:
            for number, line in enumerate(stream, start=1):
                if not line.strip():
                    continue
                try:
                    yield read_sighting(line)
                except SightingError as error:
                    refused += 1
                    typer.echo(f"tarn: {file}:{number}: {error}", err=True)

    if str(file) != "-" and not file.exists():
        fail(f"there is no file {file}.")
    verdicts: dict[str, int] = {}
    for taken in take_in(documents()):
        verdicts[taken.verdict] = verdicts.get(taken.verdict, 0) + 1
    said = ", ".join(f"{n} {v}" for v, n in verdicts.items()) or "nothing"
    typer.echo(f"Taken in: {said}. Refused: {refused}.")
    if refused:
        raise typer.Exit(1)


@app.command()
def sweep(
    ranges: Annotated[list[str], typer.Argument(help="addresses, networks or first-last")],
    route: Annotated[str, typer.Option(help="direct or lab")] = "direct",
    credential: Annotated[list[str], typer.Option(help="a stored credential's name; may be repeated")] = [],  # noqa: B006
    ssh: Annotated[list[str], typer.Option(help="USER:PASSWORD@PORT")] = [],  # noqa: B006
    snmp: Annotated[list[str], typer.Option(help="v2c:COMMUNITY@PORT")] = [],  # noqa: B006
    adopt: Annotated[bool, typer.Option("--adopt", help="take what was found into the register")] = False,
    patience: Annotated[float, typer.Option(help="seconds to wait for a first answer")] = 1.5,
    format: FormatOption = "table",
) -> None:
    """Sweep ranges from here, now; what is read is handed in, and adopted if asked for."""
    ready()
    from tarn.site.sweeping import BadOption, sweep_now

    if format not in ("table", "json"):
        fail(f"“{format}” is no format here; table or json.")
    try:
        sweep_now(ranges, route, credential, ssh, snmp, adopt=adopt, patience=patience, format=format)
    except BadOption as error:
        fail(str(error))


@app.command()
def lab(
    day: Annotated[int, typer.Option(help="the lab's day, 0 to 400; 400 is today")] = 400,
    truth: Annotated[Path | None, typer.Option(help="write what is really there into this file")] = None,
    leases: Annotated[Path | None, typer.Option(help="write the DHCP server's lease file here")] = None,
    mailbox: Annotated[
        Path | None, typer.Option(help="keep mail given to the lab's SMTP server in this folder")
    ] = None,
    changes: Annotated[Path | None, typer.Option(help="keep what is done to its devices in this file")] = None,
    ready_file: Annotated[Path | None, typer.Option("--ready", help="make this file once everything answers")] = None,
) -> None:
    """Serve the simulated network on loopback."""
    import asyncio
    import logging

    from tarn.lab.serve import serve as serve_lab

    if not 0 <= day <= 800:
        fail(f"{day} is no day of the lab: 0 to 800.")
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    logging.getLogger("asyncssh").setLevel(logging.ERROR)
    try:
        asyncio.run(serve_lab(day, truth, leases, mailbox, changes, ready_file))
    except KeyboardInterrupt:
        pass
    except OSError as error:
        fail(f"the lab cannot start: {error}", 1)


@app.command()
def outpost(
    join: Annotated[str, typer.Option(help="Tarn's address, such as https://tarn.example")],
    token: Annotated[str, typer.Option(envvar="TARN_OUTPOST_TOKEN", help="its token, given once when it is made")],
    keep: Annotated[Path | None, typer.Option(help="where it keeps what it could not hand over yet")] = None,
    authority: Annotated[Path | None, typer.Option(help="a certificate to trust besides the system's (PEM)")] = None,
    route: Annotated[str, typer.Option(help="how devices are dialled: direct, or a part of the lab")] = "direct",
) -> None:
    """Sweep networks that Tarn cannot reach, from within, and hand in what is found."""
    from tarn.site.outposts import CannotJoin, serve_outpost

    try:
        serve_outpost(join, token, keep, authority, route)
    except CannotJoin as error:
        fail(str(error), 1)


@app.command()
def demo(
    prepare_only: Annotated[bool, typer.Option("--prepare-only", help="make the demo data and end")] = False,
    fresh: Annotated[bool, typer.Option("--fresh", help="begin again: drop the demo data there is")] = False,
    reload: Annotated[bool, typer.Option("--reload", help="reloading servers, for development")] = False,
) -> None:
    """Make the demo company if it is not there yet, and start lab, worker and web server together."""
    from tarn.site.demo.start import start

    start(prepare_only=prepare_only, fresh=fresh, reload=reload)


@app.command()
def person(
    username: str,
    role: Annotated[str, typer.Option(help="viewer, operator, manager or administrator")] = "viewer",
    name: Annotated[str, typer.Option(help="the person's full name")] = "",
    password: Annotated[str, typer.Option(prompt=True, hide_input=True, confirmation_prompt=True)] = "",
) -> None:
    """Make an account."""
    ready()
    from django.contrib.auth.password_validation import validate_password
    from django.core.exceptions import ValidationError
    from django.db import IntegrityError

    from tarn.apps.people.actions.accounts import make_person

    try:
        validate_password(password)
        make_person(None, username, password, role, name)
    except ValidationError as error:
        fail(" ".join(error.messages))
    except IntegrityError:
        fail(f"there is an account {username} already.")
    except ValueError as error:
        fail(str(error))
    typer.echo(f"{username} may sign in as {role}.")


@app.command()
def backup(file: Path) -> None:
    """Write everything, database and keys, into one file, while Tarn runs."""
    ready()
    from tarn.site.keeping import KeepingError, write_backup

    try:
        typer.echo(write_backup(file))
    except KeepingError as error:
        fail(str(error), 1)


@app.command()
def verify_position(file: Annotated[Path, typer.Argument(help="a bundle of a licence position")]) -> None:
    """Check a bundle's hashes and signature, and reckon its position anew."""
    from tarn.core.licensing.bundle import verify_bundle

    held = verify_bundle(_content(file))
    _tell_sound(file, held.faults, "the bundle")
    typer.echo(f"{file}: sound. {held.number} balances of {held.of}, taken by {held.made_by} at {held.made_at}.")
    typer.echo(f"Signed with the key {held.fingerprint}")


@app.command()
def verify_count(file: Annotated[Path, typer.Argument(help="the protocol of a count")]) -> None:
    """Check a protocol's hashes and signature, and hold what was met against what was expected anew."""
    from tarn.core.count_protocol import verify_protocol

    held = verify_protocol(_content(file))
    _tell_sound(file, held.faults, "the protocol")
    typer.echo(f"{file}: sound. {held.of}, {held.number} devices, closed by {held.made_by} at {held.made_at}.")
    typer.echo(f"Signed with the key {held.fingerprint}")


def _content(file: Path) -> bytes:
    if not file.is_file():
        fail(f"{file}: there is no such file.")
    return file.read_bytes()


def _tell_sound(file: Path, faults: list[str], what: str) -> None:
    """Tell the faults of what was checked, and end with 1 where there are any."""
    for fault in faults:
        typer.echo(f"  {fault}")
    if faults:
        fail(f"{file}: {what} is not sound.", 1)


keys_app = typer.Typer(no_args_is_help=True, help="The key that seals secrets.")
app.add_typer(keys_app, name="keys")


@keys_app.command("rotate")
def rotate_keys() -> None:
    """Exchange the key: all that is sealed is sealed anew, and the old key is gone. Stop Tarn before."""
    ready()
    from tarn.apps.people.sealing import SealBroken
    from tarn.site.keys import rotate
    from tarn.site.running import Runs, alone

    try:
        with alone("exchange its key"):
            done = rotate()
    except (Runs, SealBroken) as error:
        fail(str(error), 1)
    said = ", ".join(f"{n} of {what}" for what, n in sorted(done.items())) or "nothing was sealed yet"
    typer.echo(f"The key is exchanged; sealed anew: {said}. Backups from before hold the old key.")


@app.command()
def bench(
    full: Annotated[bool, typer.Option("--full", help="100,000 devices instead of 10,000")] = False,
    format: FormatOption = "table",
    only: Annotated[str, typer.Option(help="only figures whose name holds this")] = "",
) -> None:
    """Measure, as ratios against a floor of the same run."""
    import subprocess

    command = [
        sys.executable,
        "-m",
        "tests.bench.run",
        "--format",
        format,
        "--only",
        only,
        *(["--full"] if full else []),
    ]
    root = Path(__file__).resolve().parents[2]
    raise typer.Exit(subprocess.run(command, cwd=root, check=False).returncode)


@app.command()
def schema(kind: Annotated[str, typer.Argument(help="openapi, sighting or filters")]) -> None:
    """Print a published schema: the API's, the sighting document's, or the filter reference."""
    configure()
    from tarn.site.publish import PUBLISHED

    if kind not in PUBLISHED:
        fail(f"“{kind}” is not published; one of: {', '.join(PUBLISHED)}.")
    typer.echo(PUBLISHED[kind](), nl=False)


app.command()(copy)
app.command()(restore)
app.command()(standby)
app.command()(serve)
app.command()(worker)
app.command()(run)
app.command("looks-key")(looks_key)
app.command()(rebuild)
app.command()(doctor)
app.command()(older)
app.command()(versions)
app.command()(feed)
app.command()(exposure)
app.command()(vex)
app.command()(bom)
app.command()(depends)
app.command()(stops)
app.command()(links)
app.command()(service)
app.command()(today)
app.command()(labels)
app.command()(handbook)


def main() -> None:
    """Run the command line; a closed pipe is no error."""
    try:
        app()
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(141)
