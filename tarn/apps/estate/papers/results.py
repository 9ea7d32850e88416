"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class PaperOut(TypedDict):
    id: int
    text: str
    file_name: str
    size: int
    made_by: str
    made_at: str
