"""Log-ins that still count: noted when somebody logs in, forgotten when they log out."""

from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from dromikon.clock import now_ms
from dromikon.people.models import Person, Visit


@receiver(user_logged_in)
def note(sender: Any, request: HttpRequest | None, user: Person, **_: Any) -> None:
    """Somebody has logged in."""
    if request is None or not hasattr(request, "session"):
        return
    if request.session.session_key is None:
        request.session.save()
    agent = request.headers.get("user-agent", "")[:200]
    address = request.META.get("REMOTE_ADDR") or None
    defaults = {"person": user, "address": address, "agent": agent, "since": now_ms()}
    Visit.objects.update_or_create(session=request.session.session_key, defaults=defaults)
    forget_ended()


@receiver(user_logged_out)
def forget(sender: Any, request: HttpRequest | None, user: Person | None, **_: Any) -> None:
    """Somebody has logged out."""
    if request is not None and hasattr(request, "session") and request.session.session_key:
        Visit.objects.filter(session=request.session.session_key).delete()


def forget_ended() -> None:
    """Log-ins whose session has ended count no more."""
    Session.objects.filter(expire_date__lt=timezone.now()).delete()
    Visit.objects.exclude(session__in=Session.objects.values("session_key")).delete()
