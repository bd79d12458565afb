"""Settings common to demo, test and production."""

import datetime
from pathlib import Path

import environ

ROOT = Path(__file__).resolve().parents[2]
env = environ.Env()

DEBUG = False
ALLOWED_HOSTS: list[str] = []

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.forms",
    "django_htmx",
    "axes",
    "procrastinate.contrib.django",
    "workbench.accounts",
    "workbench.shelf",
    "workbench.jobs",
    "workbench.printing",
    "workbench.brief",
    "workbench.library",
    "workbench.mount",
    "workbench.dash",
    "workbench.ports",
    "workbench.feeds",
    "workbench.displays",
    "workbench.switches",
    "workbench.harness",
    "workbench.scaling",
    "workbench.work",
    "workbench.proving",
    "workbench.faults",
    "workbench.handover",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "workbench.log.RequestLog",
    "workbench.security.SafeHeaders",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "workbench.gate.Gate",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "workbench.accounts.middleware.WorkshopMiddleware",
    "workbench.accounts.zones.ZoneMiddleware",
    "workbench.jobs.middleware.VersionMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "workbench.urls"
WSGI_APPLICATION = "workbench.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "workbench" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "workbench.accounts.context.demo_login",
            ],
            "builtins": ["workbench.jobs.templatetags.metrolex"],
        },
    }
]
FORM_RENDERER = "workbench.form_renderer.Renderer"

DATABASES = {"default": {**env.db("DATABASE_URL", default="postgres://metrolex@127.0.0.1:5432/metrolex")}}
# Each thread keeps a connection of its own, looked at before it is used, so that the first request after an outage of the database works; nobody
# waits longer than this for one. (A pool would wait longer and longer between two tries: docs/decisions/073.)
DATABASES["default"]["CONN_MAX_AGE"] = None
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
DATABASES["default"]["OPTIONS"] = {"connect_timeout": 5}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "workbench.accounts.backend.WorkshopBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "accounts:login"
LOGIN_REDIRECT_URL = "shelf:show"
LOGOUT_REDIRECT_URL = "accounts:login"
# Eight wrong passwords for one name from one address: that name waits there for some minutes. No name is closed elsewhere.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = datetime.timedelta(minutes=5)
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "workbench.accounts.address.address_of"
# An address that tried as many names is let in slowly, whatever the name.
LOGIN_NAMES_MOST, LOGIN_PAUSE_S = 10, 20
TRUSTED_PROXIES: list[str] = []

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "workbench.views.csrf_failure"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_I18N = False
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = ROOT / ".data" / "static"
STATICFILES_DIRS = [ROOT / "workbench" / "static"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

DATA_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
STRANGERS_MAX_BYTES = 64 * 1024  # what somebody may send who is not logged in: a name and a password
JOB_CACHE_BYTES = 160 * 1024 * 1024  # in each worker
PAGE_CACHE_BYTES = 64 * 1024 * 1024  # in each worker
# One paper at a time in each worker of the queue; what became of it stands with the paper, so nothing is left in the queue.
PROCRASTINATE_WORKER_DEFAULTS = {
    "concurrency": 1,
    "delete_jobs": "always",
    "shutdown_graceful_timeout": 20,
}
JOB_FILE_MAX_BYTES = 2 * 1024 * 1024
DEMO_LOGIN: tuple[str, str] | None = None

#: The program that prints, and whether it keeps its pages in its own sandbox; a container may not let it.
PRINTING_BROWSER = env("METROLEX_PRINTING_BROWSER", default="chromium-headless-shell")
PRINTING_SANDBOX = env.bool("METROLEX_PRINTING_SANDBOX", default=True)

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"request": {"()": "workbench.log.WithRequest"}},
    "formatters": {
        "line": {
            "format": "%(asctime)s %(levelname)s %(request_id)s workshop=%(workshop)s %(name)s: %(message)s"
        }
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["request"], "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "axes": {"level": "WARNING"},
        "procrastinate": {"level": "ERROR"},
    },
}
