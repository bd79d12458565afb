"""A password typed at the terminal, twice and held against the rules; or one made up."""

from __future__ import annotations

import getpass
import secrets
import sys

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management import CommandError

from workbench.accounts.models import User

__all__ = ["password_for"]


def password_for(person: User, *, made_up: bool) -> str:
    """Raises CommandError for one that is too weak, or typed in two ways. From a pipe one line is read."""
    if made_up:
        return secrets.token_urlsafe(15)
    if sys.stdin.isatty():
        typed = getpass.getpass("Password: ")
        if getpass.getpass("Again: ") != typed:
            raise CommandError("The two are not the same: nothing was changed.")
    else:
        typed = sys.stdin.readline().rstrip("\n")
    try:
        validate_password(typed, person)
    except ValidationError as fault:
        raise CommandError(" ".join(fault.messages)) from None
    return typed
