"""The wheel holds all that Muster needs, and serves the demo from any folder."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from tests.examples import PROVING
from tests.web.test_serving import _when_up

ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def unpacked(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel built from this checkout, unpacked as an installer does."""
    folder = tmp_path_factory.mktemp("wheel")
    checkout = folder / "checkout"
    shutil.copytree(ROOT / "src", checkout / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    for name in ("pyproject.toml", "README.md", "LICENSE", "requirements.txt"):
        shutil.copy(ROOT / name, checkout)
    command = [
        sys.executable,
        "-m",
        "pip",
        "wheel",
        str(checkout),
        "--no-deps",
        "--no-build-isolation",
        "--quiet",
        "-w",
        str(folder),
    ]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    (wheel,) = folder.glob("muster-*.whl")
    with zipfile.ZipFile(wheel) as archive:
        archive.extractall(folder / "site")
    return folder / "site"


def test_every_file_of_the_package_is_inside(unpacked: Path) -> None:
    source = ROOT / "src"
    own = {
        path.relative_to(source).as_posix()
        for path in (source / "muster").rglob("*")
        if path.is_file() and "__pycache__" not in path.parts
    }
    inside = {path.relative_to(unpacked).as_posix() for path in (unpacked / "muster").rglob("*") if path.is_file()}
    assert own - inside == set()
    assert inside - own == set()


@pytest.mark.skipif(not PROVING, reason="a minute of compiling in a folder of its own: in make prove")
def test_the_demo_runs_from_the_wheel_in_any_folder(unpacked: Path, tmp_path: Path) -> None:
    environment = {**os.environ, "PYTHONPATH": str(unpacked), "MUSTER_DATA": str(tmp_path / "data")}
    environment.pop("DJANGO_SETTINGS_MODULE", None)
    where = subprocess.run(
        [sys.executable, "-c", "import muster; print(muster.__file__)"],
        capture_output=True,
        text=True,
        check=True,
        cwd=tmp_path,
        env=environment,
    )
    assert where.stdout.startswith(str(unpacked))
    running = subprocess.Popen(
        [sys.executable, "-m", "muster", "demo", "--port", "0"],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        cwd=tmp_path,
        env=environment,
    )
    try:
        assert running.stdout is not None
        address = re.search(r"http://127\.0\.0\.1:\d+/", running.stdout.readline())
        assert address is not None
        board = _when_up(address.group()).decode()
        assert "Signal Cottage" in board
        for path in set(re.findall(r'(?:href|src)="/(static/[^"]+)"', board)):
            assert len(_when_up(address.group() + path)) > 100
        assert _when_up(address.group() + "static/vendor/hyperlegible-next.woff2")[:4] == b"wOF2"
    finally:
        running.send_signal(signal.SIGINT)
        _, errors = running.communicate(timeout=20)
    assert "Traceback" not in errors
