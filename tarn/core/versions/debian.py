"""The order of dpkg: Debian Policy Manual, section 5.6.12."""

import re

from tarn.core.versions.keys import BEFORE_END, END, LETTERS, NUMBER, WORD, number

_EPOCH = re.compile(r"^(\d+):")
_IN_TURN = re.compile(r"(?=.)([^0-9]*)([0-9]*)", re.DOTALL)


def parted(text: str) -> tuple[str, str, str]:
    """Return a package's version as epoch ("0" where none is written), upstream version and revision."""
    epoch = "0"
    if match := _EPOCH.match(text):
        epoch, text = match[1], text[match.end() :]
    upstream, _, revision = text.rpartition("-") if "-" in text else (text, "", "")
    return epoch, upstream, revision


def key(text: str) -> str:
    """Return the key of a package's version; an empty revision is `0`. Any text has one, as for dpkg."""
    epoch, upstream, revision = parted(text.strip())
    return number(epoch) + _part(upstream) + _part(revision or "0")


def _part(text: str) -> str:
    """Return a part: words and numbers in turn; `~` before the end, the end before letters, these before other signs.
    A dot before a number is told by the number alone, as in the plain key."""
    out = []
    for place, (word, digits) in enumerate(_IN_TURN.findall(text)):
        if place == 0 or word != ".":
            out.append(_word(word, place))
        out.append(number(digits))
    return "".join(out) + END


def _word(word: str, place: int) -> str:
    if not word:
        return ""
    if word[0] == "~":
        before_or_after = BEFORE_END
    elif place == 0 or (word > "." and word[0] in "./:" and word[1:2] != "~"):
        before_or_after = WORD  # after a number, where a dot or nothing would stand
    else:
        before_or_after = LETTERS
    told = (BEFORE_END if c == "~" else f"{LETTERS}{c}" if c.isalpha() else f"{NUMBER}{c}" for c in word)
    return before_or_after + "".join(told) + END
