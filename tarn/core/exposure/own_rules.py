"""Findings of our own: rules of the company, each a filter of the one language, with a grade and what is to be done.

When a device began and ceased to fit a filter follows from the days on which it is asked: at the end of each, as the
dial asks. Within a day the reading that brought the change tells when; where none did, the day itself.
"""

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from tarn.core.exposure.grade import Grade

Verb = Literal["update", "remove", "replace", "renew", "close", "set right"]
"""What a change does."""
VERBS: tuple[Verb, ...] = get_args(Verb)

MOST_ASKED = 48
"""Readings of one day a filter is asked at, to tell which of them brought a change; beyond that the first did."""


@dataclass(frozen=True, slots=True)
class ShippedRule:
    """A rule that ships: `key` tells it from others whatever it is called later; `verb` and `what` name the change that
    ends it, `todo` how that is done."""

    key: str
    name: str
    filter: str
    grade: Grade
    verb: Verb
    what: str
    todo: str


_COMPUTERS = "kind in (workstation, laptop, kiosk, till)"
_SIMPLE = {
    "camera": (22, 80, 443, 554, 161, 8443),
    "printer": (22, 80, 443, 515, 631, 9100, 161, 8443),
    '"desk phone"': (22, 80, 443, 5060, 5061, 161),
    '"power supply"': (22, 80, 443, 161),
}
"""Ports that devices of a simple kind are expected to have; any other is looked at."""


def _unexpected() -> str:
    told = (f"(kind = {kind} and ports[not port in ({', '.join(map(str, p))})])" for kind, p in _SIMPLE.items())
    return " or ".join(told)


SHIPPED = tuple(
    ShippedRule(*told)
    for told in (
        (
            "certificate-over",
            "A certificate is over",
            "certificates[ends < now]",
            "this week",
            "renew",
            "certificates that are over",
            "Have it signed anew and put in its place; whoever connects is refused or learns to ignore warnings.",
        ),
        (
            "certificate-ends",
            "A certificate ends within 30 days",
            "certificates[ends in now .. now + 30d]",
            "this month",
            "renew",
            "certificates that end soon",
            "Have it signed anew before its last day.",
        ),
        (
            "weak-key",
            "A certificate has a weak key",
            "certificates[(key_kind in (RSA, DSA) and key_bits < 2048) or (key_kind = EC and key_bits < 224)]",
            "this month",
            "renew",
            "certificates with weak keys",
            "Make a new key, of 2048 bits or more for RSA, and have it signed (NIST SP 800-131A, 3).",
        ),
        (
            "broken-hash",
            "A certificate is signed over a broken hash",
            "certificates[hashed in (md2, md4, md5, sha1)]",
            "this month",
            "renew",
            "certificates over broken hashes",
            "Have it signed over SHA-256 or better (RFC 9155, RFC 6194).",
        ),
        (
            "telnet",
            "Telnet answers",
            "ports[protocol = tcp and port = 23]",
            "this week",
            "close",
            "port 23 (telnet)",
            "Switch telnet off and use SSH: names and passwords go over it in clear.",
        ),
        (
            "ftp",
            "FTP answers",
            "ports[protocol = tcp and port = 21]",
            "this month",
            "close",
            "port 21 (FTP)",
            "Switch FTP off and use SFTP: names and passwords go over it in clear.",
        ),
        (
            "snmp-in-clear",
            "It is read by SNMP in clear",
            "ports[clear ~ snmp]",
            "watch",
            "set right",
            "SNMP in clear",
            "Set up SNMPv3 with authentication and privacy (RFC 3414) and switch versions 1 and 2c off.",
        ),
        (
            "web-sign-in",
            "A web page takes passwords in clear",
            'ports[clear ~ "HTTP sign-in"]',
            "this month",
            "close",
            "sign-ins over HTTP",
            "Have its pages served over TLS alone.",
        ),
        (
            "unexpected-port",
            "A port nobody expects of its kind",
            _unexpected(),
            "this month",
            "close",
            "ports nobody expects",
            "Switch off what listens there, or add the port to the rule where it is meant to be open.",
        ),
        (
            "support-over",
            "It is past its end of support",
            "support[ends < today]",
            "this month",
            "replace",
            "what is past its end of support",
            "Bring in a release that is supported: cures are made for it no longer.",
        ),
        (
            "protection-missing",
            "No protection",
            f"{_COMPUTERS} and no protections",
            "this week",
            "set right",
            "protection where there is none",
            "Install the company's protection product.",
        ),
        (
            "protection-off",
            "Protection is off",
            "protections[on = no]",
            "this week",
            "set right",
            "protection that is off",
            "Switch it on, and find out who switched it off.",
        ),
        (
            "protection-stale",
            "Protection is out of date",
            "protections[up_to_date = no]",
            "this month",
            "set right",
            "protection that is out of date",
            "Have it fetch its definitions; where it cannot, mend its way there.",
        ),
        (
            "laptop-unencrypted",
            "A laptop without encryption",
            "kind in (laptop, tablet) and encrypted = no",
            "this week",
            "set right",
            "laptops without encryption",
            "Encrypt its disks, and keep the recovery key.",
        ),
        (
            "administrator",
            "An administrator nobody approved",
            f"{_COMPUTERS} and accounts[administrator = yes and enabled = yes "
            "and not name in (root, administrator, admin, tarn)]",
            "this month",
            "remove",
            "administrators nobody approved",
            "Take the account's rights, or name it in the rule where it is approved.",
        ),
        (
            "leaver-account",
            "An account of somebody who has left",
            "accounts[enabled = yes and left = yes]",
            "this week",
            "remove",
            "accounts of leavers",
            "Lock the account, and hand over what is its.",
        ),
        (
            "known-password",
            "A password that everybody knows is let in",
            "given_password = yes",
            "act now",
            "set right",
            "passwords that everybody knows",
            "Give the account a password of its own.",
        ),
    )
)
"""The rules that ship."""

Met = Callable[[int], Collection[int]]
"""From a moment to the devices a filter holds for as of it."""


@dataclass(frozen=True, slots=True)
class RuleSpan:
    """That a device fitted a rule from `begins` until `ends`; None while it does."""

    asset: int
    begins: int
    ends: int | None


def walked(
    standing: Mapping[int, int],
    days: Iterable[tuple[int, int]],
    met: Met,
    readings: Callable[[Collection[int], int, int], Mapping[int, list[int]]],
) -> list[RuleSpan]:
    """Return the spans that follow from asking a filter day by day, those that end and those that stand at last.

    `standing`: by asset since when it fits before the first day. `days`: the first and the last second of each, in
    order, without gaps. `readings(assets, after, until)`: by asset the moments it was read then, in order.
    """
    open_since = dict(standing)
    out: list[RuleSpan] = []
    for first, last in days:
        now = frozenset(met(last))
        came, went = now - open_since.keys(), open_since.keys() - now
        if not came and not went:
            continue
        at_first = frozenset(met(first))
        told = readings([*came, *went], first, last)
        asked = _Asked(met, {m for moments in told.values() for m in moments})
        for asset in sorted(came):
            here = asset in at_first
            open_since[asset] = first if here else asked.turn(asset, told.get(asset, []), first, fits=True)
        for asset in sorted(went):
            gone = asset not in at_first
            ends = first if gone else asked.turn(asset, told.get(asset, []), first, fits=False)
            begins = open_since.pop(asset)
            if ends > begins:
                out.append(RuleSpan(asset, begins, ends))
    out += (RuleSpan(asset, begins, None) for asset, begins in sorted(open_since.items()))
    return out


class _Asked:
    """A filter asked at readings of one day, each once."""

    def __init__(self, met: Met, moments: Collection[int]) -> None:
        self._met, self._few = met, len(moments) <= MOST_ASKED
        self._held: dict[int, frozenset[int]] = {}

    def turn(self, asset: int, moments: list[int], first: int, *, fits: bool) -> int:
        """Return the reading from which on a device fits or not: of several the first, the last untold."""
        if not moments:
            return first
        for moment in moments[:-1] if self._few else ():
            if moment not in self._held:
                self._held[moment] = frozenset(self._met(moment))
            if (asset in self._held[moment]) == fits:
                return moment
        return moments[-1] if self._few else moments[0]
