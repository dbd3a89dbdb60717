"""Who may try to log in: not the same name too often from one address, nor many names from one address."""

from typing import Any

from axes.handlers.database import AxesDatabaseHandler
from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone

#: So many failures from one address, over all names, within the time that a name is locked.
FROM_ONE_ADDRESS = 20


class Handler(AxesDatabaseHandler):  # type: ignore[misc]
    """Counts failures by name and address as usual, and by address alone besides: one password tried on many names."""

    def is_locked(self, request: HttpRequest, credentials: dict[str, Any] | None = None) -> bool:
        return bool(super().is_locked(request, credentials)) or self._sprays(request)

    def _sprays(self, request: HttpRequest) -> bool:
        since = timezone.now() - settings.AXES_COOLOFF_TIME
        tried = AccessAttempt.objects.filter(
            ip_address=getattr(request, "axes_ip_address", None), attempt_time__gte=since
        )
        sprays = (tried.aggregate(n=Sum("failures_since_start"))["n"] or 0) >= FROM_ONE_ADDRESS
        if sprays:
            # The page says so, instead of speaking of a wrong password.
            request.axes_locked_out = True  # type: ignore[attr-defined]
        return sprays
