"""Handbooks that ship: beginnings in Tarn's own words, which a company makes its own."""

import re
from dataclasses import dataclass
from typing import Any

from tarn.core.handbooks.document import VARIABLES, check
from tarn.core.speech import said_in

Node = dict[str, Any]
_VARIABLE = re.compile(r"\{(" + "|".join(VARIABLES) + r")\}")


@dataclass(frozen=True)
class ShippedHandbook:
    """A handbook to begin with."""

    key: str
    name: str
    text: str
    document: Node


def _line(text: str) -> list[Node]:
    out: list[Node] = []
    at = 0
    for found in _VARIABLE.finditer(text):
        if found.start() > at:
            out.append({"type": "text", "text": text[at : found.start()]})
        out.append({"type": "variable", "attrs": {"name": found[1]}})
        at = found.end()
    if at < len(text):
        out.append({"type": "text", "text": text[at:]})
    return out


def _h(text: str, level: int = 2) -> Node:
    return {"type": "heading", "attrs": {"level": level}, "content": _line(text)}


def _p(text: str) -> Node:
    return {"type": "paragraph", "content": _line(text)}


def _steps(*texts: str) -> Node:
    items = [{"type": "listItem", "content": [_p(t)]} for t in texts]
    return {"type": "orderedList", "attrs": {"start": 1}, "content": items}


def _list(*texts: str) -> Node:
    return {"type": "bulletList", "content": [{"type": "listItem", "content": [_p(t)]} for t in texts]}


def _live(kind: str, title: str, **settings: Any) -> Node:
    return {"type": "live", "attrs": {"key": "", "kind": kind, "settings": {"title": title, **settings}}}


_BREAK: Node = {"type": "pageBreak"}


def _handbook(key: str, name: str, text: str, *nodes: Node) -> ShippedHandbook:
    content = [_h(name, 1), _p("{company}, as of {date}. Issue {number}."), *nodes]
    number = 0
    for node in content:
        if node["type"] == "live":
            number += 1
            node["attrs"]["key"] = f"b{number}"
    return ShippedHandbook(key, name, text, check({"type": "doc", "content": content}))


HANDBOOKS: dict[str, ShippedHandbook] = {
    h.key: h
    for h in (
        _handbook(
            "management", "Summary for the management", "One page of figures, and what is to be decided.",
            _h("How much there is"),
            _live("figure", "Devices in the register", words="devices are in the register"),
            _live("figure", "Servers", filter="kind = server", words="of them are servers"),
            _live("figure", "In stock", filter='state = "in stock"', words="lie in stock"),
            _h("What is out of order"),
            _live("figure", "Not heard of", filter="last_seen < now - 30d", words="were not heard of for 30 days"),
            _live("figure", "Exposed", filter='exposure = "act now"', words="have weaknesses that cannot wait"),
            _live("figure", "Without cover", filter="warranty.end < now", words="are past their warranty"),
            _h("What ends, and what it costs"),
            _live("report", "Notices to give", report="notices", most=15),
            _live("report", "To be replaced", report="refresh", most=15),
            _h("To be decided"),
            _list("What is to be replaced this year.", "Which contracts are not to go on."),
        ),
        _handbook(
            "estate", "Estate handbook", "What there is, where, and of which kinds.",
            _h("The estate in figures"),
            _live("figure", "Devices", words="devices are in the register"),
            _live("report", "By place", report="by-place", most=400),
            _BREAK,
            _h("Networks"),
            _p("The networks of the company, and how many devices were met in each."),
            _live("subnets", "Networks"),
            _h("Services"),
            _live("services", "Services by promise"),
            _h("What changed"),
            _live("changes", "Devices that came and went", most=200),
        ),
        _handbook(
            "recovery", "If the data room is lost", "What comes back first, from where, and whom to call.",
            _p("This handbook says what to bring back first, from where, and whom to call. What is set off with a bar "
               "is filled in afresh whenever it is issued."),
            _h("What comes back first"),
            _p("Bring services back in this order. Nobody but those named may change it on the day."),
            _live("services", "Services by promise"),
            _h("Whom to call"),
            _live("people", "People to call"),
            _h("What is needed for it"),
            _live("devices", "Servers and virtual hosts", filter='kind in (server, hypervisor)',
                  columns="name, place, model, serial", most=200),
            _live("devices", "Network gear", filter='kind in (switch, router, firewall, "access point")',
                  columns="name, place, model, serial", most=300),
            _h("The first hour"),
            _steps("Call those named above, and say where to meet.",
                   "Note what still answers, and what does not.",
                   "Start what others stand on first: power, network, names, directory.",
                   "Bring services back in the order above, and tell each one's owner."),
            _h("Keys, codes and contracts"),
            _p("Write here where keys and codes lie. They do not belong into this handbook."),
        ),
        _handbook(
            "data", "Record of processing, and where data lies", "Services with data on people, and where it is kept.",
            _p("Which services hold data on people, for what, how long, and where they run. {company} keeps this "
               "record; who looks after a service says what belongs into it."),
            _h("Services"),
            _live("services", "Services and who looks after them"),
            _h("Where data lies"),
            _live("devices", "Servers", filter="kind = server", columns="name, place, department, os.name", most=300),
            _h("Who may see it"),
            _p("Write here for each service who may see what, by which role."),
            _h("How long it is kept"),
            _p("Write here for each service when data is deleted, and by whom."),
        ),
        _handbook(
            "site", "Site sheet", "One place: its devices, ports, networks and people.",
            _p("What stands at {place}, and how it hangs together."),
            _h("Devices"),
            _live("report", "By place", report="by-place", most=100),
            _h("Ports and links"),
            _live("ports", "Ports and links", most=300),
            _h("Networks"),
            _live("subnets", "Networks"),
            _h("Getting in"),
            _p("Write here who has the key, and when somebody is there."),
        ),
        _handbook(
            "network", "Network handbook", "Networks, gear, ports and what hangs on each.",
            _h("Networks"),
            _live("subnets", "Networks"),
            _h("Gear"),
            _live("devices", "Network gear", filter='kind in (switch, router, firewall, "access point")',
                  columns="name, place, model, address, os.version", most=500),
            _h("Ports and links"),
            _live("ports", "Ports and links", most=1000),
            _h("What changed"),
            _live("changes", "Gear that came and went", filter='kind in (switch, router, firewall, "access point")'),
        ),
        _handbook(
            "hand-over", "Hand-over of a department", "What a department has, and what goes with it.",
            _h("Devices"),
            _live("report", "Who has what", report="in-hands", most=400),
            _h("Services it looks after"),
            _live("services", "Services by promise"),
            _h("Open matters"),
            _list("Loans that are due.", "Contracts whose notice comes up.", "Devices nobody could find."),
            _p("Handed over by {asked}, received by ____________________ on {date}."),
        ),
        _handbook(
            "induction", "Induction of a new administrator", "What somebody new needs to know in the first week.",
            _h("The estate"),
            _live("figure", "Devices", words="devices are in the register"),
            _live("services", "Services by promise"),
            _h("Whom to ask"),
            _live("people", "People to call"),
            _h("Networks"),
            _live("subnets", "Networks"),
            _h("The first week"),
            _steps("Sign in, and add a second factor.",
                   "Read the recovery handbook, and go the way of its first hour once.",
                   "Sit beside whoever takes the calls for half a day.",
                   "Follow one device from its order to its label."),
        ),
        _handbook(
            "auditor", "Yearly statement for the auditor", "What there is, what it rests on, and what was changed.",
            _p("This statement is of {date}. It was asked for by {asked} and approved by {approved}. Every figure is "
               "reckoned from dated evidence, and can be reckoned anew as of that day."),
            _h("Devices"),
            _live("figure", "In the register", words="devices are in the register"),
            _live("figure", "Heard of", filter="last_seen >= now - 30d", words="were heard of in the last 30 days"),
            _live("figure", "Lost", filter='state = "lost or stolen"', words="are lost or stolen"),
            _live("report", "What they are worth", report="worth", most=1000),
            _h("What came and went"),
            _live("changes", "Devices that came and went", most=1000),
            _h("What ends"),
            _live("report", "Notices", report="notices", most=200),
        ),
    )
}  # fmt: skip


def begun_in(held: ShippedHandbook, language: str) -> ShippedHandbook:
    """A handbook that ships, to begin with in a language (a tag of `LANGUAGES`)."""
    document = _in_language(held.document, language)
    return ShippedHandbook(held.key, said_in(held.name, language), said_in(held.text, language), document)


def _in_language(node: Node, language: str) -> Node:
    told = dict(node)
    if node["type"] in ("heading", "paragraph"):
        text = "".join(c["text"] if c["type"] == "text" else f"{{{c['attrs']['name']}}}" for c in node["content"])
        told["content"] = _line(said_in(text, language))
    elif node["type"] == "live":
        own = {k: said_in(v, language) for k, v in node["attrs"]["settings"].items() if k in ("title", "words")}
        told["attrs"] = node["attrs"] | {"settings": node["attrs"]["settings"] | own}
    elif "content" in node:
        told["content"] = [_in_language(child, language) for child in node["content"]]
    return told
