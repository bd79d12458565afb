"""Settings of the test suite."""

from workbench.settings.base import *  # noqa: F403

SECRET_KEY = "only-for-tests"
ALLOWED_HOSTS = ["*"]
DEMO_LOGIN = ("fitter", "bench-book-52")
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
STATIC_ROOT = ROOT / ".data" / "static-of-tests"  # noqa: F405  the demo's are not touched
WHITENOISE_AUTOREFRESH = True
DATABASES["default"]["CONN_MAX_AGE"] = 0  # noqa: F405  a thread of a test that has ended holds no database

PRINTING_SANDBOX = False  # a test may run in a container that allows none
