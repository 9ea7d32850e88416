"""How people sign in: what the library is told of our accounts, and what is noted of each sign-in."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.core.exceptions import ImmediateHttpResponse
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.models import Authenticator
from allauth.socialaccount.adapter import DefaultSocialAccountAdapter
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.core.exceptions import ValidationError
from django.http import HttpResponseRedirect

from tarn.apps.people.actions.audit import record
from tarn.apps.people.sealing import reseal, seal, unseal
from tarn.apps.people.throttle import address_of, failed, let_in, must_wait


class Accounts(DefaultAccountAdapter):
    """Accounts are made by administrators; whoever fails to sign in waits longer each time."""

    error_messages = DefaultAccountAdapter.error_messages | {
        "username_password_mismatch": "The name or the password is not right.",
        "incorrect_code": "That code is not right.",
        "incorrect_password": "That is not your password.",
        "enter_current_password": "Type the password you have now.",
        "account_inactive": "This account is switched off.",
    }

    def is_open_for_signup(self, request: Any) -> bool:
        """Nobody makes an account for themselves."""
        return False

    def get_client_ip(self, request: Any) -> str:
        """The address a request comes from."""
        return address_of(request)

    def pre_authenticate(self, request: Any, **credentials: Any) -> None:
        """Hold back who has failed too often."""
        wait = must_wait(str(credentials.get("username") or ""), address_of(request))
        if wait > 0:
            raise ValidationError(f"Too many failed sign-ins. Wait {_span(wait)}, then try again.", code="wait")

    def authentication_failed(self, request: Any, **credentials: Any) -> None:
        """Note a name and password that do not fit."""
        note_failure(request, str(credentials.get("username") or ""))

    def post_login(self, request: Any, user: Any, **rest: Any) -> Any:
        """Note a sign-in that has come through, second factor and all."""
        let_in(user.get_username())
        record(user, "signed in", user.get_username(), detail={"address": address_of(request)})
        return super().post_login(request, user, **rest)


class Factors(DefaultMFAAdapter):
    """Second factors: their secrets are sealed like all others."""

    error_messages = DefaultMFAAdapter.error_messages | {"incorrect_code": "That code is not right."}

    def encrypt(self, text: str) -> str:
        """Seal a secret of a factor."""
        return seal({"secret": text}).decode()

    def decrypt(self, encrypted_text: str) -> str:
        """Open a secret of a factor. Raises SealBroken."""
        return unseal(encrypted_text.encode(), "a second factor")["secret"]

    @staticmethod
    def reseal_all() -> int:
        """Seal the secrets of all factors anew, inside the caller's transaction; return how many. Raises SealBroken."""
        done = 0
        for held in Authenticator.objects.filter(type__in=("totp", "recovery_codes")):
            for name in ("secret", "seed"):
                if name in held.data:
                    held.data[name] = reseal(held.data[name].encode(), "a second factor").decode()
            held.save(update_fields=["data"])
            done += 1
        return done


class Providers(DefaultSocialAccountAdapter):
    """Who comes from the company's OpenID provider: the account of the same name, or a new one if that is allowed."""

    def pre_social_login(self, request: Any, sociallogin: Any) -> None:
        """Join a sign-in to its account; who has none is sent back with a word, unless a role is set for them."""
        if sociallogin.is_existing:
            return
        claims = sociallogin.account.extra_data
        claims = claims.get("userinfo") or claims.get("id_token") or claims
        name = str(claims.get("preferred_username") or "").strip()
        people = get_user_model()
        user = people.objects.filter(username__iexact=name).first() if name else None
        if user is None and name and settings.TARN_OIDC_ROLE:
            told = str(claims.get("name") or "")
            first, _, last = told.partition(" ")
            email = str(claims.get("email") or "")
            user = people.objects.create_user(name, email=email, first_name=first, last_name=last)
            user.groups.set([Group.objects.get_or_create(name=settings.TARN_OIDC_ROLE)[0]])
            record(None, "made an account", name, detail={"role": settings.TARN_OIDC_ROLE, "by": "OpenID Connect"})
        if user is None:
            note_failure(request, name)
            raise ImmediateHttpResponse(HttpResponseRedirect(f"{settings.TARN_URL}/sign-in?error=no_account"))
        sociallogin.connect(request, user)

    def is_open_for_signup(self, request: Any, sociallogin: Any) -> bool:
        """Accounts are made above or not at all."""
        return False


def note_failure(request: Any, name: str) -> None:
    """Note a failed sign-in with its name and address, in the record that holds back and in the audit trail."""
    failed(name, address_of(request))
    record(None, "failed to sign in", name or "no name", detail={"address": address_of(request)})


def _span(seconds: int) -> str:
    if seconds < 60:
        return f"{seconds} second{'s' * (seconds != 1)}"
    minutes = -(-seconds // 60)
    return f"{minutes} minute{'s' * (minutes != 1)}"
