"""The two servers of the product itself: web and intake."""

import uvicorn

from dromikon import config


def web() -> None:
    """The pages and the API."""
    uvicorn.run(
        "dromikon.asgi:application",
        host=config.host(),
        port=config.port(),
        log_level="warning",
        access_log=False,
        timeout_graceful_shutdown=2,
    )


def intake() -> None:
    """Listener and device sessions."""
    from dromikon.intake.app import build
    from dromikon.intake.inbox import InboxWriter

    inbox = InboxWriter(config.inbox_path())
    try:
        uvicorn.run(
            build(inbox),
            host=config.host(),
            port=config.intake_port(),
            log_level="warning",
            access_log=False,
            timeout_graceful_shutdown=2,
        )
    finally:
        inbox.close()
