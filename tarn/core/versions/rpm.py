"""The order of RPM: rpm-version(7)."""

import re

from tarn.core.versions.debian import parted
from tarn.core.versions.keys import BEFORE_END, END, LETTERS, number

_TOKEN = re.compile(r"[0-9]+|[A-Za-z]+|~|\^")


def key(text: str) -> str:
    """Return the key of epoch, version and release; any text has one. None stands before any release."""
    epoch, version, release = parted(text.strip())
    return number(epoch) + _part(version) + (_part(release) if release else "")


def _part(text: str) -> str:
    """Return a part: words and numbers, `~` before the end, `^` right after it."""
    out = []
    for token in _TOKEN.findall(text):
        if token.isdigit():
            out.append(number(token))
        elif token in "~^":
            out.append(BEFORE_END if token == "~" else END + "~")
        else:
            out.append(f"{LETTERS}{token}!")
    return "".join(out) + END
