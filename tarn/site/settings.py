"""Settings. Every one works as it is; the environment may change those named TARN_*."""

import os
from pathlib import Path

from tarn.site.home import home, secrets_key, session_key

ROOT = Path(__file__).resolve().parents[2]
HOME = home()

SECRET_KEY = session_key()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("TARN_HOSTS", "localhost,127.0.0.1,[::1],testserver").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("TARN_ORIGINS", "").split(",") if o]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
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
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "tarn.site.middleware.ContentPolicy",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "tarn.site.middleware.Asking",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "tarn.site.urls"
ASGI_APPLICATION = "tarn.site.asgi.application"
TEMPLATES = []

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
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

AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
SILENCED_SYSTEM_CHECKS = ["axes.W001"]

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = bool(os.environ.get("TARN_HTTPS"))
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

LANGUAGE_CODE = "en-gb"
USE_I18N = False
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
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": os.environ.get("TARN_LOG", "INFO")},
    "loggers": {
        "asyncssh": {"level": "ERROR"},
        "huey": {"level": "WARNING"},
        "axes": {"level": "WARNING"},
        "httpx": {"level": "WARNING"},
        "django.request": {"level": "ERROR"},
    },
}

TARN_SECRETS_KEY = secrets_key()
"""Encrypts credentials; kept in a file of its own, outside the database."""
