"""People of the company as other systems know them: not accounts of Tarn, but those who hold devices."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Person:
    """One person by their id in the other system; `active` is false once they have left or are barred."""

    key: str
    name: str
    email: str = ""
    department: str = ""
    title: str = ""
    active: bool = True
    groups: tuple[str, ...] = ()
    account: str = ""
    """The name they sign in by, without its domain."""
