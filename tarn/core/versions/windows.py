"""Versions of Windows and of files on it: up to some numbers with dots, a missing one being nought."""

import re

from tarn.core.versions.keys import END, VersionError, number

_VERSION = re.compile(r"[0-9]+(?:\.[0-9]+)*")


def key(text: str) -> str:
    """Return the key of a build such as 10.0.22631.4460. Raises VersionError."""
    bare = text.strip()
    if not _VERSION.fullmatch(bare):
        raise VersionError(f"“{text}” is no version of Windows, such as 10.0.22631.4460.")
    parts = bare.split(".")
    while len(parts) > 1 and not parts[-1].strip("0"):
        parts.pop()
    return "".join(number(p) for p in parts) + END
