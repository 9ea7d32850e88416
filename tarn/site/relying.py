"""`tarn depends`, `tarn stops`, `tarn links`: what stands on what, what stops with it, what is plugged in where."""

from ipaddress import ip_address
from typing import TYPE_CHECKING, Annotated

import typer

from tarn.site.asking import asked, fail
from tarn.site.output import write_rows
from tarn.site.ready import ready

if TYPE_CHECKING:
    from tarn.apps.services.results import StandingEdge

AsOf = Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")]
Format = Annotated[str, typer.Option("--format", help="table, json or csv")]
EDGE = ("side", "hop", "from", "to", "kind", "port", "process", "since", "last_heard", "sure", "witnesses")
FALLEN = ("name", "fate", "hops", "because", "left")
LINK = ("switch", "port", "device", "device_port", "since", "seen_by", "how")


def depends(
    name: Annotated[str, typer.Argument(help="a device by its name, number or address")],
    on: Annotated[bool, typer.Option("--on", help="only what it stands on")] = False,
    under: Annotated[bool, typer.Option("--under", help="only what stands on it")] = False,
    hops: Annotated[int, typer.Option(min=1, max=8, help="how many steps away")] = 1,
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List what a device stands on and what stands on it."""
    _start(format)
    from tarn.apps.services.standing.impact import around

    found, at = _named([name], as_of)
    told = around(found[0], hops, at)

    def row(side: str, edge: "StandingEdge") -> dict[str, object]:
        return {
            **{n: edge[n] for n in ("hop", "kind", "process", "since", "last_heard", "sure")},
            "side": side,
            "from": edge["stands"]["name"],
            "to": edge["on"]["name"],
            "port": edge["over"],
            "witnesses": _several(edge["witnesses"], format),
        }

    both = on == under
    rows = [row("on", e) for e in told["on"] if on or both] + [row("under", e) for e in told["under"] if under or both]
    write_rows(({n: r[n] for n in EDGE} for r in rows), list(EDGE), format)


def stops(
    names: Annotated[list[str], typer.Argument(help="devices by name, number or address")],
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List what stops, and what is weakened, if devices stop, and why."""
    _start(format)
    from tarn.apps.services.kept.falling import if_stops

    found, at = _named(names, as_of)
    told = if_stops(found, at)
    told_rows = ({**r, "left": _several(r["left"], format)} for r in told["rows"])
    rows = ({n: r[n] for n in FALLEN} for r in told_rows)
    write_rows(rows, list(FALLEN), format)


def links(
    place: Annotated[str, typer.Option(help="only links at a place")] = "",
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List which port of which switch leads where."""
    _start(format)
    from tarn.apps.services.standing import links as reads
    from tarn.core.filters.tree import quote

    told = reads.links(asked(f"place = {quote(place)}" if place else "", as_of))
    rows = (
        {
            **{n: k[n] for n in ("port", "device_port", "since", "how")},
            "switch": k["switch"]["name"],
            "device": k["device"]["name"],
            "seen_by": _several(k["seen_by"], format),
        }
        for k in told
    )
    write_rows(({n: r[n] for n in LINK} for r in rows), list(LINK), format)


def _start(format: str) -> None:
    ready()
    if format not in ("table", "json", "csv"):
        fail(f"“{format}” is no format here; one of: table, json, csv.")


def _several(names: list[str], format: str) -> list[str] | str:
    return names if format == "json" else ", ".join(names)


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True


def _named(names: list[str], as_of: str) -> tuple[list[int], int | None]:
    """Return the devices of these names, numbers or addresses; one that fits none, or several, ends the command."""
    from tarn.apps.estate.asking.ask import ids
    from tarn.core.filters.tree import quote

    out, at = [], None
    for name in names:
        said = quote(name)
        field = " or ".join(f"{f} = {said}" for f in ("name", "number", *(["address"] if _is_address(name) else [])))
        these = asked(f"({field}) and standing != none", as_of)
        found, at = list(ids(these)), these.at
        if len(found) != 1:
            fail(f"{len(found)} devices are “{name}”." if found else f"no device is “{name}”.")
        out.append(found[0])
    return out, at
