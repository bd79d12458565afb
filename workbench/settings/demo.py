"""The demo on one's own machine: loopback only, its log-in printed on the log-in page."""

from workbench.settings.base import *  # noqa: F403
from workbench.settings.base import ROOT, env


def _own_secret() -> str:
    """A secret of this checkout, made once."""
    from django.core.management.utils import get_random_secret_key

    place = ROOT / ".data" / "demo.secret"
    if not place.exists():
        place.parent.mkdir(exist_ok=True)
        place.touch(mode=0o600)
        place.write_text(get_random_secret_key())
    return place.read_text()


SECRET_KEY = env("METROLEX_SECRET_KEY", default="") or _own_secret()
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
DEMO_LOGIN = ("fitter", "bench-book-52")

#: What the demo prints is made up, and it starts in a container that allows no sandbox.
PRINTING_SANDBOX = env.bool("METROLEX_PRINTING_SANDBOX", default=False)
