"""What somebody has in the bad hour (an address, a name, a person, a ticket) and the devices it stands for."""

from collections.abc import Iterable
from ipaddress import ip_address

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.identifiers import by_word
from tarn.apps.people.scope import visible
from tarn.apps.services.inquiry.results import InquiryWord
from tarn.apps.services.kept.members import members
from tarn.apps.services.models import Service
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import quote
from tarn.core.text import fold

MOST = 12
"""Devices that are looked at side by side."""


def found(words: Iterable[str], at: int | None, mine: set[int]) -> tuple[list[InquiryWord], list[int]]:
    """Return what each word stands for, and the devices, each once, in the order of the words."""
    told: list[InquiryWord] = []
    assets: list[int] = []
    for word in dict.fromkeys(w.strip() for w in words if w.strip()):
        what, hit = _stands_for(word, at)
        hit = [a for a in dict.fromkeys(hit) if a in mine]
        new = [a for a in hit if a not in assets]
        room = MOST - len(assets)
        trouble = ""
        if not hit:
            trouble = "nothing is known by that" if at is None else "nothing was known by that on this day"
        elif len(new) > room:
            trouble = f"{len(hit)} devices: {room} of them stand here, more have no room"
        assets += new[:room]
        told.append({"word": word, "what": what if hit else "", "assets": hit[: MOST * 4], "trouble": trouble})
    return told, assets


def _stands_for(word: str, at: int | None) -> tuple[str, list[int]]:
    said = quote(word)
    try:
        ip_address(word)
        return "address", _asked(f"address = {said} or addresses[address = {said}]", at)
    except ValueError:
        pass
    service = visible(Service).filter(name__iexact=word).select_related("organisation").first()
    if service is not None:
        return "service", sorted(members(service, at).all)
    for what, text in (
        ("name", f"name = {said}"),
        ("name", f"name = {quote(word.split('.')[0])}"),
        ("DNS name", f"dns_names[name = {said}]"),
        ("number", f"number = {said}"),
        ("person", f"person = {said}"),
        ("ticket", f"tickets[number = {said}]"),
        ("certificate", f"certificates[subject = {said}]"),
        ("hardware address", f"interfaces[mac = {said}]"),
    ):
        if hit := _asked(f"({text}) and standing != none", at):
            return what, hit
    return "serial number", sorted(by_word([word]).get(fold(word), set())) if at is None else []


def _asked(text: str, at: int | None) -> list[int]:
    try:
        return list(ids(question(text, at)))
    except FilterError:  # a word that cannot be of this kind is none of it
        return []
