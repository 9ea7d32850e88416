"""`tarn depends`, `tarn stops`, `tarn links`, `tarn service`: what stands on what, and what stops with it."""

import json
from ipaddress import ip_address
from typing import TYPE_CHECKING, Annotated

import typer

from tarn.site.asking import asked, begin, fail
from tarn.site.output import write_rows

if TYPE_CHECKING:
    from tarn.apps.services.results import StandingEdge

AsOf = Annotated[str, typer.Option("--as-of", help="a date, such as 2026-08-03")]
Format = Annotated[str, typer.Option("--format", help="table, json or csv")]
EDGE = ("side", "hop", "from", "to", "kind", "port", "process", "since", "last_heard", "sure", "witnesses", "quiet")
FALLEN = ("what", "name", "fate", "hops", "because", "left")
MEMBER = ("part", "device", "number", "kind", "place", "because")
LINK = ("switch", "port", "device", "device_port", "since", "seen_by", "how")


def depends(
    name: Annotated[str, typer.Argument(help="a device by its name, number or address")],
    on: Annotated[bool, typer.Option("--on", help="only what it stands on")] = False,
    under: Annotated[bool, typer.Option("--under", help="only what stands on it")] = False,
    hops: Annotated[int, typer.Option(min=1, max=8, help="how many steps away")] = 1,
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List what a device stands on, what stands on it, and what it has to do with that is no device."""
    begin(format)
    from tarn.apps.services.kept.beside import beside
    from tarn.apps.services.standing.impact import around

    found, at = _named([name], as_of)
    told = around(found[0], hops, at)

    def row(side: str, edge: "StandingEdge") -> dict[str, object]:
        return {
            **{n: edge[n] for n in ("hop", "kind", "process", "since", "last_heard", "sure", "quiet")},
            "side": side,
            "from": edge["stands"]["name"],
            "to": edge["on"]["name"],
            "port": edge["over"],
            "witnesses": _several(edge["witnesses"], format),
        }

    both = on == under
    rows = [row("on", e) for e in told["on"] if on or both] + [row("under", e) for e in told["under"] if under or both]
    name = told["asset"]["name"]
    for one in beside(found[0], at) if both else ():
        empty: dict[str, object] = dict.fromkeys(EDGE)
        said = {"side": "beside", "from": name, "to": one["name"], "kind": one["kind"], "port": one["over"]}
        rows.append({**empty, **said, "witnesses": _several([], format)})
    write_rows(({n: r[n] for n in EDGE} for r in rows), list(EDGE), format)


def stops(
    names: Annotated[list[str], typer.Argument(help="devices by name, number or address, or programs by name")],
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List the services, programs and devices that stop, and those that are weakened, if devices or all instances of
    programs stop, and why."""
    begin(format)
    from tarn.apps.services.kept.falling import if_stops
    from tarn.apps.services.standing.impact import seen_full

    at = asked("", as_of).at
    running = set(seen_full(at).names.values())
    found, _ = _named([n for n in names if n not in running], as_of)
    told = if_stops(found, at, running.intersection(names))
    rows: list[dict[str, object]] = [
        {
            "what": "service",
            **{n: s[n] for n in ("name", "fate")},
            "hops": None,
            "because": "; ".join(s["because"]),
            "left": _several([], format),
        }
        for s in told["services"]
    ]
    for what, fallen in (("program", told["programs"]), ("device", told["rows"])):
        for r in fallen:
            row: dict[str, object] = {**r}
            rows.append({**row, "what": what, "left": _several(r["left"], format)})
    write_rows(({n: r[n] for n in FALLEN} for r in rows), list(FALLEN), format)


def service(
    name: Annotated[str, typer.Argument(help="a service by its name")],
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List the members of a service by part, and why each is one; as JSON, with how it stands."""
    begin(format)
    from tarn.apps.people.scope import visible
    from tarn.apps.services.kept.shown import service as page
    from tarn.apps.services.models import Service
    from tarn.core.text import nearest

    found = visible(Service).filter(name__iexact=name.strip()).first()
    if found is None:
        near = " or ".join(nearest(name, list(visible(Service).values_list("name", flat=True))))
        fail(f"no service is “{name}”." + (f" Did you mean {near}?" if near else ""))
    told = page(found.pk, asked("", as_of).at)
    if format == "json":
        typer.echo(json.dumps({k: v for k, v in told.items() if k != "picture"}, indent=2, ensure_ascii=False))
        return
    rows = (
        {
            **{n: m[n] for n in ("part", "number", "kind", "place")},
            "device": m["name"],
            "because": "; ".join(m["because"]),
        }
        for m in told["rows"]
        if not m["out"]
    )
    write_rows(({n: r[n] for n in MEMBER} for r in rows), list(MEMBER), format)


def links(
    place: Annotated[str, typer.Option(help="only links at a place")] = "",
    as_of: AsOf = "",
    format: Format = "table",
) -> None:
    """List which port of which switch leads where."""
    begin(format)
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
