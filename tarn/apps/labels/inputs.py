"""What people say of labels."""

from ninja import Field, Schema


class PrintIn(Schema):
    """Which labels to print: of devices by number, or of those that answer a filter; on which sheet, beginning at which
    of its labels, moved by how many millimetres; with which code. `expected`: how many devices were shown."""

    assets: list[int] = Field(default_factory=list, max_length=5_000)
    filter: str | None = None
    expected: int | None = None
    sheet: str
    code: str = "QR"
    begin: int = 1
    right: float = Field(default=0, allow_inf_nan=False)
    down: float = Field(default=0, allow_inf_nan=False)


class WordsIn(Schema):
    """What labels and the finder's page say."""

    company: str = Field(default="", max_length=80)
    phone: str = Field(default="", max_length=40)
    words: str = Field(default="", max_length=300)
    version: int
