"""When the database is locked or the disk is full, say so with 503: nothing was done, and it may be tried again."""

from collections.abc import Callable

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

TROUBLE = "Nothing was done: the database cannot take it just now (locked, or the disk is full). Try again in a moment."


class DatabaseTrouble:
    """Turns a database that refuses into an honest answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        return unavailable(request) if isinstance(error, OperationalError) else None


def unavailable(request: HttpRequest) -> HttpResponse:
    """503 in the form that was asked for."""
    if "application/json" in request.headers.get("accept", "") or request.path.startswith("/api/"):
        response: HttpResponse = JsonResponse({"error": TROUBLE}, status=503)
    else:
        response = render(request, "503.html", {"trouble": TROUBLE}, status=503)
    response["Retry-After"] = "2"
    return response
