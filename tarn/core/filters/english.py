"""What a filter asks, as a plain English sentence. One way: text is not read back from it."""

from collections.abc import Mapping

from tarn.core.fields import FIELDS, GROUPS, PLURAL, RELATIONS, SINGULAR, Field
from tarn.core.filters.tree import (
    All,
    Any_,
    Between,
    Compare,
    Counted,
    Has,
    InSet,
    Moment,
    Node,
    Not,
    Pattern,
    Phrase,
    Plain,
    Presence,
    Related,
    Unread,
    Value,
    Within,
    Words,
)

_OPS = {"=": "is", "!=": "is not", "<": "is under", "<=": "is at most", ">": "is over", ">=": "is at least"}
_WHEN = {"<": "is before", ">": "is after", "<=": "is no later than", ">=": "is no earlier than"}
_UNITS = {"min": "minute", "h": "hour", "d": "day", "w": "week", "mo": "month", "y": "year"}


def english(node: Node) -> str:
    """Return the sentence, beginning with “assets” and ending without a stop."""
    if node == All(()):
        return "all assets"
    return "assets " + _clause(node, FIELDS)


def _clause(node: Node, known: Mapping[str, Field], deep: bool = False) -> str:
    match node:
        case All(items):
            return joined([_clause(i, known, True) for i in items], "and")
        case Any_(items):
            said = joined([_clause(i, known, True) for i in items], "or")
            return f"either {said}" if deep else said
        case Not(item):
            return f"not ({_clause(item, known)})"
        case Compare(name, op, value):
            return _compare(name, op, value, known)
        case Within(name, values):
            listed = joined([_value(v) for v in values], "or")
            return f"whose {_name(name, known)} is {'one of ' if len(values) > 1 else 'within '}{listed}"
        case Presence(name, present):
            return f"that have {'a' if present else 'no'} {_name(name, known)}"
        case Has(group, inner, no):
            what = SINGULAR.get(group, group)
            if inner is None:
                return f"with no {what}"
            said = _clause(inner, GROUPS.get(group, {}))
            return f"with {'no' if no else 'some'} {what} {said}"
        case Counted(group, op, number, inner):
            what = PLURAL.get(group, group)
            said = f" {_clause(inner, GROUPS.get(group, {}))}" if inner is not None else ""
            return f"whose number of {what}{said} {_OPS.get(op, op)} {_value(number)}"
        case Unread(section):
            return f"of which no {PLURAL.get(section, section)} were ever read"
        case InSet(name):
            return f"in the set “{name}”"
        case Related(relation, inner, no, _, heard):
            says = f"that {_denied(RELATIONS[relation]) if no else RELATIONS[relation]} assets {_clause(inner, FIELDS)}"
            return says + (f", as heard within {_span(int(heard[:-1]), heard[-1])}" if heard else "")
        case Words(words):
            return "that mention " + joined([f"“{w}”" for w in words], "and")
    raise TypeError(node)


def _span(number: int, unit: str) -> str:
    return f"{number} {_UNITS[unit]}{'' if number == 1 else 's'}"


def _denied(says: str) -> str:
    return says.replace("are ", "are not ", 1) if says.startswith("are ") else f"do not {says}"


def _name(name: str, known: Mapping[str, Field]) -> str:
    if name.startswith("field:"):
        return f"“{name[6:]}”"
    field = known.get(name.lower())
    if field is None or field.heading.isupper():
        return name
    return field.heading[0].lower() + field.heading[1:]


def _compare(name: str, op: str, value: Value, known: Mapping[str, Field]) -> str:
    field = known.get(name.lower())
    said = _name(name, known)
    if isinstance(value, Pattern):
        return f"whose {said} {'does not match' if op[0] == '!' else 'matches'} the pattern {value.text}"
    if op in ("~", "!~"):
        return f"whose {said} {'does not contain' if op == '!~' else 'contains'} {_value(value)}"
    if isinstance(value, Between):
        return f"whose {said} is {'not ' if op == '!=' else ''}between {_value(value.low)} and {_value(value.high)}"
    words = _WHEN.get(op) if field is not None and field.type == "moment" else None
    return f"whose {said} {words or _OPS[op]} {_value(value)}"


def _value(value: Value) -> str:
    match value:
        case Plain(text):
            return text
        case Pattern(text):
            return f"something like {text}"
        case Phrase(name):
            return f"any of the phrase “{name.replace('_', ' ')}”"
        case Moment(base, shifts):
            out = base
            for sign, number, unit in shifts:
                side = "after" if sign == "+" else "before"
                out = f"{_span(number, unit)} {side} {out}"
            return out
        case Between(low, high):
            return f"{_value(low)} to {_value(high)}"
    raise TypeError(value)


def joined(parts: list[str], word: str) -> str:
    """Return a list in words; `word` stands before the last."""
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + f" {word} " + parts[-1]
