"""Picture sources of recorders, one client each for as long as its event loop lives."""

import asyncio
from weakref import WeakKeyDictionary

from dromikon.sources.models import Recorder
from dromikon.wire.pictures import HttpRecorder, PictureSource

_clients: "WeakKeyDictionary[asyncio.AbstractEventLoop, dict[tuple[str, str, str], HttpRecorder]]" = WeakKeyDictionary()


def source_of(recorder: Recorder) -> PictureSource:
    """The source of a recorder's pictures. A changed address or token makes a new client."""
    clients = _clients.setdefault(asyncio.get_running_loop(), {})
    key = recorder.id, recorder.address, recorder.token_sealed
    if key not in clients:
        clients[key] = HttpRecorder(recorder.address, recorder.token)
    return clients[key]
