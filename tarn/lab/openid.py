"""The company's sign-in: an OpenID provider (OpenID Connect Core 1.0, code flow with PKCE, RFC 7636) on loopback.

Whoever asks to sign in is shown the people there are and picks one: a stand-in has no passwords to type.
"""

import base64
import hashlib
import html
import secrets
import time
from typing import Any
from urllib.parse import urlencode, urlsplit

import jwt
from aiohttp import web
from cryptography.hazmat.primitives.asymmetric import rsa
from jwt.algorithms import RSAAlgorithm

CLIENT, SECRET = "tarn", "harbour-sign-in-77c1"
ACCOUNTS = {"ines": "Ines Kallas", "piet": "Piet Harrowgate", "oona": "Oona Mereth", "jory": "Jory Thane"}
"""By the name they sign in by; the last has no account in Tarn."""
_PAGE = (
    "<!doctype html><title>Harbour sign-in</title><body style='font:16px sans-serif;margin:3rem'><h1>Harbour sign-in</h1>"
    "<p>Who are you?</p><form method=post>{buttons}</form>"
)


class Provider:
    """The provider: codes and tokens it has given out, and the key it signs with."""

    def __init__(self, issuer: str) -> None:
        self.issuer = issuer
        self._key = rsa.generate_private_key(65537, 2048)
        self._codes: dict[str, dict[str, Any]] = {}
        self._tokens: dict[str, str] = {}

    def application(self) -> web.Application:
        """Return it as an application."""
        app = web.Application()
        app.add_routes(
            [
                web.get("/.well-known/openid-configuration", self._described),
                web.get("/jwks", self._keys),
                web.get("/authorize", self._ask),
                web.post("/authorize", self._picked),
                web.post("/token", self._token),
                web.get("/userinfo", self._person),
            ]
        )
        return app

    async def _described(self, request: web.Request) -> web.Response:
        at = self.issuer
        return web.json_response(
            {
                "issuer": at,
                "authorization_endpoint": f"{at}/authorize",
                "token_endpoint": f"{at}/token",
                "userinfo_endpoint": f"{at}/userinfo",
                "jwks_uri": f"{at}/jwks",
                "response_types_supported": ["code"],
                "subject_types_supported": ["public"],
                "id_token_signing_alg_values_supported": ["RS256"],
                "code_challenge_methods_supported": ["S256"],
                "token_endpoint_auth_methods_supported": ["client_secret_basic", "client_secret_post"],
            }
        )

    async def _keys(self, request: web.Request) -> web.Response:
        key = RSAAlgorithm.to_jwk(self._key.public_key(), as_dict=True)
        return web.json_response({"keys": [{**key, "kid": "1", "use": "sig", "alg": "RS256"}]})

    async def _ask(self, request: web.Request) -> web.Response:
        if request.query.get("client_id") != CLIENT or request.query.get("response_type") != "code":
            return web.Response(status=400, text="invalid_request")
        buttons = "".join(
            f"<p><button name=person value={name}>{html.escape(full)}</button>" for name, full in ACCOUNTS.items()
        )
        return web.Response(text=_PAGE.format(buttons=buttons), content_type="text/html")

    async def _picked(self, request: web.Request) -> web.Response:
        name = str((await request.post()).get("person"))
        back = request.query.get("redirect_uri", "")
        if name not in ACCOUNTS or not urlsplit(back).path.endswith("/login/callback/"):
            return web.Response(status=400, text="invalid_request")
        code = secrets.token_urlsafe(24)
        self._codes[code] = {**request.query, "person": name, "until": time.time() + 60}
        said = urlencode({"code": code, "state": request.query.get("state", "")})
        raise web.HTTPFound(f"{back}?{said}")

    async def _token(self, request: web.Request) -> web.Response:
        sent = await request.post()
        given = (str(sent.get("client_id", "")), str(sent.get("client_secret", "")))
        if header := request.headers.get("Authorization", "").removeprefix("Basic "):
            user, _, password = base64.b64decode(header).decode().partition(":")
            given = (user, password)
        held = self._codes.pop(str(sent.get("code")), None)
        if given != (CLIENT, SECRET):
            return web.json_response({"error": "invalid_client"}, status=401)
        if held is None or held["until"] < time.time() or held.get("redirect_uri") != sent.get("redirect_uri"):
            return web.json_response({"error": "invalid_grant"}, status=400)
        challenge = base64.urlsafe_b64encode(hashlib.sha256(str(sent.get("code_verifier", "")).encode()).digest())
        if held.get("code_challenge") and held["code_challenge"] != challenge.rstrip(b"=").decode():
            return web.json_response({"error": "invalid_grant"}, status=400)
        token, now = secrets.token_urlsafe(24), int(time.time())
        self._tokens[token] = held["person"]
        claims = {"iss": self.issuer, "aud": CLIENT, "iat": now, "exp": now + 300, **_claims(held["person"])}
        if "nonce" in held:
            claims["nonce"] = held["nonce"]
        signed = jwt.encode(claims, self._key, algorithm="RS256", headers={"kid": "1"})
        return web.json_response(
            {"access_token": token, "token_type": "Bearer", "expires_in": 300, "id_token": signed, "scope": "openid"}
        )

    async def _person(self, request: web.Request) -> web.Response:
        person = self._tokens.get(request.headers.get("Authorization", "").removeprefix("Bearer "))
        if person is None:
            return web.json_response({"error": "invalid_token"}, status=401)
        return web.json_response(_claims(person))


def _claims(person: str) -> dict[str, str]:
    return {
        "sub": f"harbour-{person}",
        "preferred_username": person,
        "name": ACCOUNTS[person],
        "email": f"{person}@skerrivane.example",
    }


async def serve_openid(host: str, port: int) -> web.AppRunner:
    """Start the provider; returns its runner, to be cleaned up."""
    runner = web.AppRunner(Provider(f"http://{host}:{port}").application(), access_log=None)
    await runner.setup()
    await web.TCPSite(runner, host, port).start()
    return runner
