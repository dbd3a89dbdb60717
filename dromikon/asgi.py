"""The web process as an ASGI application."""

import os
import warnings
from typing import Any

from django.core.asgi import get_asgi_application

from dromikon.serving import BodyLimits

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
# Static files are small and sent whole; that they come from a synchronous iterator costs nothing.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
#: The largest bodies by the beginning of the path. Tables of lists and rulebook files are the large ones; what anybody
#: may send who is not logged in is small.
LIMITS = (("/login", 10_000), ("/api/v1/", 5_500_000), ("/s/", 5_500_000), ("/", 100_000))
# Django types its own scopes and messages more narrowly than servers do.
django_application: Any = get_asgi_application()
application = BodyLimits(django_application, LIMITS)
