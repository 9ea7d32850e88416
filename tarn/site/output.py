"""Rows on standard output: as a table, as JSON, as CSV."""

import csv
import json
import sys
from collections.abc import Iterator
from typing import Any


def write_rows(rows: Iterator[dict[str, Any]], names: list[str], format: str) -> None:
    """Write rows; JSON is one list of objects with the names as keys."""
    if format == "json":
        sys.stdout.write("[")
        for i, row in enumerate(rows):
            sys.stdout.write(("," if i else "") + "\n " + json.dumps(row, ensure_ascii=False))
        sys.stdout.write("\n]\n")
    elif format == "csv":
        writer = csv.writer(sys.stdout)
        writer.writerow(names)
        for row in rows:
            writer.writerow([row[n] for n in names])
    else:
        write_table([[_shown(n, row[n]) for n in names] for row in rows], names)


def _shown(name: str, value: Any) -> str:
    if value is None:
        return "–"
    if name == "memory":
        return f"{value / 2**30:.3g} GB"
    return str(value)


def write_table(rows: list[list[str]], names: list[str]) -> None:
    """Write a table with columns as wide as their longest value."""
    widths = [max(len(n), *(len(r[i]) for r in rows)) if rows else len(n) for i, n in enumerate(names)]
    for row in (names, *rows):
        print("  ".join(v.ljust(w) for v, w in zip(row, widths, strict=True)).rstrip())
