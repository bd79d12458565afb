"""Where a request comes from, through proxies we were told of."""

from __future__ import annotations

import ipaddress

from django.conf import settings
from django.http import HttpRequest

__all__ = ["address_of"]


def address_of(request: HttpRequest) -> str:
    """The address next to the last proxy that is trusted, by its address or its network (10.0.0.0/8); what anybody else says of where it comes from is not believed.

    '0.0.0.0' where there is none (a socket of the same machine).
    """
    found = _valid(request.META.get("REMOTE_ADDR", ""))
    told = [part.strip() for part in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")]
    trusted = [ipaddress.ip_network(proxy, strict=False) for proxy in settings.TRUSTED_PROXIES]
    while told and found and any(ipaddress.ip_address(found) in proxies for proxies in trusted):
        nearer = _valid(told.pop())
        if nearer is None:
            break
        found = nearer
    return found or "0.0.0.0"


def _valid(text: str) -> str | None:
    try:
        return str(ipaddress.ip_address(text))
    except ValueError:
        return None
