"""The WSGI application that gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

from engine.selection.steps import load

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ondata.settings")

application = get_wsgi_application()
load()  # before the first visitor waits for it
