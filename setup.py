"""Build the wheel with the front end in it: pages that were built, not their sources."""

import shutil
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

BUILT = Path(__file__).parent / "frontend" / "dist"


class BuildWithPages(build_py):
    """Copy the built front end beside the code; an editable install reads it where it lies."""

    def run(self) -> None:
        """Build."""
        super().run()
        if self.editable_mode:
            return
        if not (BUILT / "index.html").exists():
            raise SystemExit("The front end is not built. Run bin/wheel, which builds it first.")
        target = Path(self.build_lib) / "finchwort" / "web" / "built"
        shutil.rmtree(target, ignore_errors=True)
        shutil.copytree(BUILT, target, ignore=shutil.ignore_patterns(".*"))


setup(cmdclass={"build_py": BuildWithPages})
