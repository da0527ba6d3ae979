"""Settings: one user, one machine, one file. ``MUSTER_DATA`` names the folder of the database."""

from __future__ import annotations

import os
from pathlib import Path

from django.core.management.utils import get_random_secret_key

from muster.core.errors import MusterError

HERE = Path(__file__).parent
FORMER_UMASK = os.umask(0o077)
"""What is written is for this account alone; what was usual before, for files that a person asks for."""
DATA = Path(os.environ.get("MUSTER_DATA", Path.home() / ".local/share/muster"))
DATABASE = os.environ.get("MUSTER_DATABASE", "muster.sqlite3")


def _secret(folder: Path) -> str:
    """A key of this machine's own, made once; its folder is nobody else's."""
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        folder.chmod(0o700)
        path = folder / "secret.txt"
        if not path.exists():
            path.touch(mode=0o600)
            path.write_text(get_random_secret_key())
        key = path.read_text().strip()
    except (OSError, UnicodeDecodeError) as error:
        why = str(getattr(error, "strerror", None) or "not text").lower()
        where = str(getattr(error, "filename", None) or folder)
        raise MusterError(why, where=where, want="a folder that this account may write, with --data") from None
    if not key:
        raise MusterError(
            "is empty", where=str(path), want="take it away: a new one is made, and browsers sign in again"
        )
    return key


SECRET_KEY = _secret(DATA)
DEBUG = False
OPEN_TO_MACHINE = os.environ.get("MUSTER_OPEN") == "1"
"""Whether any browser of this machine is let in, as in the demo; else one by a link that works once."""
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "muster.records.apps.RecordsConfig",
    "muster.web.ui",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "muster.web.ui.middleware.let_in",
    "muster.web.ui.middleware.stay_on_this_machine",
    "muster.web.ui.middleware.InTheUnitsOfTheJob",
    "muster.web.ui.working.StillWorking",
]
ROOT_URLCONF = "muster.web.urls"
ASGI_APPLICATION = "muster.web.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": sorted(HERE.glob("*/templates")),
        "OPTIONS": {
            "builtins": ["muster.web.ui.templatetags.muster", "django_htmx.templatetags.django_htmx"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "muster.web.ui.context.everywhere",
            ],
            "loaders": [("django.template.loaders.cached.Loader", ["django.template.loaders.filesystem.Loader"])],
        },
    }
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / DATABASE,
        "OPTIONS": {"transaction_mode": "IMMEDIATE", "timeout": 20},
    }
}
STATIC_URL = "/static/"
STATICFILES_DIRS: list[Path] = []
STATICFILES_FINDERS = ["django.contrib.staticfiles.finders.AppDirectoriesFinder"]
USE_I18N = False
USE_TZ = True
TIME_ZONE = "UTC"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_NAME = "muster_session"
CSRF_COOKIE_NAME = "muster_csrf"
SESSION_COOKIE_AGE = 365 * 24 * 3600
X_FRAME_OPTIONS = "DENY"
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {"django.request": {"handlers": ["console"], "level": "ERROR"}},
}
