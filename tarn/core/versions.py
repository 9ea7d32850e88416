"""Versions as sortable keys.

A version becomes one text that sorts, byte by byte, as versions do, so that a
database can compare and index it. The order follows the Debian Policy Manual,
section 5.6.12 (epoch, upstream part, revision; `~` before the end), with two
additions people expect across packaging systems: trailing `.0` groups do not
count, and the usual pre-release words (alpha, beta, rc …) sort before the
release they lead up to, as in PEP 440.
"""

import re
from functools import lru_cache

_TOKEN = re.compile(r"\d+|[A-Za-z]+|~")
_PRE_RELEASE = frozenset({"alpha", "beta", "rc", "pre", "preview", "dev"})
_EPOCH = re.compile(r"^(\d+):")

_BEFORE_END, _END, _LETTERS, _NUMBER = "1", "2", "3", "4"


@lru_cache(maxsize=100_000)
def version_key(text: str) -> str:
    """Return the sort key of a version: keys compare as plain text, byte by byte.

    >>> version_key("10.2") > version_key("9.9")
    True
    >>> version_key("1.0~rc1") < version_key("1.0")
    True
    """
    rest = text.strip()
    epoch = "0"
    if match := _EPOCH.match(rest):
        epoch, rest = match[1], rest[match.end() :]
    upstream, _, revision = rest.rpartition("-") if "-" in rest else (rest, "", "")
    return _number(epoch) + _part(upstream) + _part(revision)


def _number(digits: str) -> str:
    """Return a run of digits as text that sorts by its value: its length goes first."""
    plain = digits.lstrip("0")
    return f"{_NUMBER}{len(plain):03d}{plain}"


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
