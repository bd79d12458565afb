"""Production. Refuses to start with a default secret, with debug on or without its hosts named."""

import ipaddress

from django.core.exceptions import ImproperlyConfigured

from workbench.settings.base import *  # noqa: F403
from workbench.settings.base import env

SECRET_KEY = env("METROLEX_SECRET_KEY", default="")
if len(SECRET_KEY) < 40 or SECRET_KEY.startswith("django-insecure"):
    raise ImproperlyConfigured("METROLEX_SECRET_KEY must be a secret of your own, 40 characters or more.")
_again = any(SECRET_KEY[n:] == SECRET_KEY[:-n] for n in range(1, len(SECRET_KEY) // 2 + 1))
if len(set(SECRET_KEY)) < 12 or _again:
    raise ImproperlyConfigured("METROLEX_SECRET_KEY repeats itself: draw it at random.")
if env.bool("METROLEX_DEBUG", default=False) or env.bool("DEBUG", default=False):
    raise ImproperlyConfigured("Production does not run with debug on.")
ALLOWED_HOSTS = env.list("METROLEX_ALLOWED_HOSTS", default=[])
if not ALLOWED_HOSTS or "*" in ALLOWED_HOSTS:
    raise ImproperlyConfigured("METROLEX_ALLOWED_HOSTS must name the hosts Metrolex answers to.")

SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
CSRF_TRUSTED_ORIGINS = [f"https://{host.lstrip('.')}" for host in ALLOWED_HOSTS]
SECURE_SSL_REDIRECT = True
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = env.bool("METROLEX_HSTS_SUBDOMAINS", default=True)
SECURE_HSTS_PRELOAD = env.bool("METROLEX_HSTS_PRELOAD", default=False)
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]  # both are for whoever owns the domain to say
#: Addresses or networks of the proxies whose X-Forwarded-For is believed.
TRUSTED_PROXIES = env.list("METROLEX_TRUSTED_PROXIES", default=[])
for _proxy in TRUSTED_PROXIES:
    try:
        ipaddress.ip_network(_proxy, strict=False)
    except ValueError as _fault:
        raise ImproperlyConfigured(f"METROLEX_TRUSTED_PROXIES: {_fault}.") from None
