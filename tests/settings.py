"""The application's settings, with a quick password hash: tests make many people."""

from tarn.site.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
TARN_STATES = ""
"""Each test rolls back what it did: nothing of it may lie where the next would find it."""
