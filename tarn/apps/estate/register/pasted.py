"""A column out of a spreadsheet: which devices its serials, names, addresses or numbers stand for, in its order."""

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.identifiers import by_word, numbers_of
from tarn.apps.estate.register.results import PastedOut
from tarn.core.text import fold

MOST = 2_000
"""Devices that can be named one by one, pasted or ticked: they are asked for in an address, which has an end."""


class TooMany(ValueError):
    """More words than can be looked up at once."""


def found_by(words: list[str]) -> PastedOut:
    """Return the devices of the register that words stand for (`by_word`), for whoever asks. Raises TooMany."""
    wanted = list(dict.fromkeys(w for w in (word.strip().strip('"') for word in words) if w))
    if len(wanted) > MOST:
        raise TooMany(f"{len(wanted):,} words are too many at once: at most {MOST:,}. Paste them in parts.")
    known, register = by_word(wanted), set(ids(question("")))
    found = {word: sorted(known.get(fold(word), set()) & register) for word in wanted}
    number = numbers_of([asset for some in found.values() for asset in some])
    return {
        "numbers": list(dict.fromkeys(number[asset] for word in wanted for asset in found[word])),
        "missing": [word for word in wanted if not found[word]],
        "several": {word: [number[a] for a in some] for word, some in found.items() if len(some) > 1},
    }
