"""What is put in order in the records after the tables were brought to a newer form."""

from __future__ import annotations

import structlog
from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError
from finchwort.store.models import SurveyRecord, Visit

log = structlog.get_logger()


def judge_again(session: Session) -> int:
    """Judge the surveys of open visits that an older version judged, and say how many.

    What somebody is working on must say the same on every screen.  Closed visits keep what was said then: it is what
    was acted upon.  A survey that cannot be judged keeps its words; nobody's start fails for it.
    """
    # whoever starts Finchwort asks for this, and seldom needs it: what judges a bed takes its time to load
    from finchwort.services.surveys.surveys import rejudge

    query = (
        select(SurveyRecord)
        .join(Visit, Visit.id == SurveyRecord.visit_id)
        .where(
            SurveyRecord.noise_x.is_(None),
            SurveyRecord.verdict != "open",
            SurveyRecord.deleted_at.is_(None),
            Visit.ended_at.is_(None),
            Visit.deleted_at.is_(None),
        )
    )
    done = 0
    for record in session.scalars(query).all():
        try:
            rejudge(session, record)
            done += 1
        except CoreError as error:
            log.warning("a survey keeps its old verdict", survey=record.id, error=str(error))
    return done
