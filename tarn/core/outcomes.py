"""How far an address got in a sweep, why no further, and what would mend it."""

from dataclasses import dataclass

OUTCOMES = ("waiting", "no answer", "answered", "recognised", "part read", "fully read", "left out")


@dataclass(frozen=True, slots=True)
class Reason:
    """A reason in words with its remedy; `{}` fields are filled with what the collector met."""

    code: str
    says: str
    remedy: str


_ALL = [
    Reason("silent", "Nothing answered within {seconds} s.", "Switched off, or a firewall drops the probes."),
    Reason(
        "heard-of",
        "It did not answer, but {router} has seen it as {mac}{where}.",
        "Asleep, or it drops probes; look at that port.",
    ),
    Reason("excluded", "An exclusion leaves it out: {exclusion}.", "Change the exclusions to have it probed."),
    Reason(
        "maintenance",
        "{network} is under maintenance until {until}; nothing is probed there.",
        "It is looked at again by the next run after that.",
    ),
    Reason("edge", "It is the network's first or last address.", "Nothing to do."),
    Reason(
        "no-credential",
        "It answers on {ports}, but no credential of this sweep speaks its protocols.",
        "Add an SNMP, SSH or WinRM credential to the sweep.",
    ),
    Reason(
        "unmanaged",
        "It answers on {ports} and offers neither SSH, WinRM nor SNMP.",
        "Nothing more can be read from outside; enter it by hand if it counts.",
    ),
    Reason(
        "sign-in-refused",
        "{protocol} refused the sign-in with “{credential}”.",
        "Check the name and the secret of the credential, or add another.",
    ),
    Reason(
        "password-expired",
        "{protocol} refused the sign-in with “{credential}”: the password has expired.",
        "Renew the password where the account lives, then type the new one here.",
    ),
    Reason(
        "account-locked",
        "{protocol} refused the sign-in with “{credential}”: the account is {how}.",
        "Have the account released where it lives; a wrong password tried too often locks it again.",
    ),
    Reason(
        "account-expired",
        "{protocol} refused the sign-in with “{credential}”: the account has expired.",
        "Have the account prolonged where it lives, or use another credential.",
    ),
    Reason(
        "no-shell",
        "{protocol} let “{credential}” in, but its account may run no commands: {detail}.",
        "Give the account an ordinary shell on the device, or use another credential.",
    ),
    Reason(
        "turned-away",
        "{protocol} closed the connection at the sign-in with “{credential}”{detail}.",
        "The device's own rules keep this account out just now; look into its log.",
    ),
    Reason(
        "another-key",
        "It presents another host key than before, {key}: “{credential}” was not tried, its password not sent.",
        "If the machine was set up anew, try the credential there by hand and accept the key; else look who answers.",
    ),
    Reason(
        "first-key",
        "Its host key {key} is met for the first time: the password of “{credential}” was not sent.",
        "Someone who keeps the credentials tries it there and accepts the key, once it is sure whose it is.",
    ),
    Reason(
        "another-certificate",
        "It presents a certificate with another key than before, {key}: “{credential}” was not tried, its password "
        "not sent.",
        "If its certificate was made anew, try the credential there by hand and accept the key; else look who answers.",
    ),
    Reason(
        "first-certificate",
        "The key of its certificate, {key}, is met for the first time and no authority is asked for it: the password "
        "of “{credential}” was not sent.",
        "Someone who keeps the credentials tries it there and accepts the key; or have the certificate checked by the "
        "company's authority, in the credential.",
    ),
    Reason(
        "out-of-reach",
        "“{credential}” may not be used at {host}: nothing was sent.",
        "Who keeps the credential says where it may be used; widening that asks for its secret.",
    ),
    Reason(
        "in-clear",
        "“{credential}” would go to {host} in clear text, and it is for more than single hosts: nothing was sent.",
        "Use TLS; or name the hosts that may get it in clear, one by one, where the credential may be used.",
    ),
    Reason(
        "guarded",
        "“{credential}” was not tried: it has been refused {times} times for the account {account}.",
        "Try it by hand at one address and mend it; Tarn stops here so that the account is not locked.",
    ),
    Reason(
        "untrusted",
        "{protocol} presents a certificate that is not accepted: {detail}.",
        "Install the company's authority, or accept any certificate in the credential.",
    ),
    Reason(
        "untrusted-source",
        "The certificate of {host} is not trusted here: {detail}. The key it presents is {pin}.",
        "Install the authority that signed it; or, if that is its key, give the key as the source's certificate.",
    ),
    Reason(
        "other-certificate",
        "{host} presents another key than the one given, {found} and not {pin}: nothing was sent.",
        "If it was set up anew give the new key; else look who answers there.",
    ),
    Reason(
        "refused",
        "{protocol} was refused: nothing listens on port {port}.",
        "Start the service on the device, or change the credential's port.",
    ),
    Reason(
        "timed-out",
        "{protocol} did not answer within {seconds} s while reading {section}.",
        "Read it again; raise the time-out if it is always slow.",
    ),
    Reason(
        "too-long",
        "The device was not read within {seconds} s in all; it stopped before {section}, what came before is kept.",
        "See which of its commands stall; it is read again by the next run.",
    ),
    Reason(
        "too-much",
        "While reading {section} the device printed more than {size} MB; the rest was left.",
        "See what it prints there; no inventory is that long.",
    ),
    Reason(
        "cut-off",
        "{protocol} closed the connection while reading {section}; what came before is kept.",
        "Read it again.",
    ),
    Reason(
        "no-greeting",
        "What answers on port {port} closed the connection without a greeting in {protocol}.",
        "Another service may use this port, or it takes no more sign-ins just now.",
    ),
    Reason("unreachable", "The network has no way to it: {detail}.", "Check routes and the outpost for this network."),
    Reason(
        "outpost-away",
        "Only an outpost reaches {network}, and none was heard from ({names}).",
        "Start the outpost there; what it finds then is still taken in.",
    ),
    Reason(
        "nonsense",
        "{protocol} answered something that is not {protocol}: {detail}.",
        "Another service may use this port.",
    ),
    Reason(
        "looping",
        "The SNMP agent answered in a circle at {detail}; reading stopped there.",
        "Update the device's firmware; the rest of what it told is kept.",
    ),
    Reason(
        "not-permitted",
        "The account may not read {section}: {detail}.",
        "Give the account the right to read it, or use another credential.",
    ),
    Reason(
        "privacy-refused",
        "SNMP v3 answers, but not to what is encrypted with the privacy secret of “{credential}”.",
        "Check the privacy protocol and its secret: the agent cannot read what is sent with them.",
    ),
    Reason("snmp-silent", "It did not answer SNMP with “{credential}”.", "Check the community, or that SNMP is on."),
    Reason("failed", "Reading stopped at {section}: {detail}.", "Read it again; if it stays so, report it."),
    Reason(
        "too-slow",
        "The source was not read within {minutes} minutes in all; what came is taken in.",
        "See why it is so slow, or ask for a smaller part.",
    ),
    Reason(
        "cut-short",
        "{protocol} gave only a part: {detail}. What came is taken in; what is missing is not held to be gone.",
        "Raise the other side's limit for this account, or ask for a smaller part.",
    ),
    Reason(
        "looping-pages",
        "{protocol} gave the same page again and again ({detail}); nothing of it was taken.",
        "The other side pages wrongly; ask its maker, or take a smaller part.",
    ),
    Reason(
        "elsewhere",
        "The source points to {target}, which is not its own address; it was not followed.",
        "If that is right, give that address as the source's own.",
    ),
    Reason("no-names", "The name service did not answer: {detail}.", "Check the name server Tarn asks."),
    Reason(
        "no-transfer",
        "The name server does not hand over the zone “{zone}”: {detail}.",
        "Have the name server allow transfers of the zone to Tarn's address.",
    ),
    Reason(
        "zone-too-large",
        "The zone “{zone}” has more than {most} sets of records; nothing of it was taken.",
        "Name the part of it that is the company's own.",
    ),
    Reason("read", "Everything asked for was read.", ""),
]

REASONS = {r.code: r for r in _ALL}


class _Blank(dict[str, str]):
    def __missing__(self, key: str) -> str:
        return f"its {key}"


def explain(code: str, **met: object) -> tuple[str, str]:
    """Return the reason and the remedy in words."""
    reason = REASONS[code]
    values = _Blank({k: str(v) for k, v in met.items()})
    return reason.says.format_map(values), reason.remedy.format_map(values)
