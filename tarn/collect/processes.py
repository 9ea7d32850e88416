"""Processes as systems list them, grouped so that a computer tells of tens and not thousands."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from tarn.core.items import Process
from tarn.core.secrets import blotted

MOST_KINDS = 100
"""Groups a computer tells of; where there were more, those of the programs with most are told as one each."""
_LONGEST = 4_000
"""Characters of a command that are looked at; of them 480 are kept."""
_TITLE = re.compile(r"^[\w.-]+: ")
"""A process that set its own title: what follows is what it is doing just now."""
_NUMBERS = re.compile(r"[0-9a-fA-F]{8,}|\d+")
_OWN = re.compile(r"^(sudo -n )?(ps -eww |ps -axww |sed -E s#|ss -H |lsof -nP )|--tarn--")
"""Commands of the reading itself."""


@dataclass(frozen=True, slots=True)
class Running:
    """One process; `started` in seconds since 1970."""

    number: int
    parent: int
    name: str
    command: str
    account: str = ""
    unit: str = ""
    started: int | None = None


def grouped(running: Iterable[Running], listens: Mapping[int, set[int]]) -> tuple[list[Process], str]:
    """Return processes by command and account, and a note where some of them had to be told as one.

    `listens`: by number of process the ports it listens on.
    """
    by_number = {r.number: r for r in running}
    met: dict[tuple[str, str], list[Running]] = defaultdict(list)
    for r in by_number.values():
        if not _OWN.search(r.command[:_LONGEST]):
            met[_spoken(r.command), r.account].append(r)
    folded = _fold(met)
    items = [_told(key, of, by_number, listens) for key, of in sorted(met.items())]
    note = f"Told as one each, for there are too many: {', '.join(sorted(folded))}." if folded else ""
    return items, note


def _spoken(command: str) -> str:
    said = " ".join(blotted(command[:_LONGEST]).split())
    if _TITLE.match(said):
        said = _NUMBERS.sub("#", said)
    return said if len(said) <= 480 else f"{said[:478]} …"


def _fold(met: dict[tuple[str, str], list[Running]]) -> set[str]:
    """Make one group of the many of a program, the program with most first, until few enough are left."""
    folded: set[str] = set()
    while len(met) > MOST_KINDS:
        families = Counter((of[0].name, account) for (_, account), of in met.items())
        (name, account), many = families.most_common(1)[0]
        if many == 1:
            # As many programs as groups: what is left over is told together.
            many_left = sorted(met)[MOST_KINDS - 1 :]
            rest = [r for key in many_left for r in met.pop(key)]
            met["others …", ""] = [replace(r, name="others") for r in rest]
            return folded | {"others"}
        keys = [key for key, of in met.items() if key[1] == account and of[0].name == name]
        of = [r for key in keys for r in met.pop(key)]
        met[f"{keys[0][0].split(' ')[0]} …", account] = of
        folded.add(name)
    return folded


def _told(
    key: tuple[str, str], of: list[Running], by_number: Mapping[int, Running], listens: Mapping[int, set[int]]
) -> Process:
    first = min(of, key=lambda r: (r.started or 0, r.number))
    above = by_number.get(first.parent)
    while above is not None and above.command == first.command and above.parent in by_number:
        above = by_number[above.parent]
    ports = sorted({p for r in of for p in listens.get(r.number, ())})
    return Process(
        command=key[0],
        account=key[1][:300],
        name=first.name[:300],
        listens=" ".join(map(str, ports))[:480],
        parent=above.name[:300] if above else "",
        unit=first.unit[:300],
        started=first.started - first.started % 60 if first.started else None,
        count=len(of),
    )
