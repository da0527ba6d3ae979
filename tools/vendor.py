"""Fetch the pinned front-end packages with npm and copy what Muster ships, with licences.

Run by hand when a pin changes: ``python -m tools.vendor``.
"""

from __future__ import annotations

import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

TARGET = Path(__file__).parent.parent / "src/muster/web/ui/static/vendor"
PACKAGES = {
    "bootstrap@5.3.9": {"dist/css/bootstrap.min.css": "bootstrap.min.css", "LICENSE": "LICENSE-bootstrap.txt"},
    "@fontsource-variable/atkinson-hyperlegible-next@5.3.0": {
        "files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "hyperlegible-next.woff2",
        "LICENSE": "LICENSE-hyperlegible-next.txt",
    },
    "@fontsource-variable/atkinson-hyperlegible-mono@5.3.0": {
        "files/atkinson-hyperlegible-mono-latin-wght-normal.woff2": "hyperlegible-mono.woff2",
        "LICENSE": "LICENSE-hyperlegible-mono.txt",
    },
    "uplot@1.6.32": {
        "dist/uPlot.iife.min.js": "uplot.min.js",
        "dist/uPlot.min.css": "uplot.min.css",
        "LICENSE": "LICENSE-uplot.txt",
    },
}
"""What is taken of each package, and the name it is shipped under."""
TEST_TARGET = Path(__file__).parent.parent / "tests/vendor"
TEST_PACKAGES = {"axe-core@4.14.1": {"axe.min.js": "axe.min.js", "LICENSE": "LICENSE-axe-core.txt"}}
"""Used by the tests alone, not shipped."""


def fetch(package: str, files: dict[str, str], target: Path, folder: Path) -> None:
    """Fetch one package and copy its files."""
    made = subprocess.run(["npm", "pack", "--silent", package], cwd=folder, check=True, capture_output=True, text=True)
    with tarfile.open(folder / made.stdout.split()[-1]) as tar:
        for source, name in files.items():
            member = tar.extractfile(f"package/{source}")
            if member is None:
                raise FileNotFoundError(f"{package}: no {source}")
            with (target / name).open("wb") as out:
                shutil.copyfileobj(member, out)


def main() -> None:
    """Fetch everything again."""
    with tempfile.TemporaryDirectory() as folder:
        for target, packages in ((TARGET, PACKAGES), (TEST_TARGET, TEST_PACKAGES)):
            target.mkdir(parents=True, exist_ok=True)
            for package, files in packages.items():
                fetch(package, files, target, Path(folder))
                print(package)


if __name__ == "__main__":
    main()
