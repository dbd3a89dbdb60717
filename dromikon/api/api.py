"""The API under /api/v1: bearer token or the pages' own session, JSON, OpenAPI document at /api/v1/openapi.json.

Ids are text. Field names are stable. Lists take `limit` and, where they can be long, `cursor`. The pages of Dromikon send
and fetch through it, so it can do what they can.
"""

from ninja import NinjaAPI, Router

from dromikon.api import (
    alarms,
    archive,
    cases,
    counts,
    deliveries,
    desk,
    detectors,
    devices,
    entries,
    events,
    faces,
    hours,
    intakes,
    lists,
    me,
    operating,
    plan,
    receivers,
    records,
    rehearsals,
    rulebook,
    rules,
    scene,
    setup,
    siting,
    situation,
    testing,
    tokens,
    who,
)
from dromikon.api.base import Bearer, SafeJson, Session
from dromikon.api.trouble import tell_trouble

#: Each part and the path it lies under; parts of several paths name them whole.
PARTS: tuple[tuple[str, Router], ...] = (
    ("", me.router),
    ("", events.router),
    ("", rehearsals.router),
    ("", testing.router),
    ("", rulebook.devices),
    ("", rules.router),
    ("", alarms.router),
    ("", desk.router),
    ("", operating.router),
    ("", archive.router),
    ("", records.router),
    ("", cases.router),
    ("", devices.router),
    ("", intakes.router),
    ("", detectors.router),
    ("", scene.router),
    ("", siting.router),
    ("", counts.router),
    ("", who.router),
    ("", faces.router),
    ("", plan.router),
    ("/hours", hours.router),
    ("/lists", lists.router),
    ("/lists", entries.router),
    ("/rulebook", rulebook.router),
    ("/situation", situation.router),
    ("/me/tokens", tokens.router),
    ("/receivers", receivers.router),
    ("/deliveries", deliveries.router),
    ("/setup", setup.router),
)

api = NinjaAPI(
    title="Dromikon", version="1", urls_namespace="api", auth=[Bearer(), Session()], docs_url=None, parser=SafeJson()
)
tell_trouble(api)
for path, router in PARTS:
    api.add_router(path, router)
