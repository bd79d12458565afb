"""People and workshops."""

from __future__ import annotations

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "workbench.accounts"

    def ready(self) -> None:
        from workbench.accounts import checks  # noqa: F401  they register themselves
