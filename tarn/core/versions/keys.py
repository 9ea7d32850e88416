"""What keys of versions are made of: one alphabet for all orders, sorted byte by byte."""

BEFORE_END, END, LETTERS, NUMBER, WORD = "1", "2", "3", "4", "5"
"""First letters of a key's parts, in their order: before the end of a version, its end, and what goes on."""


class VersionError(ValueError):
    """A text that is no version by the order it is asked of."""


def number(digits: str) -> str:
    """Return a run of digits as text that sorts by its value: its length goes first."""
    plain = digits.lstrip("0")
    return f"{NUMBER}{len(plain):03d}{plain}" if len(plain) < 999 else f"{NUMBER}999{len(plain):09d}{plain}"
