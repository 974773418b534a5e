"""Backups: when the last one was made, that it was read back, one more, and taking one away."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from apiflask import APIBlueprint
from flask import Response, current_app, send_file

from finchwort.services import backup
from finchwort.services.access import devices
from finchwort.store.access.settings import Backups, read_setting, write_setting
from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.place import Place, backup_trouble, running
from finchwort.web import schemas
from finchwort.web.access.guard import address
from finchwort.web.database import session

blueprint = APIBlueprint("keeping", __name__, url_prefix="/api", tag="keeping")


def _folder() -> Path | None:
    room = current_app.config.get("ROOM")
    return Place(room).backups if room else None


def _backup_out(item: backup.Backup) -> schemas.BackupOut:
    return schemas.BackupOut(
        name=item.path.name,
        kind=item.manifest.kind,
        made_at=datetime.fromisoformat(item.manifest.made_at),
        bytes=item.bytes,
        rows=sum(item.manifest.rows.values()),
        version=item.manifest.version,
    )


def _all() -> schemas.BackupsOut:
    folder, setting = _folder(), read_setting(session(), Backups)
    result = running(folder.parent) if folder else None
    return schemas.BackupsOut.of(
        setting,
        can=folder is not None,
        by_itself=bool(result and result.keeps),
        folder=str(folder or ""),
        trouble=backup_trouble(folder) if folder else "",
        backups=[_backup_out(item) for item in backup.list_backups(folder)] if folder else [],
    )


@blueprint.get("/backups")
@blueprint.output(schemas.BackupsOut)
def get_backups() -> schemas.BackupsOut:
    """Give the backups there are, newest first."""
    return _all()


@blueprint.post("/backups")
@blueprint.output(schemas.BackupsOut, status_code=201)
def make_backup() -> schemas.BackupsOut:
    """Make a backup now, and read it back."""
    folder = _folder()
    if folder is None:
        raise ConflictError("Where backups go is not known here. Start Finchwort with finchwort start.")
    try:
        made = backup.make_backup(session().get_bind().engine.url, folder)
    except backup.BackupError as error:
        raise ConflictError(str(error)) from None
    devices.write_audit(session(), devices.KEPT, f"Backup {made.path.name} was made.", address())
    return _all()


@blueprint.put("/backups/schedule")
@blueprint.input(schemas.ScheduleIn)
@blueprint.output(schemas.BackupsOut)
def set_schedule(json_data: schemas.ScheduleIn) -> schemas.BackupsOut:
    """Set whether backups are made by themselves, how often, and how many are kept."""
    write_setting(session(), Backups(json_data.on, json_data.hours, json_data.keep))
    text = f"every {json_data.hours} h, {json_data.keep} kept" if json_data.on else "off"
    devices.write_audit(session(), devices.KEPT, f"Backups by themselves: {text}.", address())
    return _all()


@blueprint.get("/backups/<name>")
@blueprint.doc(hide=True)
def download(name: str) -> Response:
    """Give a backup as a file."""
    folder = _folder()
    if folder is None or not backup.NAME.fullmatch(name) or not (folder / name).is_file():
        raise NotFoundError("There is no such backup. It may have made room for newer ones.")
    return send_file(folder / name, mimetype="application/zip", as_attachment=True, download_name=name)
