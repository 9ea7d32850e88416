"""Numbering schemes: the company's own numbers for its devices, by kind, with a check digit against slips."""

from dataclasses import dataclass
from typing import Literal, get_args

from tarn.core.labels import LabelError, check_character

CheckKind = Literal["none", "mod 11,10", "mod 37,36", "luhn"]
CHECKS: tuple[CheckKind, ...] = get_args(CheckKind)
"""ISO/IEC 7064 MOD 11,10 over the figures, ISO/IEC 7064 MOD 37,36 over letters and figures, ISO/IEC 7812-1 Annex B."""
MOST_DIGITS = 12


class SchemeError(ValueError):
    """A scheme that cannot be; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Scheme:
    """How numbers are made: a prefix, so many figures, and what checks them."""

    prefix: str
    digits: int
    check: CheckKind = "none"

    def number(self, running: int) -> str:
        """Return the number of a running one. Raises SchemeError where it has more figures than there is room for."""
        figures = f"{running:0{self.digits}}"
        if len(figures) > self.digits:
            raise SchemeError("next", f"{running:,} has more than {self.digits} figures: the scheme is used up.")
        return f"{self.prefix}{figures}{self._check(figures)}"

    def _check(self, figures: str) -> str:
        if self.check == "mod 11,10":
            return mod_11_10(figures)
        if self.check == "luhn":
            return luhn(figures)
        if self.check == "mod 37,36":
            return check_character("".join(c for c in self.prefix.upper() if c.isalnum()) + figures)
        return ""

    def holds(self, text: str) -> bool:
        """Whether a text is a number of this scheme with a check digit that fits."""
        said = text.strip().upper()
        length = len(self.prefix) + self.digits + (self.check != "none")
        if len(said) != length or not said.startswith(self.prefix.upper()):
            return False
        figures = said[len(self.prefix) : len(self.prefix) + self.digits]
        return (
            figures.isdecimal() and figures.isascii() and said[len(self.prefix) + self.digits :] == self._check(figures)
        )


def checked_scheme(prefix: str, digits: int, check: str) -> Scheme:
    """Return a scheme that can be used. Raises SchemeError."""
    kind: CheckKind | None = next((c for c in CHECKS if c == check), None)
    if kind is None:
        raise SchemeError("check", f"“{check}” checks nothing here; one of: {', '.join(CHECKS)}.")
    if not 1 <= digits <= MOST_DIGITS:
        raise SchemeError("digits", f"A number has 1 to {MOST_DIGITS} figures.")
    if len(prefix) > 12 or any(c.isspace() for c in prefix):
        raise SchemeError("prefix", "What stands before the figures has at most 12 characters and no spaces.")
    made = Scheme(prefix, digits, kind)
    try:
        made.number(0)
    except LabelError as fault:
        raise SchemeError("prefix", str(fault)) from None
    return made


def mod_11_10(figures: str) -> str:
    """Return the check digit of figures (ISO/IEC 7064, MOD 11,10)."""
    left = 10
    for figure in figures:
        left = (left + int(figure)) % 10 or 10
        left = left * 2 % 11
    return str((11 - left) % 10)


def luhn(figures: str) -> str:
    """Return the check digit of figures (ISO/IEC 7812-1, Annex B)."""
    total = 0
    for place, figure in enumerate(reversed(figures)):
        value = int(figure) * (2 if place % 2 == 0 else 1)
        total += value - 9 if value > 9 else value
    return str(-total % 10)
