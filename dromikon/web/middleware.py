"""What the database refuses, in honest answers: 503 when it is locked or the disk is full and it may be tried again, 400
when a number or text cannot be kept at all. Nothing was done either way."""

from collections.abc import Callable

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render

TROUBLE = "Nothing was done: the database cannot take it just now (locked, or the disk is full). Try again in a moment."


#: Numbers beyond 64 bits, and text with half characters, which no database keeps.
UNKEEPABLE = (OverflowError, UnicodeEncodeError)
CANNOT_BE_KEPT = "Nothing was done: a number in the request is too large, or its text holds half characters."


class DatabaseTrouble:
    """Turns a database that refuses into an honest answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, OperationalError):
            return unavailable(request)
        return unkeepable(request) if isinstance(error, UNKEEPABLE) else None


def unkeepable(request: HttpRequest) -> HttpResponse:
    """400 in JSON: such requests are not made by people."""
    return JsonResponse({"error": CANNOT_BE_KEPT}, status=400)


def unavailable(request: HttpRequest) -> HttpResponse:
    """503 in the form that was asked for."""
    if "application/json" in request.headers.get("accept", "") or request.path.startswith("/api/"):
        response: HttpResponse = JsonResponse({"error": TROUBLE}, status=503)
    else:
        response = render(request, "503.html", {"trouble": TROUBLE}, status=503)
    response["Retry-After"] = "2"
    return response


class PasswordFirst:
    """Whoever has a password that somebody else made chooses their own before anything else."""

    OPEN = ("/password", "/logout", "/login", "/static/", "/words.js", "/healthz")

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.path.startswith(self.OPEN) or not getattr(request.user, "must_change", False):
            return self.get_response(request)
        if request.path.startswith("/api/"):
            return JsonResponse({"error": "Choose your own password first.", "problems": []}, status=403)
        return redirect("password")
