"""Versions as sortable keys.

A version becomes one text that sorts, byte by byte, as versions do, so that a
database can compare and index it. The order follows the Debian Policy Manual,
section 5.6.12 (epoch, upstream part, revision; `~` before the end), with two
additions people expect across packaging systems: trailing `.0` groups do not
count, and the usual pre-release words (alpha, beta, rc …) sort before the
release they lead up to, as in PEP 440. Three numbers and a hyphen with a word
(`1.0.0-beta.2`) are a pre-release by Semantic Versioning 2.0.0, section 11: a
packager's revision begins with a digit.

A package of dpkg or RPM is told by its own system's rule alone, without these
additions. All keys are of one alphabet, so that releases of one product that
come by several ways stay in a sensible order.
"""

import re
from functools import lru_cache

SYSTEMS = ("deb", "rpm")
"""Systems of packages with a rule of their own for versions, the one believed first before the other."""


class Release(str):
    """A version's key by the plain rule; `written` has other keys by the rules of package systems."""

    written: str

    def __new__(cls, written: str) -> "Release":
        """Make it of a version as it is written."""
        made = super().__new__(cls, version_key(written))
        made.written = written
        return made


_TOKEN = re.compile(r"\d+|[A-Za-z]+|~")
_PRE_RELEASE = frozenset({"alpha", "beta", "rc", "pre", "preview", "dev"})
_EPOCH = re.compile(r"^(\d+):")
_SEMVER_PRE = re.compile(
    r"^(0|[1-9]\d*)\.(0|[1-9]\d*)\.(0|[1-9]\d*)-([A-Za-z][0-9A-Za-z-]*(?:\.[0-9A-Za-z-]+)*)(?:\+[\w.-]+)?$"
)

_BEFORE_END, _END, _LETTERS, _NUMBER, _WORD = "1", "2", "3", "4", "5"


@lru_cache(maxsize=100_000)
def version_key(text: str, system: str = "") -> str:
    """Return the sort key of a version: keys compare as plain text, byte by byte.

    `system`: "deb" for the rule of the Debian Policy Manual alone, "rpm" for that of rpm-version(7).

    >>> version_key("10.2") > version_key("9.9")
    True
    >>> version_key("1.0~rc1") < version_key("1.0")
    True
    """
    rest = text.strip()
    epoch = "0"
    if system:
        return _packaged(rest, system)
    if match := _SEMVER_PRE.match(rest):
        core = ".".join(match.group(1, 2, 3))
        return _number(epoch) + _part(core)[:-1] + _BEFORE_END + _pre_release(match[4])
    if match := _EPOCH.match(rest):
        epoch, rest = match[1], rest[match.end() :]
    upstream, _, revision = rest.rpartition("-") if "-" in rest else (rest, "", "")
    return _number(epoch) + _part(upstream) + _part(revision)


def _packaged(rest: str, system: str) -> str:
    epoch = "0"
    if match := _EPOCH.match(rest):
        epoch, rest = match[1], rest[match.end() :]
    upstream, _, revision = rest.rpartition("-") if "-" in rest else (rest, "", "")
    if system == "deb":
        return _number(epoch) + _debian(upstream) + _debian(revision or "0")
    return _number(epoch) + _rpm(upstream) + (_rpm(revision) if revision else "")


_IN_TURN = re.compile(r"(?=.)([^0-9]*)([0-9]*)", re.DOTALL)


def _debian(text: str) -> str:
    """Return a part by Debian's rule: words and numbers in turn; `~` before the end, the end before letters, these
    before other signs. A dot before a number is told by the number alone, as in the plain key."""
    out = []
    for place, (word, digits) in enumerate(_IN_TURN.findall(text)):
        if place == 0 or word != ".":
            out.append(_debian_word(word, place))
        out.append(_number(digits))
    return "".join(out) + _END


def _debian_word(word: str, place: int) -> str:
    if not word:
        return ""
    if word[0] == "~":
        before_or_after = _BEFORE_END
    elif place == 0 or (word > "." and word[0] in "./:" and word[1:2] != "~"):
        before_or_after = _WORD  # after a number, where a dot or nothing would stand
    else:
        before_or_after = _LETTERS
    told = (_BEFORE_END if c == "~" else f"{_LETTERS}{c}" if c.isalpha() else f"{_NUMBER}{c}" for c in word)
    return before_or_after + "".join(told) + _END


def _rpm(text: str) -> str:
    """Return a part by RPM's rule: words and numbers, `~` before the end, `^` right after it."""
    out = []
    for token in _RPM_TOKEN.findall(text):
        if token.isdigit():
            out.append(_number(token))
        elif token in "~^":
            out.append(_BEFORE_END if token == "~" else _END + "~")
        else:
            out.append(f"{_LETTERS}{token}!")
    return "".join(out) + _END


_RPM_TOKEN = re.compile(r"[0-9]+|[A-Za-z]+|~|\^")


def _number(digits: str) -> str:
    """Return a run of digits as text that sorts by its value: its length goes first."""
    plain = digits.lstrip("0")
    return f"{_NUMBER}{len(plain):03d}{plain}"


def _pre_release(text: str) -> str:
    """Return the identifiers of a pre-release: numbers before words, words by ASCII, more of them after fewer."""
    told = (_number(i) if i.isdigit() else f"{_WORD}{i}!" for i in text.split("."))
    return "".join(told) + _BEFORE_END


def _part(text: str) -> str:
    tokens = _TOKEN.findall(text)
    out: list[str] = []
    zeros: list[str] = []
    for token in tokens:
        if token.isdigit():
            code = _number(token)
            if not token.strip("0"):
                zeros.append(code)
            else:
                out += [*zeros, code]
                zeros = []
        elif token == "~":
            zeros = []
            out.append(_BEFORE_END)
        else:
            zeros = []
            word = token.lower()
            out.append((_BEFORE_END if word in _PRE_RELEASE else _LETTERS) + word + "!")
    return "".join(out) + _END
