"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class OwnFieldIn(Schema):
    name: str = ""
    type: str = "text"
    unit: str = ""
    choices: list[str] = []
    help: str = ""
    group: str = ""
    required: bool = False
    kinds: list[str] = []
    position: int = 0
    many: bool = False
    template: str = ""
    listed: bool = False
    version: int = 0
    anyway: bool = False


class OwnKindIn(Schema):
    name: str = ""
    parent: str = ""
    icon: str = ""
    names: dict[str, str] = {}
    hidden: list[str] = []
    version: int = 0
