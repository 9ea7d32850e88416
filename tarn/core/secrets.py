"""What is secret in the arguments of a command, and how it is blotted out."""

import re

BLOT = "***"
_WORD = "(pass(word|wd|phrase|code)?|pwd|secret|token|credential|api[-_]?key|access[-_]?key|private[-_]?key)"
PATTERNS = (
    # --password=x, --db-password x, -Dapp.secret=x, API_TOKEN=x, /p:Password=x
    rf"([-/A-Za-z0-9_.:]*{_WORD}[-A-Za-z0-9_.]*(=|: ?)|--?[A-Za-z0-9_.-]*{_WORD}[-A-Za-z0-9_.]* )([^ ]+)",
    # scheme://user:x@host (RFC 3986, 3.2.1)
    r"([A-Za-z][-A-Za-z0-9+.]*://[^ :/@]*:)([^ @/]+)(@)",
)
"""Two forms in which a secret stands in arguments, in a syntax that Python, sed -E and .NET read alike: what is kept in
front, and what is blotted out."""
KEPT = (r"\1", r"\1")
AFTER = ("", r"\3")
_COMPILED = tuple(re.compile(p, re.IGNORECASE) for p in PATTERNS)


def blotted(command: str) -> str:
    """Return a command with what is secret in its arguments blotted out; doing it twice changes nothing."""
    for pattern, after in zip(_COMPILED, AFTER, strict=True):
        command = pattern.sub(rf"\g<1>{BLOT}{after}", command)
    return command


def by_sed(flags: str = "Ig") -> str:
    """Return the program for `sed -E` that does the same on the device (the flag I is GNU's, BusyBox's, macOS's)."""
    return ";".join(f"s#{p}#{k}{BLOT}{a}#{flags}" for p, k, a in zip(PATTERNS, KEPT, AFTER, strict=True))


def by_powershell(value: str) -> str:
    """Return an expression of PowerShell that does the same to a value on the device."""
    for pattern, kept, after in zip(PATTERNS, KEPT, AFTER, strict=True):
        value += f" -replace '{pattern}','{(kept + BLOT + after).replace(chr(92), '$')}'"
    return value
