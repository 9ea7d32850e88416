"""Whatever is sent, no operation answers 500: every operation of the API, every value in it, with what nobody means."""

import json
import re
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

from tarn.site.api import api

TEXTS = [
    "x" * 9_000,
    "two\nlines",
    "a\x00b",
    "",
    "every monday",
    "9" * 23,
    "2026-02-30",
    "((((",
    "nan",
    "9999-12-31",
    "0001-01-01",
    "FREQ=SECONDLY",
    "-1",
    "::/0",
    "zz",
    "(" * 3_000,
]
NUMBERS = [-1, 0, 2**63, 10**30, 1e308, 0.1]
SCHEMA: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
PARTS = SCHEMA["components"]["schemas"]


def example(part: dict[str, Any], depth: int = 0) -> Any:
    """Return a value of a shape, every part of it filled."""
    if "$ref" in part:
        return example(PARTS[part["$ref"].rpartition("/")[2]], depth + 1)
    if "anyOf" in part:
        return example(next(p for p in part["anyOf"] if p.get("type") != "null"), depth + 1)
    if "enum" in part or "const" in part:
        return part.get("const", part.get("enum", [None])[0])
    match part.get("type"):
        case "object":
            return {} if depth > 6 else {k: example(v, depth + 1) for k, v in part.get("properties", {}).items()}
        case "array":
            return [] if depth > 6 else [example(part.get("items", {}), depth + 1)]
        case "integer" | "number":
            return 1
        case "boolean":
            return False
    return "abc"


def spoilt(value: Any) -> Iterator[Any]:
    """Yield a value with one of its parts replaced, for every part and everything it is replaced with."""
    if isinstance(value, dict):
        for key in value:
            yield from ({**value, key: other} for other in spoilt(value[key]))
    elif isinstance(value, list):
        for n, inner in enumerate(value):
            yield from ([*value[:n], other, *value[n + 1 :]] for other in spoilt(inner))
    else:
        yield from TEXTS if isinstance(value, str) else NUMBERS


def _asked() -> Iterator[tuple[str, str, Any, Any]]:
    for path, operations in SCHEMA["paths"].items():
        for method, operation in operations.items():
            shape = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
            for number in ("1", "9" * 21, "-1", "abc"):
                url = re.sub(r"\{[^}]*\}", number, path)
                if method == "get":
                    yield method, url, None, operation["responses"]
                if number == "1" and shape is not None:
                    made = example(shape)
                    for body in ([], "x", None, made, *spoilt(made)):
                        yield method, url, body, operation["responses"]
            if method == "get":
                for parameter in operation.get("parameters", []):
                    if parameter["in"] == "query":
                        for text in TEXTS:
                            yield method, f"{url}?{parameter['name']}={quote(text[:600])}", None, operation["responses"]


def test_no_operation_answers_500(as_role: Any, estate: Any, settings: Any) -> None:
    client = as_role("administrator")
    client.raise_request_exception = False
    failed: dict[tuple[str, str], str] = {}
    for method, url, body, documented in _asked():
        sent = "" if body is None and method == "get" else json.dumps(body)
        answer = client.generic(method.upper(), url, sent, content_type="application/json")
        if answer.status_code == 500 or str(answer.status_code) not in documented:
            failed.setdefault((method, url.partition("?")[0]), f"{answer.status_code} {url[:120]} {sent[:200]}")
    assert not failed, "\n".join(f"{m} {p}: {s}" for (m, p), s in failed.items())
    assert client.get("/api/me").json()["role"] == "administrator", "what was sent has not taken the test's own rights"
