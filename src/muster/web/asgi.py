"""The ASGI application: static files by a route of their own, everything else by Django."""

from __future__ import annotations

import os

import django
from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "muster.web.settings")
django.setup()

from .static_route import StaticRoute  # noqa: E402

application = StaticRoute(get_asgi_application())
