"""Makes backups in time, beside everything else."""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import URL, select
from sqlalchemy.exc import SQLAlchemyError

from finchwort.services import backup
from finchwort.store.access.settings import Backups, read_setting
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.models import Entry
from finchwort.store.place import backup_trouble, tell_backup_trouble

LOOK_EVERY = 60.0
"""So often it is looked whether a backup is due, s."""
AGAIN = timedelta(hours=1)
"""After one that failed."""


def due(newest: datetime | None, failed: datetime | None, hours: int, now: datetime) -> bool:
    """Tell whether a backup is due.

    Parameters
    ----------
    newest, failed : datetime or None
        When the last one was made by itself, and when one was tried in vain.
    hours : int
        How often.
    now : datetime

    Examples
    --------
    >>> from datetime import datetime, UTC
    >>> due(datetime(2026, 1, 1, tzinfo=UTC), None, 24, datetime(2026, 1, 2, tzinfo=UTC))
    True
    """
    if failed is not None and now - failed < AGAIN:
        return False
    # a clock that was set back must not keep backups from being made for months
    return newest is None or now - newest >= timedelta(hours=hours) or newest > now + timedelta(hours=1)


class Keeper:
    """A thread that makes the backups."""

    def __init__(self, url: URL, folder: Path, say: Callable[[str], None]) -> None:
        self.url, self.folder, self.say = url, folder, say
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._failed: datetime | None = None

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; a backup that is being made is waited for, for a while."""
        self._stopping.set()
        self._thread.join(30)

    def _run(self) -> None:
        while True:
            try:
                self.look()
            except SQLAlchemyError:
                pass  # the database is just being started again
            except Exception as error:  # this thread must not die of one backup
                self.say(f"No backup was made: {error}")
            if self._stopping.wait(LOOK_EVERY):
                return

    def look(self) -> bool:
        """Make a backup when one is due; tell whether one was made."""
        engine = make_engine(self.url)
        try:
            with make_sessions(engine)() as session:
                setting = read_setting(session, Backups)
                # an empty workshop has nothing to lose
                begun = session.scalars(select(Entry.id).limit(1)).first() is not None
        finally:
            engine.dispose()
        made = [item for item in backup.list_backups(self.folder) if item.manifest.kind == backup.DAILY]
        newest = datetime.fromisoformat(made[0].manifest.made_at) if made else None
        if not setting.on or not begun or not due(newest, self._failed, setting.hours, datetime.now(UTC)):
            return False
        try:
            stored = backup.make_backup(self.url, self.folder, backup.DAILY, setting.keep)
        except backup.BackupError as error:
            self._failed = datetime.now(UTC)
            tell_backup_trouble(self.folder, str(error))
            self.say(str(error))
            return False
        self._failed = None
        if backup_trouble(self.folder):
            tell_backup_trouble(self.folder, "")
        self.say(
            f"Backup {stored.path.name} was made and read back: {sum(stored.manifest.rows.values())} rows."
        )
        return True
