"""Regular expressions that cannot run away."""

from functools import lru_cache
from typing import Any

import re2


@lru_cache(maxsize=500)
def pattern(text: str) -> Any:
    """Compile a regular expression in linear-time syntax (RE2). Raises ValueError saying what is refused."""
    options = re2.Options()
    options.case_sensitive = False
    options.log_errors = False
    options.max_mem = 1 << 20
    try:
        return re2.compile(text, options)
    except re2.error as error:
        detail = error.args[0] if error.args else error
        raise ValueError(detail.decode() if isinstance(detail, bytes) else str(detail)) from None
