"""What an item of a list is declared with: one class an item, from which everything that knows of lists is made.

The document of a sighting, the table of spans, fields of filters, columns of reports, words of the history, lists of
the dossier and the reference of fields follow from the class. A list is added by adding its class to `items.py`.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field, GetJsonSchemaHandler, StringConstraints
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema

Text = Annotated[str, StringConstraints(max_length=500, pattern=r"^[^\x00-\x08\x0a-\x1f\x7f]*$")]
LongText = Annotated[str, StringConstraints(max_length=4_000, pattern=r"^[^\x00-\x08\x0b-\x1f\x7f]*$")]
"""Text of several lines."""
Name = Annotated[str, StringConstraints(min_length=1, max_length=300, pattern=r"^[^\x00-\x1f\x7f]+$")]
Count = Annotated[int, Field(ge=0, le=2**62)]
PortNumber = Annotated[int, Field(ge=0, le=65535)]
Mac = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")]


class Part(BaseModel):
    """Base of everything inside a sighting: unknown names are refused, not dropped."""

    model_config = ConfigDict(extra="forbid", frozen=True)


@dataclass(frozen=True, slots=True)
class Attribute:
    """What an attribute of an item is: its `meaning` in words, and its `type`.

    The type is one of `fields.TYPES`, or `day`: a moment that has no clock, kept as its first second in UTC; or `code`:
    a number that is a name, such as a port. `unit` is what is written after a plain number, `none` what an empty value
    means. `bare`: a word alone finds it. `asked`: a filter may ask for it. `shown`: the dossier's list has a column for
    it. `secret`: shown to few, and its last characters alone to others.
    """

    meaning: str
    type: str = "text"
    label: str = ""
    choices: tuple[str, ...] = ()
    unit: str = ""
    none: str = ""
    bare: bool = False
    asked: bool = True
    shown: bool = True
    secret: bool = False

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        """Say the meaning in the schema of a sighting too."""
        return {**handler(schema), "description": self.meaning}

    def heading(self, name: str) -> str:
        """Return the attribute's name as a heading."""
        return self.label or name.replace("_", " ").capitalize()


@dataclass(frozen=True, slots=True)
class Section:
    """A list of a sighting: its `name`, the class of its items, and the attributes that tell two of them apart (`key`).

    `one` and `many` are what its items are called, `heading` the heading of its list in the dossier (empty where it is
    shown otherwise or not at all). `known_by` is the attribute people know an item by, where that is not its key.
    `exchanged`: of a list of parts the attributes that make it another part. `news`: a change of it is worth a line;
    lists that are never the same twice, or tell beside what another line tells, are kept and asked for, but are none.
    """

    name: str
    item: type["Item"]
    key: tuple[str, ...]
    one: str
    many: str
    heading: str = ""
    known_by: str = ""
    exchanged: tuple[str, ...] = ()
    news: bool = True

    @property
    def attributes(self) -> dict[str, Attribute]:
        """What is declared of the attributes, in their order."""
        return {n: _declared(n, f.metadata) for n, f in self.item.model_fields.items()}

    @property
    def secrets(self) -> tuple[str, ...]:
        """The attributes that few may see."""
        return tuple(n for n, a in self.attributes.items() if a.secret)


SECTIONS: dict[str, Section] = {}
"""The lists there are, in the order of their classes."""


class Item(Part):
    """Base of the items of lists. The words after a class's base are its Section."""

    section: ClassVar[Section]

    def __init_subclass__(cls, **said: Any) -> None:
        """Take the words after a class's base; pydantic hands them on below."""

    @classmethod
    def __pydantic_init_subclass__(cls, section: str = "", key: tuple[str, ...] = (), **said: Any) -> None:
        """Enter the class among the lists. Raises TypeError where an attribute or the key is not declared."""
        made = cls.section = Section(section, cls, key, **said)
        strange = {*key, *made.exchanged, *filter(None, [made.known_by])} - set(made.attributes)
        if not section or not key or strange:
            raise TypeError(f"{cls.__name__}: a list has a name and a key of its own attributes ({sorted(strange)}).")
        SECTIONS[section] = made


def _declared(name: str, metadata: list[Any]) -> Attribute:
    attributes: Iterator[Attribute] = (m for m in metadata if isinstance(m, Attribute))
    try:
        return next(attributes)
    except StopIteration:
        raise TypeError(f"The attribute “{name}” of a list is not declared.") from None
