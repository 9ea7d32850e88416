"""The application's settings, with a quick password hash: tests make many people."""

from tarn.site.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
