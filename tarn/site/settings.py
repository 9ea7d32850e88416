"""Settings. Every one works as it is; the environment may change those named TARN_*."""

import os
from pathlib import Path

from tarn.core.speech import LANGUAGES as SPOKEN
from tarn.site.home import home, secrets_keys, session_key

ROOT = Path(__file__).resolve().parents[2]
HOME = home()

TARN_STATES = str(HOME / "states")
"""Where states lie that processes share; empty: each process keeps its own."""

SECRET_KEY = session_key()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("TARN_HOSTS", "localhost,127.0.0.1,[::1],testserver").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("TARN_ORIGINS", "").split(",") if o]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "allauth.socialaccount",
    "allauth.socialaccount.providers.openid_connect",
    "allauth.usersessions",
    "allauth.headless",
    "huey.contrib.djhuey",
    "tarn.apps.people",
    "tarn.apps.estate",
    "tarn.apps.discovery",
    "tarn.apps.software",
    "tarn.apps.reports",
    "tarn.apps.tasks",
    "tarn.apps.filling",
    "tarn.apps.money",
    "tarn.apps.licences",
    "tarn.apps.valuation",
    "tarn.apps.lifecycle",
    "tarn.apps.exposure",
    "tarn.apps.services",
    "tarn.apps.today",
    "tarn.apps.labels",
    "tarn.apps.counts",
    "tarn.apps.handbooks",
    "tarn.apps.upkeep",
]

MIDDLEWARE = [
    "tarn.site.middleware.Headers",
    "tarn.site.watched.Watched",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "tarn.site.middleware.SessionLife",
    "tarn.site.middleware.Asking",
]

ROOT_URLCONF = "tarn.site.urls"
ASGI_APPLICATION = "tarn.site.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]
"""For letters about one's account alone; pages are the front end's."""

DATABASES = {
    "default": {
        "ENGINE": "tarn.site.sqlite",
        "NAME": HOME / "tarn.sqlite3",
        # A file for tests too: in memory all threads of a server under test would share one transaction.
        "TEST": {"NAME": str(HOME / "test.sqlite3")},
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA cache_size=-65536; "
                "PRAGMA temp_store=MEMORY; PRAGMA journal_size_limit=67108864;"
            ),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

HUEY = {
    "huey_class": "huey.RedisHuey" if os.environ.get("TARN_REDIS") else "huey.SqliteHuey",
    "name": "tarn",
    "immediate": False,
    "results": False,
    "connection": (
        {"url": os.environ["TARN_REDIS"]} if os.environ.get("TARN_REDIS") else {"filename": str(HOME / "jobs.sqlite3")}
    ),
}

TARN_TASKS_ALONE = int(os.environ.get("TARN_TASKS_ALONE", "10"))
"""A task for more devices than this waits until a second person approves it."""

AUTHENTICATION_BACKENDS = [
    "django.contrib.auth.backends.ModelBackend",
    "tarn.apps.people.directory.DirectoryBackend",
    "allauth.account.auth_backends.AuthenticationBackend",
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "tarn.apps.people.passwords.OurOwnWords"},
]
TARN_SECOND_FACTOR = os.environ.get("TARN_SECOND_FACTOR", "")
"""The role from which on people have to have a second factor, such as administrator; empty: none has to."""
TARN_PROXIES = [p for p in os.environ.get("TARN_PROXIES", "").split(",") if p]
"""Addresses of proxies before Tarn: what they say of whom they speak for is believed, and nobody else's word is."""

ACCOUNT_ADAPTER = "tarn.apps.people.signing_in.Accounts"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_EMAIL_NOTIFICATIONS = True
ACCOUNT_REAUTHENTICATION_TIMEOUT = 900
ACCOUNT_RATE_LIMITS = {"login": False, "login_failed": False}
"""Failed sign-ins are held back by a rule of our own (`people.throttle`), which knows of every process."""
MFA_ADAPTER = "tarn.apps.people.signing_in.Factors"
MFA_SUPPORTED_TYPES = ["totp", "webauthn", "recovery_codes"]
MFA_PASSKEY_LOGIN_ENABLED = True
MFA_ALLOW_UNVERIFIED_EMAIL = True
MFA_TOTP_ISSUER = "Tarn"
MFA_TOTP_TOLERANCE = 1
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = bool(os.environ.get("TARN_INSECURE_PASSKEYS"))
"""Passkeys need HTTPS; on a machine of one's own without it they can be tried all the same."""
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_SERVE_SPECIFICATION = False
SOCIALACCOUNT_ADAPTER = "tarn.apps.people.signing_in.Providers"
SOCIALACCOUNT_ONLY = False
SOCIALACCOUNT_EMAIL_AUTHENTICATION = False
SOCIALACCOUNT_REQUESTS_TIMEOUT = 10
TARN_OIDC_URL = os.environ.get("TARN_OIDC_URL", "").rstrip("/")
SOCIALACCOUNT_PROVIDERS = {
    "openid_connect": {
        "OAUTH_PKCE_ENABLED": True,
        "APPS": [
            {
                "provider_id": "company",
                "name": os.environ.get("TARN_OIDC_NAME", "the company's sign-in"),
                "client_id": os.environ.get("TARN_OIDC_CLIENT", "tarn"),
                "secret": os.environ.get("TARN_OIDC_SECRET", ""),
                "settings": {"server_url": TARN_OIDC_URL, "uid_field": "sub"},
            }
        ]
        if TARN_OIDC_URL
        else [],
    }
}
TARN_OIDC_ROLE = os.environ.get("TARN_OIDC_ROLE", "")
"""The role of whoever comes from there and has no account yet; empty: only those with an account are let in."""
TARN_DIRECTORY_URL = os.environ.get("TARN_DIRECTORY_URL", "")
"""The directory that checks passwords of accounts without one here, such as ldaps://dir.example; empty: none."""
TARN_DIRECTORY_NAME = os.environ.get("TARN_DIRECTORY_NAME", "")
"""Its name for a person, such as uid={name},ou=people,dc=example or {name}@example."""
TARN_DIRECTORY_CA = os.environ.get("TARN_DIRECTORY_CA", "")
"""A file with the authorities its certificate may be of; empty: those of this machine."""
TARN_SESSION_IDLE = int(os.environ.get("TARN_SESSION_IDLE", "120")) * 60
TARN_SESSION_LIFE = int(os.environ.get("TARN_SESSION_LIFE", "16")) * 3600
"""How long a session holds without being used (minutes), and in all (hours)."""
SESSION_COOKIE_AGE = TARN_SESSION_LIFE
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

DATA_UPLOAD_MAX_MEMORY_SIZE = None
"""Bodies are bounded by route before Django sees them (`site.bounds`)."""
DATA_UPLOAD_MAX_NUMBER_FIELDS = 200
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = bool(os.environ.get("TARN_HTTPS"))
if SESSION_COOKIE_SECURE:
    # Of this host alone, whoever else sets cookies for the domain (RFC 6265bis, 4.1.3.2).
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-session", "__Host-csrf"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
SECURE_CROSS_ORIGIN_OPENER_POLICY = "same-origin"
SECURE_HSTS_SECONDS = 31_536_000 if os.environ.get("TARN_HTTPS") else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if os.environ.get("TARN_HTTPS") else None
"""With TARN_HTTPS a proxy before Tarn ends TLS and says so; nothing else may reach its port."""

LANGUAGE_CODE = "en"
LANGUAGES = list(SPOKEN.items())
USE_TZ = True
TIME_ZONE = os.environ.get("TARN_ZONE", "Europe/London")
"""The company's zone: its days begin here. Instants are stored in UTC."""

EMAIL_BACKEND = "django.core.mail.backends.smtp.EmailBackend"
EMAIL_HOST, _, _port = os.environ.get("TARN_SMTP", "localhost:25").partition(":")
EMAIL_PORT = int(_port or 25)
EMAIL_HOST_USER = os.environ.get("TARN_SMTP_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("TARN_SMTP_PASSWORD", "")
EMAIL_USE_TLS = bool(os.environ.get("TARN_SMTP_TLS"))
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = os.environ.get("TARN_MAIL_FROM", "tarn@localhost")
TARN_URL = os.environ.get("TARN_URL", "http://127.0.0.1:8000").rstrip("/")
"""Where people reach Tarn, for links in mail."""
HEADLESS_FRONTEND_URLS = {
    "account_reset_password_from_key": f"{TARN_URL}/sign-in?reset={{key}}",
    "account_reset_password": f"{TARN_URL}/sign-in",
    "account_confirm_email": f"{TARN_URL}/sign-in",
    "account_signup": f"{TARN_URL}/sign-in",
    "socialaccount_login_error": f"{TARN_URL}/sign-in",
}
TARN_BACKUPS = os.environ.get("TARN_BACKUPS", "")
"""A folder that backups are written to by the clock; empty: none are."""
TARN_BACKUP_RULE = os.environ.get("TARN_BACKUP_RULE", "FREQ=DAILY;BYHOUR=3;BYMINUTE=10")
TARN_SLOW = float(os.environ.get("TARN_SLOW", "2"))
"""Seconds after which an answer is noted as slow."""

TARN_CALLS_ALLOWED = [h for h in os.environ.get("TARN_CALLS_ALLOWED", "").split(",") if h]
"""Hosts that watches may call in clear text, or on this machine; others by HTTPS and elsewhere only."""
TARN_MAILBOX = os.environ.get("TARN_MAILBOX", "")
"""A folder of delivered mail (.eml) to be read in the application; empty: none."""

STATIC_URL = "/static/"
WEB_DIST = ROOT / "web" / "dist"
STATIC_ROOT = WEB_DIST
WHITENOISE_MAX_AGE = 31536000
WHITENOISE_AUTOREFRESH = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "line": {"()": "tarn.site.logs.Line", "format": "%(asctime)s %(levelname)s %(name)s: %(message)s"},
        "json": {"()": "tarn.site.logs.Json"},
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": os.environ.get("TARN_LOG_FORMAT", "line")}},
    "root": {"handlers": ["console"], "level": os.environ.get("TARN_LOG", "INFO")},
    "loggers": {
        "asyncssh": {"level": "ERROR"},
        "huey": {"level": "WARNING"},
        "httpx": {"level": "WARNING"},
        "django.request": {"level": "ERROR"},
    },
}

TARN_SECRETS_KEYS = secrets_keys()
TARN_SECRETS_KEY = TARN_SECRETS_KEYS[0]
"""Encrypts credentials; kept in a file of its own, outside the database."""
