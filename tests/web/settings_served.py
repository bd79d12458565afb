"""Test settings for a server of its own, with the pool of connections it has in earnest."""

from workbench.settings import base
from workbench.settings.test import *  # noqa: F403

DATABASES = {"default": base.DATABASES["default"] | {"OPTIONS": {"pool": {"min_size": 1, "max_size": 4}}}}
