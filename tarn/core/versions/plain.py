"""The plain order, for versions no packaging system speaks for: dotted numbers, calendar versions, words.

It follows the Debian Policy Manual, section 5.6.12 (epoch, upstream part, revision; `~` before the end), with two
additions people expect across packaging systems: trailing `.0` groups do not count, and the usual pre-release words
(alpha, beta, rc …) sort before the release they lead up to, as in PEP 440. Three numbers and a hyphen with a word
(`1.0.0-beta.2`) are a pre-release by Semantic Versioning 2.0.0, section 11: a packager's revision begins with a digit.
"""

import re

from tarn.core.versions import semver
from tarn.core.versions.debian import parted
from tarn.core.versions.keys import BEFORE_END, END, LETTERS, number

_TOKEN = re.compile(r"\d+|[A-Za-z]+|~")
_PRE_RELEASE = frozenset({"alpha", "beta", "rc", "pre", "preview", "dev"})
_SEMVER_PRE = re.compile(
    r"^(0|[1-9]\d*)\.(0|[1-9]\d*)\.(0|[1-9]\d*)-([A-Za-z][0-9A-Za-z-]*(?:\.[0-9A-Za-z-]+)*)(?:\+[\w.-]+)?$"
)


def key(text: str) -> str:
    """Return the key of a version; any text has one."""
    rest = text.strip()
    if match := _SEMVER_PRE.match(rest):
        core = ".".join(match.group(1, 2, 3))
        return number("0") + _part(core)[:-1] + BEFORE_END + semver.pre_release(match[4])
    epoch, upstream, revision = parted(rest)
    return number(epoch) + _part(upstream) + _part(revision)


def _part(text: str) -> str:
    out: list[str] = []
    zeros: list[str] = []
    for token in _TOKEN.findall(text):
        if token.isdigit():
            code = number(token)
            if not token.strip("0"):
                zeros.append(code)
            else:
                out += [*zeros, code]
                zeros = []
        elif token == "~":
            zeros = []
            out.append(BEFORE_END)
        else:
            zeros = []
            word = token.lower()
            out.append((BEFORE_END if word in _PRE_RELEASE else LETTERS) + word + "!")
    return "".join(out) + END
