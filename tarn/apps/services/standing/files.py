"""Edges written to files: CSV (RFC 4180) and GraphML (graphml.graphdrawing.org, 1.0)."""

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.plates import plates
from tarn.core.standing.edge import Edge

COLUMNS = ("from", "to", "kind", "port", "process", "since", "last_heard", "sure", "quiet", "witnesses")
_NODE = ("name", "number", "what", "place")
_TYPES = {"sure": "int", "quiet": "boolean"}


def edges_of(asked: Question, format: str) -> tuple[str, str]:
    """Return the type and the text of a file with the edges with either end in a selection. Raises KeyError."""
    kind, write = FORMATS[format]
    mine = set(ids(asked))
    there, _ = seen(asked.at)
    edges = sorted(there.edges.touching(mine))
    known = plates({a for e in edges for a in (e.stands, e.on, *e.witnesses)}, asked.at)
    return kind, write([e for e in edges if e.stands in known and e.on in known], known)


def _row(e: Edge, known: Mapping[int, dict[str, Any]]) -> dict[str, Any]:
    return {
        "from": known[e.stands]["name"],
        "to": known[e.on]["name"],
        "kind": e.kind,
        "port": e.over,
        "process": e.process,
        "since": iso(e.since),
        "last_heard": iso(e.heard),
        "sure": e.sure,
        "quiet": e.quiet,
        "witnesses": ", ".join(str(known[w]["name"]) for w in e.witnesses if w in known),
    }


def _csv(edges: Sequence[Edge], known: Mapping[int, dict[str, Any]]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    for e in edges:
        row = _row(e, known)
        # A cell that begins so would be taken for a formula (OWASP, CSV injection).
        writer.writerow({k: f"'{v}" if isinstance(v, str) and v[:1] in "=+-@\t\r" and v else v for k, v in row.items()})
    return out.getvalue()


def _graphml(edges: Sequence[Edge], known: Mapping[int, dict[str, Any]]) -> str:
    attributes = [c for c in COLUMNS if c not in ("from", "to")]
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">',
        *(
            f'<key id="{n}" for="node" attr.name="{n}" attr.type="string"/>'
            for n in ("name", "number", "what", "place")
        ),
        *(f'<key id="{n}" for="edge" attr.name="{n}" attr.type="{_TYPES.get(n, "string")}"/>' for n in attributes),
        '<graph id="standing" edgedefault="directed">',
    ]
    for asset in sorted({a for e in edges for a in (e.stands, e.on)}):
        plate = known[asset]
        told = {"name": plate["name"], "number": plate["number"], "what": plate["kind"], "place": plate["place"]}
        data = "".join(f'<data key="{n}">{escape(_plain(v))}</data>' for n, v in told.items() if v)
        out.append(f"<node id={quoteattr(f'n{asset}')}>{data}</node>")
    for n, e in enumerate(edges):
        row = _row(e, known)
        data = "".join(f'<data key="{a}">{escape(_plain(row[a]))}</data>' for a in attributes if row[a] != "")
        out.append(f'<edge id="e{n}" source="n{e.stands}" target="n{e.on}">{data}</edge>')
    return "\n".join([*out, "</graph>", "</graphml>", ""])


def _plain(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return "".join(c for c in str(value) if c >= " " or c in "\t\n")


FORMATS: dict[str, tuple[str, Callable[[Sequence[Edge], Mapping[int, dict[str, Any]]], str]]] = {
    "csv": ("text/csv; charset=utf-8", _csv),
    "graphml": ("application/graphml+xml; charset=utf-8", _graphml),
}
"""By format its type and what writes it."""
