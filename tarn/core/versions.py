"""Versions as sortable keys.

A version becomes one text that sorts, byte by byte, as versions do, so that a
database can compare and index it. The order follows the Debian Policy Manual,
section 5.6.12 (epoch, upstream part, revision; `~` before the end), with two
additions people expect across packaging systems: trailing `.0` groups do not
count, and the usual pre-release words (alpha, beta, rc …) sort before the
release they lead up to, as in PEP 440. Three numbers and a hyphen with a word
(`1.0.0-beta.2`) are a pre-release by Semantic Versioning 2.0.0, section 11: a
packager's revision begins with a digit.
"""

import re
from functools import lru_cache

_TOKEN = re.compile(r"\d+|[A-Za-z]+|~")
_PRE_RELEASE = frozenset({"alpha", "beta", "rc", "pre", "preview", "dev"})
_EPOCH = re.compile(r"^(\d+):")
_SEMVER_PRE = re.compile(
    r"^(0|[1-9]\d*)\.(0|[1-9]\d*)\.(0|[1-9]\d*)-([A-Za-z][0-9A-Za-z-]*(?:\.[0-9A-Za-z-]+)*)(?:\+[\w.-]+)?$"
)

_BEFORE_END, _END, _LETTERS, _NUMBER, _WORD = "1", "2", "3", "4", "5"


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
    if match := _SEMVER_PRE.match(rest):
        core = ".".join(match.group(1, 2, 3))
        return _number(epoch) + _part(core)[:-1] + _BEFORE_END + _pre_release(match[4])
    if match := _EPOCH.match(rest):
        epoch, rest = match[1], rest[match.end() :]
    upstream, _, revision = rest.rpartition("-") if "-" in rest else (rest, "", "")
    return _number(epoch) + _part(upstream) + _part(revision)


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
