"""The WSGI application."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "underhood_server.config.settings")
_application = get_wsgi_application()

from django.conf import settings  # noqa: E402 - Django must be set up first

from underhood_server.config.proxy import behind  # noqa: E402

application = behind(_application, settings.PROXIES, settings.HTTPS)
