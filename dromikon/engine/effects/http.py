"""Effect: one HTTP request to another system."""

from typing import cast
from urllib.parse import urlsplit

from dromikon.core.rules.actions.http import MEDIA, HttpOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import Sent
from dromikon.engine.effects.destination import GONE, Known, known
from dromikon.engine.effects.host import Good, HostEffect
from dromikon.secrets import SealBroken
from dromikon.wire.calls import LogIn


class HttpEffect(HostEffect):
    async def deliver(self, step: Step) -> Sent:
        payload = cast(HttpOrder, step.payload)
        login: LogIn | None = None
        if target := payload.get("login"):
            try:
                found = await known(step.site, target, "login")
            except SealBroken as error:
                return Sent("retry", f"{error} The log-in is needed.", ours=True)
            if found is None:
                return Sent("failed", GONE)
            if not covers(found.settings["url"], payload["url"]):
                return Sent(
                    "failed", f"The log-in of {found.name} is for {found.settings['url']}, not for this address."
                )
            login = login_of(found)
        return await self.call(
            payload["method"],
            payload["url"],
            payload["body"],
            _headers(payload),
            again_when_busy=step.delivery == "repeatable",
            good=Good(tuple(payload.get("expected", ())), payload.get("contains", "")),
            patience=payload.get("patience"),
            login=login,
        )


def _headers(payload: HttpOrder) -> dict[str, str]:
    """Those of the step; one that was planned by an earlier release has none, and its body says what it is."""
    if "headers" in payload:
        return dict(payload["headers"])
    looks = "json" if payload["body"].lstrip().startswith(("{", "[")) else "text"
    return {"content-type": MEDIA[looks]} if payload["body"] else {}


def covers(prefix: str, url: str) -> bool:
    """Whether an address lies below another: same scheme, host and port, and a path that begins with its parts."""
    ours, theirs = urlsplit(prefix), urlsplit(url)
    if (ours.scheme, ours.hostname, ours.port) != (theirs.scheme, theirs.hostname, theirs.port):
        return False
    path = ours.path.rstrip("/")
    return ".." not in theirs.path.split("/") and (theirs.path == path or theirs.path.startswith(f"{path}/"))


def login_of(found: Known) -> LogIn:
    """A destination's log-in."""
    settings = found.settings
    return LogIn(
        settings.get("scheme", "basic"),
        settings.get("user", ""),
        found.secrets.get("password", ""),
        settings.get("header", ""),
    )
