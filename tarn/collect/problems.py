"""What goes wrong while reading a device, told apart by kind."""

from tarn.core.outcomes import explain

REFUSALS = frozenset(
    {"sign-in-refused", "password-expired", "account-locked", "account-expired", "turned-away", "no-shell"}
)
"""Ways a sign-in is refused: another credential may be let in."""


class Problem(Exception):
    """A reading that failed or stopped; `code` is one of tarn.core.outcomes, `met` what was met."""

    def __init__(self, code: str, **met: object) -> None:
        self.code, self.met = code, {k: str(v) for k, v in met.items()}
        self.says, self.remedy = explain(code, **met)
        super().__init__(self.says)
