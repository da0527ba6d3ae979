"""What every page's template may use."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest

from muster.records.bridge import shown_name

from .said import taken

THEMES = {"paper": "Paper", "sun": "Sun", "night": "Night"}
COOKIE = "muster_theme"


def everywhere(request: HttpRequest) -> dict[str, Any]:
    """The theme chosen (empty: by the machine's own preference) and who is writing."""
    theme = request.COOKIES.get(COOKIE, "")
    user = getattr(request, "user", None)
    return {
        "theme": theme if theme in THEMES else "",
        "themes": THEMES,
        "undoable": lambda: taken(request),
        "who": shown_name(user) if user is not None and user.is_authenticated else "",
    }
