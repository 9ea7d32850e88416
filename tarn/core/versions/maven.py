"""The order of Maven: “Version Order Specification” of its POM reference, as Maven 3.9 carries it out.

A version is a list of numbers and words with lists within: a hyphen, and a change between digits and letters, begin a
list within the last. Noughts and words that mean the release itself count for nothing where nothing follows them.
"""

from tarn.core.versions.keys import BEFORE_END, END, LETTERS, number

_BEFORE = ("alpha", "beta", "milestone", "rc", "snapshot")
_RELEASE = frozenset({"", "final", "ga", "release"})
_SHORT = {"a": "alpha", "b": "beta", "m": "milestone"}

_Part = str | int | list["_Part"]


def key(text: str) -> str:
    """Return the key of a version; any text has one."""
    return _told(_read(text.strip().lower()))


class _Reader:
    """Lists within lists as they are read; what is read goes into the innermost."""

    def __init__(self) -> None:
        self.lists: list[list[_Part]] = [[]]

    def add(self, run: str) -> None:
        self.lists[-1].append(int(run) if run.isdecimal() else "rc" if run == "cr" else run)

    def within(self) -> None:
        inner: list[_Part] = []
        self.lists[-1].append(inner)
        self.lists.append(inner)

    def word(self, run: str, before_digit: bool) -> None:
        if self.lists[-1]:
            self.within()
        self.add(_SHORT.get(run, run) if before_digit else run)

    def whole(self) -> list[_Part]:
        for inner in reversed(self.lists):
            _shorten(inner)
        return self.lists[0]


def _read(text: str) -> list[_Part]:
    reader, start, digits = _Reader(), 0, False
    for place, letter in enumerate(text):
        run = text[start:place]
        if letter in ".-":
            reader.add(run or "0")
            start = place + 1
            if letter == "-":
                reader.within()
        elif letter.isdecimal():
            if run and not digits:
                reader.word(run, before_digit=True)
                reader.within()
                start = place
            digits = True
        else:
            if run and digits:
                reader.add(run)
                reader.within()
                start = place
            digits = False
    if rest := text[start:]:
        if rest.isdecimal():
            reader.add(rest)
        else:
            reader.word(rest, before_digit=False)
    return reader.whole()


def _shorten(parts: list[_Part]) -> None:
    for place in reversed(range(len(parts))):
        part = parts[place]
        if part == 0 or part == [] or (isinstance(part, str) and part in _RELEASE):
            del parts[place]
        elif not isinstance(part, list):
            return


def _told(parts: list[_Part]) -> str:
    return "".join(_part(p) for p in parts) + END


def _part(part: _Part) -> str:
    """A word stands before a list and a list before a number; words and lists may stand before the end as well."""
    if isinstance(part, int):
        return number(str(part))
    if isinstance(part, list):
        return f"{BEFORE_END if _sign(part) < 0 else LETTERS}z{_told(part)}"
    if part in _RELEASE:
        return END
    if part in _BEFORE:
        return f"{BEFORE_END}{_BEFORE.index(part)}"
    return f"{LETTERS}{'a' if part == 'sp' else 'b' + part + '!'}"


def _sign(parts: list[_Part]) -> int:
    """Return whether a list stands before (-1) or after (1) nothing at all, by its first part that does either."""
    for part in parts:
        if isinstance(part, list):
            if sign := _sign(part):
                return sign
        elif part != 0 and part not in _RELEASE:
            return -1 if part in _BEFORE else 1
    return 0
