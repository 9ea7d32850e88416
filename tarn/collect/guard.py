"""The guard against locking accounts: an account of a directory that is refused too often is not tried again."""

import threading

from tarn.collect.credentials import Credential, account
from tarn.collect.problems import Problem

MOST_REFUSALS = 3
"""Refusals of one directory account after which it is left alone. Directories commonly lock at five to ten."""


class Guard:
    """Counts refusals by directory account, over all computers of a run and the refusals held from before.

    An account that has been let in once in this run is sound: a refusal after that is the computer's own.
    """

    def __init__(self, refused: dict[str, int] | None = None, most: int = MOST_REFUSALS) -> None:
        self._refused, self._most = dict(refused or {}), most
        self._sound: set[str] = set()
        self._lock = threading.Lock()

    def stops(self, credential: Credential) -> Problem | None:
        """Return why a credential is not to be tried, or None where it may."""
        who = account(credential)
        with self._lock:
            times = self._refused.get(who, 0)
            if not who or who in self._sound or times < self._most:
                return None
        return Problem("guarded", credential=credential.name, times=times, account=getattr(credential, "user", ""))

    def refused(self, credential: Credential) -> None:
        """Note a refusal."""
        if who := account(credential):
            with self._lock:
                self._refused[who] = self._refused.get(who, 0) + 1

    def accepted(self, credential: Credential) -> None:
        """Note that the account was let in: it is counted from nought."""
        if who := account(credential):
            with self._lock:
                self._sound.add(who)
                self._refused[who] = 0

    def counts(self) -> dict[str, int]:
        """Return refusals by account, to be held until the next run; nought for those that were let in."""
        with self._lock:
            return dict(self._refused)
