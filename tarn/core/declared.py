"""What rooms declare, each in a module of its own that is read when first it is asked for."""

import importlib
from collections.abc import Iterator
from typing import Any


class Declared:
    """The things modules declare under a name of theirs, such as ROWS, in the order the modules were named."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._modules: dict[str, None] = {}

    def name(self, module: str) -> None:
        """Note a module that declares some; naming it again changes nothing."""
        self._modules[module] = None

    def __iter__(self) -> Iterator[Any]:
        return (one for module in self._modules for one in getattr(importlib.import_module(module), self._name))
