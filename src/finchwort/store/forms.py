"""The forms that tables had: one a migration, by its number."""

from __future__ import annotations

from pathlib import Path

VERSIONS = Path(__file__).parent / "migrations" / "versions"


def known_forms() -> set[str]:
    """Return the forms that this Finchwort can bring to the present one, such as 0014."""
    return {path.name[1:5] for path in VERSIONS.glob("m[0-9][0-9][0-9][0-9]_*.py")}
