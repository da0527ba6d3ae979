"""Settings of the tests: a database file of their own, fast passwords."""

from __future__ import annotations

import os
import tempfile

os.environ["MUSTER_DATA"] = tempfile.mkdtemp(prefix="muster-test-")
os.environ["MUSTER_OPEN"] = "1"
os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp(prefix="muster-test-")

from .settings import *  # noqa: F403
from .settings import DATA, DATABASES

DATABASES["default"]["TEST"] = {"NAME": DATA / "test.sqlite3"}
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver"]
