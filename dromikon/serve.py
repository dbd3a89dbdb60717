"""The two servers of the product itself: web and intake."""

import os

from dromikon import config
from dromikon.serving import serve


def web() -> None:
    """The pages and the API."""
    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
    django.setup()
    from dromikon.web.statics import gather

    gather()
    # It looks for the static files as soon as it is made.
    from dromikon.asgi import application

    serve(application, config.host(), config.port())


def intake() -> None:
    """Listener and device sessions."""
    from dromikon.intake.app import build
    from dromikon.intake.inbox import InboxWriter

    inbox = InboxWriter(config.inbox_path())
    try:
        serve(build(inbox), config.host(), config.intake_port())
    finally:
        inbox.close()
