"""Test settings for a server of its own, whose threads keep their connections as in earnest."""

from workbench.settings import base
from workbench.settings.test import *  # noqa: F403

DATABASES = {"default": base.DATABASES["default"] | {"CONN_MAX_AGE": None}}
