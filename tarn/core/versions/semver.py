"""Semantic Versioning 2.0.0, section 11; npm's versions are of it, with bounds of its own."""

import re

from tarn.core.versions.keys import BEFORE_END, END, WORD, VersionError, number

_NUMBER, _IDENTIFIER = r"(0|[1-9][0-9]*)", r"(?:0|[1-9][0-9]*|[0-9]*[A-Za-z-][0-9A-Za-z-]*)"
_VERSION = re.compile(
    rf"{_NUMBER}\.{_NUMBER}\.{_NUMBER}(?:-({_IDENTIFIER}(?:\.{_IDENTIFIER})*))?(?:\+[0-9A-Za-z-]+(?:\.[0-9A-Za-z-]+)*)?"
)
_LONGEST, _LARGEST = 256, 2**53 - 1
"""npm's bounds: characters of a version, and the value of each of its three numbers."""


def key(text: str) -> str:
    """Return the key of a version. A `v` in front, as Go writes it, is no part of it. Raises VersionError."""
    match = _VERSION.fullmatch(text.strip().removeprefix("v"))
    if match is None:
        raise VersionError(f"“{text}” is no semantic version, such as 1.4.0 or 2.0.0-beta.1.")
    major, minor, patch, before = match.groups()
    core = number(major) + number(minor) + number(patch)
    return core + (BEFORE_END + pre_release(before) if before else END)


def npm_key(text: str) -> str:
    """Return the key of a version as npm reads it. Raises VersionError."""
    bare = text.strip()
    if len(bare) > _LONGEST:
        raise VersionError(f"“{bare[:40]}…” is longer than the {_LONGEST} characters npm allows.")
    match = _VERSION.fullmatch(bare.removeprefix("v"))
    if match is None or any(int(n) > _LARGEST for n in match.group(1, 2, 3)):
        raise VersionError(f"“{text}” is no version of npm, such as 1.4.0 or 2.0.0-beta.1.")
    return key(match[0])


def pre_release(text: str) -> str:
    """Return the identifiers of a pre-release: numbers before words, words by ASCII, more of them after fewer."""
    told = (number(i) if i.isdigit() else f"{WORD}{i}!" for i in text.split("."))
    return "".join(told) + BEFORE_END
