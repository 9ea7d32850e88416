"""A column out of a spreadsheet: which devices its serials, names, addresses or numbers stand for, in its order."""

import json
from collections import defaultdict
from dataclasses import dataclass

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.store.database import raw_connection
from tarn.core.text import fold

MOST = 2_000
"""Words one column may have: what is found is asked for in an address, which has an end."""


@dataclass(frozen=True)
class Pasted:
    """`numbers`: asset numbers in the order given, each once; `missing`: words no device is known by; `several`: by
    word the numbers of the devices that share it, all of which are taken."""

    numbers: list[str]
    missing: list[str]
    several: dict[str, list[str]]


class TooMany(ValueError):
    """More words than can be looked up at once."""


def found_by(words: list[str]) -> Pasted:
    """Return the devices of the register that whoever asks may see, by number, serial, name, address or MAC. Raises
    TooMany.

    A name is known with and without its domain; of a MAC any way of writing counts.
    """
    wanted = list(dict.fromkeys(w for w in (word.strip().strip('"') for word in words) if w))
    if len(wanted) > MOST:
        raise TooMany(f"{len(wanted):,} words are too many at once: at most {MOST:,}. Paste them in parts.")
    keys = {word: _keys(word) for word in wanted}
    by_key: dict[str, list[tuple[int, str]]] = defaultdict(list)
    asked = question("", None)
    every = sorted({key for some in keys.values() for key in some})
    for column in ("fold(a.number)", "s.name_fold", "fold(s.serial)", "s.address", "lower(replace(s.mac, ':', ''))"):
        for key, asset, number in raw_connection().execute(
            f"SELECT {column}, s.asset_id, a.number {asked.source} AND {column} IN (SELECT value FROM json_each(?))",
            [*asked.where.values, json.dumps(every)],
        ):
            by_key[key].append((asset, number))
    numbers: dict[str, None] = {}
    missing: list[str] = []
    several: dict[str, list[str]] = {}
    for word in wanted:
        found = dict.fromkeys(number for key in keys[word] for _, number in sorted(by_key.get(key, ())))
        numbers.update(found)
        if not found:
            missing.append(word)
        elif len(found) > 1:
            several[word] = list(found)
    return Pasted(list(numbers), missing, several)


def _keys(word: str) -> list[str]:
    """Return what a word may be kept as: as it is, as a host name without its domain, and as bare digits of a MAC."""
    folded = fold(word)
    host, _, domain = folded.partition(".")
    bare = "".join(c for c in folded if c not in ":-.")
    out = [folded]
    if domain and not host.isdigit():
        out.append(host)
    if len(bare) == 12 and all(c in "0123456789abcdef" for c in bare):
        out.append(bare)
    return out
