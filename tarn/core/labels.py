"""Labels: the sheets they are printed on, by measure, where each lies, and the codes on them."""

import secrets
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, NamedTuple, get_args

CodeKind = Literal["QR", "Data Matrix", "Code 128"]
CODE_KINDS: tuple[CodeKind, ...] = get_args(CodeKind)
"""Codes a label may bear: ISO/IEC 18004, ISO/IEC 16022, ISO/IEC 15417."""
MOST_LABELS = 5_000
_ALPHABET = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"
_DRAWN_OF = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
"""What codes are drawn of: no figure looks like a letter."""
LENGTH = 9


class LabelError(ValueError):
    """Labels that cannot be printed, or a code that is none; `field` says what is wrong."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class LabelSheet:
    """A sheet, or a piece of a strip, with labels on it. All measures in millimetres: the page, a label, from the
    page's left and top edges to the first label, and from one label's beginning to the next one's."""

    key: str
    name: str
    page: tuple[float, float]
    label: tuple[float, float]
    columns: int = 1
    rows: int = 1
    first: tuple[float, float] = (0.0, 0.0)
    step: tuple[float, float] = (0.0, 0.0)

    @property
    def of_page(self) -> int:
        """How many labels a page has."""
        return self.columns * self.rows


def _a4(key: str, columns: int, rows: int, label: tuple[float, float], gap: tuple[float, float] = (0, 0)) -> LabelSheet:
    """Return an A4 sheet whose labels lie in the middle of it."""
    page = (210.0, 297.0)
    step = (label[0] + gap[0], label[1] + gap[1])
    first = ((page[0] - columns * step[0] + gap[0]) / 2, (page[1] - rows * step[1] + gap[1]) / 2)
    name = f"A4, {columns} by {rows} of {label[0]:g} × {label[1]:g} mm"
    return LabelSheet(key, name, page, label, columns, rows, first, step)


def _letter(key: str, columns: int, rows: int, label: tuple[float, float], gap: tuple[float, float]) -> LabelSheet:
    page = (215.9, 279.4)
    step = (label[0] + gap[0], label[1] + gap[1])
    first = ((page[0] - columns * step[0] + gap[0]) / 2, (page[1] - rows * step[1] + gap[1]) / 2)
    name = f"Letter, {columns} by {rows} of {label[0]:g} × {label[1]:g} mm"
    return LabelSheet(key, name, page, label, columns, rows, first, step)


def _strip(key: str, width: float, height: float) -> LabelSheet:
    return LabelSheet(key, f"Strip, {width:g} × {height:g} mm", (width, height), (width, height))


SHEETS: dict[str, LabelSheet] = {
    s.key: s
    for s in (
        _a4("a4-24", 3, 8, (70.0, 36.0)),
        _a4("a4-21", 3, 7, (63.5, 38.1), (2.5, 0.0)),
        _a4("a4-40", 4, 10, (48.5, 25.4)),
        _a4("a4-65", 5, 13, (38.1, 21.2), (2.5, 0.0)),
        _a4("a4-12", 2, 6, (99.1, 42.3), (2.5, 0.0)),
        _letter("letter-30", 3, 10, (66.7, 25.4), (3.1, 0.0)),
        _strip("strip-62", 62.0, 29.0),
        _strip("strip-54", 54.0, 25.0),
        _strip("strip-36", 36.0, 12.0),
        _strip("strip-24", 24.0, 12.0),
    )
}
"""The sheets there are, by key: common measures of cut sheets, and pieces of strips for label printers."""


class Placed(NamedTuple):
    """Where a label lies: its page from 0, and its left and top edges in millimetres from those of the page."""

    page: int
    left: float
    top: float


def places(sheet: LabelSheet, number: int, begin: int = 1, moved: tuple[float, float] = (0.0, 0.0)) -> Iterator[Placed]:
    """Yield where so many labels lie, row by row, the first of them at the so manyeth of its sheet (from 1), all moved
    by so many millimetres to the right and down. Raises LabelError."""
    if not 1 <= begin <= sheet.of_page:
        raise LabelError("begin", f"This sheet has labels 1 to {sheet.of_page}; {begin} is none of them.")
    if max(map(abs, moved)) > 20:
        raise LabelError("moved", "Labels are moved by 20 mm at the most.")
    if not 1 <= number <= MOST_LABELS:
        raise LabelError("filter", f"{number:,} labels are not printed at once: 1 to {MOST_LABELS:,} are.")
    for n in range(begin - 1, begin - 1 + number):
        page, place = divmod(n, sheet.of_page)
        row, column = divmod(place, sheet.columns)
        yield Placed(
            page,
            sheet.first[0] + column * sheet.step[0] + moved[0],
            sheet.first[1] + row * sheet.step[1] + moved[1],
        )


def new_code() -> str:
    """Return a code nobody can guess from another, with its check character."""
    drawn = "".join(secrets.choice(_DRAWN_OF) for _ in range(LENGTH - 1))
    return drawn + check_character(drawn)


def check_character(text: str) -> str:
    """Return the check character of letters and figures (ISO/IEC 7064, MOD 37,36). Raises LabelError for others."""
    left = 36
    for character in text:
        left = (left + _value(character)) % 36 or 36
        left = left * 2 % 37
    return _ALPHABET[(37 - left) % 36]


def _value(character: str) -> int:
    place = _ALPHABET.find(character)
    if place < 0:
        raise LabelError("code", f"“{character}” stands in no code.")
    return place


def read_code(text: str) -> str:
    """Return a code as it was typed or scanned: spaces, hyphens and case do not count. Raises LabelError for one that
    is none, or mistyped."""
    said = "".join(c for c in text.upper() if c not in " -\t")
    if len(said) != LENGTH:
        raise LabelError("code", f"“{text[:40]}” is no code of a label: those have {LENGTH} letters and figures.")
    if check_character(said[:-1]) != said[-1]:
        raise LabelError("code", f"“{text[:40]}” is mistyped: its last character does not fit the others.")
    return said
