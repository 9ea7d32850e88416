"""What people say of labels."""

from ninja import Field, Schema


class PrintIn(Schema):
    """Which labels to print: of devices by number, or of those that answer a filter; on which sheet, beginning at which
    of its labels, moved by how many millimetres; with which code. `expected`: how many devices were shown;
    `give_numbers`: those that have no company number get the next one of their kind's scheme first."""

    assets: list[int] = Field(default_factory=list, max_length=5_000)
    filter: str | None = None
    expected: int | None = None
    sheet: str
    code: str = "QR"
    begin: int = 1
    right: float = Field(default=0, allow_inf_nan=False)
    down: float = Field(default=0, allow_inf_nan=False)
    give_numbers: bool = False


class WordsIn(Schema):
    """What labels and the finder's page say."""

    company: str = Field(default="", max_length=80)
    phone: str = Field(default="", max_length=40)
    words: str = Field(default="", max_length=300)
    version: int


class SchemeIn(Schema):
    """A numbering scheme, of kinds; of none: of all that have no other. `next`: the running number it gives next."""

    name: str = Field(max_length=200)
    kinds: list[str] = Field(default_factory=list, max_length=60)
    prefix: str = Field(default="", max_length=12)
    digits: int = 5
    check: str = "none"
    next: int = Field(default=1, ge=0, lt=10**12)
    version: int | None = None
