"""The API's description, with every answer a call may get beside the good one: problem details (RFC 9457)."""

from typing import Any

from ninja import NinjaAPI

from tarn.site.doors import OPENED, READS

PROBLEM = {
    "type": "object",
    "title": "Problem",
    "description": "What is wrong, in words (RFC 9457); `field` names the part of the input, `faults` where each is.",
    "properties": {
        "type": {"type": "string"},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "detail": {"type": "string"},
        "field": {"type": "string"},
        "faults": {
            "type": "array",
            "items": {
                "type": "object",
                "properties": {"place": {"type": "string"}, "message": {"type": "string"}},
            },
        },
    },
    "required": ["type", "title", "status", "detail"],
}
WORDS = {
    "400": "The body is no JSON, or not of the shape this call takes.",
    "401": "Nobody is signed in, and no token that is taken came along.",
    "403": "The role does not reach, it is the whole company's, or the token may not.",
    "404": "There is nothing of that number or name, or it is another organisation's.",
    "409": "It was changed meanwhile, or cannot be done as things stand.",
    "413": "More was sent than this call takes.",
    "422": "What was sent is not understood or cannot be kept; its place is named.",
    "503": "The database is busy, or the clock is wrong: nothing was changed, try again.",
    "507": "The disk is nearly full: nothing was written.",
}


MORE = {"POST /first": ("403",), "GET /persons/one": ("404",), "POST /valuation/refresh": ("404",)}
"""Answers that do not follow from what an operation is."""


def codes_of(method: str, path: str, operation: dict[str, Any]) -> list[str]:
    """Return the codes a call may answer with beside the good one."""
    door = f"{method.upper()} {path.removeprefix('/api')}"
    out = list(MORE.get(door, ())) + ([] if door in OPENED and "{" not in path else ["403"])
    if door not in OPENED:
        out.append("401")
    if "{" in path:
        out.append("404")
    if "requestBody" in operation:
        out.append("400")
    if "requestBody" in operation or operation.get("parameters"):
        out.append("422")
    if method != "get" and door not in READS:
        out += ["409", "413", "503", "507"]
    return sorted(set(out))


class Documented(NinjaAPI):
    """An API whose description tells the answers of refusal as well."""

    def get_openapi_schema(self, **rest: Any) -> Any:
        """Return the description (OpenAPI 3.1)."""
        schema = super().get_openapi_schema(**rest)
        schema["components"]["schemas"]["Problem"] = PROBLEM
        body = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
        answers = {f"Problem{code}": {"description": said, "content": body} for code, said in WORDS.items()}
        schema["components"]["responses"] = answers
        for path, operations in schema["paths"].items():
            for method, operation in operations.items():
                for code in codes_of(method, path, operation):
                    operation["responses"].setdefault(code, {"$ref": f"#/components/responses/Problem{code}"})
        return schema
