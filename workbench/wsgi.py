"""WSGI entry point."""

import gc
import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workbench.settings.production")
application = get_wsgi_application()

# All that is loaded by now stays as long as the worker does. Looking through it again in every full collection would hold
# up one page in some fifty for a sixth of a second. Addresses are resolved first, because the views come with them.
_ = get_resolver().url_patterns
gc.collect()
gc.freeze()
