"""The WSGI application that gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

import engine.event_loop  # noqa: F401 - loads what is compiled before the first visitor waits for it

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ondata.settings")

application = get_wsgi_application()
