"""What the labels' API hands on."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class SheetOut(TypedDict):
    """A sheet of labels; measures in millimetres."""

    key: str
    name: str
    labels: int
    width: float
    height: float


class WordsOut(TypedDict):
    """What labels and the finder's page say."""

    company: str
    phone: str
    words: Words
    version: int


class SchemeOut(TypedDict):
    """A numbering scheme; `example`: the number it gives next, empty where it is used up."""

    id: int
    name: str
    kinds: list[str]
    prefix: str
    digits: int
    check: str
    next: int
    example: str
    version: int


class LabelChoices(TypedDict):
    """The sheets and codes there are, and what labels say."""

    sheets: list[SheetOut]
    codes: list[str]
    words: WordsOut
    schemes: list[SchemeOut]
    checks: list[str]


class LabelOut(TypedDict):
    """A label of a device: the number it was printed with, and the device it is on now. `moved`: that device has
    another number, for it was merged with the one the label was printed for, or parted from it."""

    code: str
    asset: int
    number: str
    name: str | None
    printed_for: str
    moved: bool
    printed: int
    printed_at: str | None
    lost_at: str | None


class FoundOut(TypedDict):
    """What a finder is told: whose it is and whom to call; nothing of the device."""

    company: str
    phone: str
    words: Words
