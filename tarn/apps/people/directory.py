"""Signing in by the directory: it checks passwords of accounts that have none here (simple bind, RFC 4513, 5.1.3)."""

import logging
import re
import ssl
from typing import Any
from urllib.parse import urlsplit

import ldap3
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.backends import ModelBackend
from ldap3.core.exceptions import LDAPException
from ldap3.utils.dn import escape_rdn

log = logging.getLogger(__name__)
SECONDS = 8
_PLAIN = re.compile(r"^[^\x00-\x1f]{1,150}$")


class DirectoryBackend(ModelBackend):
    """Lets in an account without a password of its own whose name and password the directory takes."""

    def authenticate(self, request: Any, username: str | None = None, password: str | None = None, **rest: Any) -> Any:
        """Return the account, or None. An empty password is never sent: directories take it for no sign-in at all."""
        if not settings.TARN_DIRECTORY_URL or not username or not password or not _PLAIN.match(username):
            return None
        user = get_user_model().objects.filter(username=username, is_active=True).first()
        if user is None or user.has_usable_password():
            return None
        return user if takes(username, password) else None


def takes(name: str, password: str) -> bool:
    """Whether the directory takes a name and password; one that cannot be asked takes none, and the log says so."""
    at = urlsplit(settings.TARN_DIRECTORY_URL)
    try:
        tls = ldap3.Tls(validate=ssl.CERT_REQUIRED, ca_certs_file=settings.TARN_DIRECTORY_CA or None)
        whole = at.scheme == "ldaps"
        server = ldap3.Server(
            at.hostname, at.port or (636 if whole else 389), use_ssl=whole, tls=tls, connect_timeout=SECONDS
        )
        who = settings.TARN_DIRECTORY_NAME.replace("{name}", escape_rdn(name))
        connection = ldap3.Connection(server, who, password, receive_timeout=SECONDS, raise_exceptions=False)
        if not whole:
            connection.start_tls()  # a password never goes in clear text (RFC 4513, 3)
        return bool(connection.bind()) and connection.result["result"] == 0
    except LDAPException as error:
        log.warning("the directory %s could not be asked to sign %s in: %s", at.hostname, name, error)
        return False
