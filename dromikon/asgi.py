"""The web process as an ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
# Static files are small and sent whole; that they come from a synchronous iterator costs nothing.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
application = get_asgi_application()
