"""A rehearsal told line by line while it goes on (application/x-ndjson), that ends when nobody listens any more.

Lines are ``{"progress": 0.4}``, and at last ``{"report": …}`` or ``{"problems": […]}``.
"""

import asyncio
import json
import threading
from collections.abc import AsyncIterator
from typing import Any

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse

from dromikon.people.access import Access, access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.rulebook.rehearsal import rehearse_draft, report_json
from dromikon.web.views import body_of


class Left(Exception):
    """Nobody waits for it any more."""


async def rehearse_rule(request: HttpRequest, site_id: str) -> HttpResponse:
    """POST {document, rule, sweep}: what the draft would have done in the past week."""
    person = await request.auser()
    if not person.is_authenticated:
        return HttpResponse("log in first", status=401)
    found = await sync_to_async(access)(person, site_id, May.EDIT_RULES)
    content = body_of(request)
    if request.method != "POST" or not isinstance(content, dict):
        return JsonResponse({"error": "POST {document, rule, sweep}."}, status=400)
    answer = StreamingHttpResponse(lines(found, content), content_type="application/x-ndjson")
    answer["Cache-Control"] = "no-store"
    return answer


async def lines(found: Access, content: dict[str, Any]) -> AsyncIterator[str]:
    """The lines, as they come. Closing the iterator ends the rehearsal."""
    loop = asyncio.get_running_loop()
    told: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
    left = threading.Event()

    def tell(line: dict[str, Any]) -> None:
        if left.is_set():
            raise Left
        loop.call_soon_threadsafe(told.put_nowait, line)

    work = asyncio.create_task(sync_to_async(_work, thread_sensitive=False)(found, content, tell))
    try:
        while True:
            line = await told.get()
            yield json.dumps(line) + "\n"
            if "progress" not in line:
                break
    finally:
        left.set()
        await asyncio.gather(work, return_exceptions=True)


def _work(found: Access, content: dict[str, Any], tell: Any) -> None:
    try:
        live = Rule.objects.filter(pk=str(content.get("rule") or ""), site=found.site).first()
        report = rehearse_draft(
            found,
            content.get("document"),
            live,
            sweep=content.get("sweep"),
            progress=lambda share: tell({"progress": share}),
        )
        tell({"report": report_json(report)})
    except Refused as refused:
        tell({"problems": [p.model_dump() for p in refused.problems]})
    except Left:
        return
    except Exception:
        tell({"problems": [{"path": "", "message": "The rehearsal failed; the log says why."}]})
        raise
    finally:
        connection.close()
