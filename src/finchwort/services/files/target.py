"""Where a print is to be made: the printer as it is set up and as it stands now."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.files import Target
from finchwort.core.surveys import Relief
from finchwort.core.visits import Standing
from finchwort.knowledge import materials, surfaces
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer.offsets import relief_of
from finchwort.services.visits.standing import known_survey
from finchwort.store.errors import NotFoundError
from finchwort.store.models import Printer, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of, list_printers
from finchwort.store.surveys.surveys import OPEN, newest_surveys


def newest_visit(session: Session, printer: Printer) -> Visit | None:
    """Return the newest visit of a printer."""
    query = (
        select(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Visit.id.desc())
        .limit(1)
    )
    return session.scalars(query).first()


def newest_survey(session: Session, printer: Printer) -> SurveyRecord | None:
    """Return the newest survey that says how high the bed is."""
    record = next(iter(newest_surveys(session, printer.id, 1)), None)
    return None if record is None or record.verdict == OPEN else record


def target_of(
    session: Session,
    printer: Printer | None,
    surface: str = "",
    material: str = "",
    nozzle: float | None = None,
    price: float | None = None,
) -> Target:
    """Gather what is known of where a print is to be made.

    Parameters
    ----------
    printer : Printer or None
    surface : str
        Kind of surface; empty where nobody said it.
    material : str
        Its name; empty where nobody said it.
    nozzle : float, optional
        Hole of the nozzle, mm.
    price : float, optional
        Of a kilogram.
    """
    named = materials().get(material)
    sheet = surfaces().get(surface)
    if printer is None:
        return Target(surface=sheet, material=named, nozzle=nozzle, price=price)
    visit = newest_visit(session, printer)
    mesh = stored_mesh(session, printer, visit) if visit and printer.compensation != "none" else None
    return Target(
        bed=bed_of(printer),
        surface=sheet,
        material=named,
        nozzle=nozzle,
        compensation=printer.compensation,
        mesh_holds=mesh is not None and not mesh.outdated,
        hottest_bed=printer.most_bed,
        hottest_nozzle=printer.most_nozzle,
        price=price,
    )


def printer_named(session: Session, name: str) -> Printer:
    """Find a printer by its name, whatever its capitals.

    Raises
    ------
    NotFoundError
    """
    printers = list_printers(session)
    found = [one for one in printers if one.name.lower() == name.lower()]
    if not found:
        names = ", ".join(one.name for one in printers) or "none yet"
        raise NotFoundError(f"There is no printer called {name}. On record: {names}.")
    return found[0]


def known_of(session: Session, printer: Printer) -> tuple[Target, Relief | None, Standing | None]:
    """Gather the same with the surface of a printer's newest visit, the bed that the nozzle will meet, and whether its readings
    still hold.

    Where a mesh holds that is the bed with compensation; None when it was not measured.
    """
    visit = newest_visit(session, printer)
    target = target_of(session, printer, visit.surface_kind if visit else "", visit.material if visit else "")
    survey = newest_survey(session, printer)
    kind = printer.compensation if target.mesh_holds else "none"
    if survey is None:
        return target, None, None
    return target, relief_of(session, survey, kind), known_survey(session, printer, survey)
