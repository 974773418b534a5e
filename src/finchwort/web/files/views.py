"""Files of prints: taken as they come, looked through, foretold."""

from __future__ import annotations

import shutil
import struct
import tempfile
from collections.abc import Iterator
from typing import IO

import numpy as np
from apiflask import APIBlueprint
from flask import Response, request

from finchwort.core.base.errors import CoreError
from finchwort.core.files import LineRole, Pieces, PrintFile, PrintForecast
from finchwort.core.first_layer import BANDS
from finchwort.formats.print_file import MAX_BYTES, read_print, text_of
from finchwort.knowledge import materials
from finchwort.messages.copies import bend_sentence, copy_name
from finchwort.messages.files import forecast_sentences, placement_sentence, preflight_sentence
from finchwort.messages.first_layer import BAND_WORDS
from finchwort.messages.remarks import words
from finchwort.services.files import copies
from finchwort.services.files import files as use
from finchwort.services.visits.standing import known_survey
from finchwort.store.errors import ConflictError
from finchwort.store.files.files import get_file, list_files, set_file_deleted
from finchwort.store.files.models import PrintFileRecord
from finchwort.store.models import SurveyRecord
from finchwort.store.printers.printers import bed_of
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.serializers import bed_out

blueprint = APIBlueprint("files", __name__, url_prefix="/api", tag="files")
MAGIC = b"FWL1"
PIECE = 1 << 20


class Counted:
    """The body of a request, with a digest of what was read."""

    def __init__(self, stream: IO[bytes]) -> None:
        self.stream, self.digest = stream, use.digest_of()

    def read(self, size: int = -1) -> bytes:
        """Give up to so many bytes."""
        piece = self.stream.read(PIECE if size < 0 else size)
        self.digest.update(piece)
        return piece

    def drain(self) -> None:
        """Take the rest, so that the answer is read."""
        while self.stream.read(PIECE):
            pass


@blueprint.post("/files")
@blueprint.input(schemas.FileQuery, location="query")
@blueprint.output(schemas.FileOut, status_code=201)
def add_file(query_data: schemas.FileQuery) -> schemas.FileOut:
    """Read a file of a print that is the body of the request, packed or not, and keep what matters of it."""
    request.max_content_length = MAX_BYTES
    body = Counted(request.stream)
    gone = request.environ.get("waitress.client_disconnected", lambda: False)

    def still_wanted(_size: int) -> None:
        if gone():
            raise ConflictError("Whoever sent this file does not wait for it any more.")

    try:
        found = read_print(body, material_names=materials(), progress=still_wanted)
    except CoreError:
        body.drain()
        raise
    body.drain()
    record = use.keep_file(
        session(),
        found,
        query_data.name.replace("\\", "/").rpartition("/")[2],
        body.digest.hexdigest(),
        use.Wanted(query_data.printer_id),
        query_data.client_key,
    )
    return _out(record)


@blueprint.get("/files")
@blueprint.input(schemas.FilesQuery, location="query")
@blueprint.output(schemas.FilesOut)
def get_files(query_data: schemas.FilesQuery) -> schemas.FilesOut:
    """Give the files on record, newest first."""
    return schemas.FilesOut(
        files=[
            schemas.FileBrief.of(record, printer=record.printer.name if record.printer else None)
            for record in list_files(session(), query_data.printer_id)
        ]
    )


@blueprint.get("/files/<int:file_id>")
@blueprint.output(schemas.FileOut)
def get_one_file(file_id: int) -> schemas.FileOut:
    """Give a file with all that was found in it."""
    return _out(get_file(session(), file_id))


@blueprint.put("/files/<int:file_id>")
@blueprint.input(schemas.FileChange)
@blueprint.output(schemas.FileOut)
def change_file(file_id: int, json_data: schemas.FileChange) -> schemas.FileOut:
    """Say where a print is to be made."""
    wanted = use.Wanted(
        json_data.printer_id, json_data.surface, json_data.material, json_data.nozzle, json_data.price
    )
    return _out(use.change_file(session(), file_id, json_data.version, wanted))


@blueprint.get("/files/<int:file_id>/forecast")
@blueprint.input(schemas.FileLayerQuery, location="query")
@blueprint.output(schemas.FileForecastOut)
def get_forecast(file_id: int, query_data: schemas.FileLayerQuery) -> schemas.FileForecastOut:
    """Foretell the first layer along its lines."""
    found, _, result, survey = _foretold(file_id, query_data, query_data.shift)
    area = use.mesh_area(session(), survey, query_data.stage)
    return schemas.FileForecastOut(
        survey_id=survey.id,
        measured_at=survey.taken_at,
        stage=query_data.stage,
        shift=query_data.shift,
        bands=[
            schemas.BandShareOut(band=band, words=BAND_WORDS[band], share=result.shares[band])
            for band in BANDS
        ],
        good=result.shares["good"],
        parts=[
            schemas.PartForecastOut(
                name=foot.name,
                good=one.shares["good"],
                touches=one.touches,
                holds=one.holds,
                first=i == result.first and len(found.parts) > 1,
            )
            for i, (foot, one) in enumerate(zip(found.parts, result.parts, strict=True))
        ],
        worst=schemas.WorstOut.of(result.worst),
        touches=result.touches,
        best=result.best,
        best_share=result.best_share,
        mesh=area and schemas.AreaOut(x_min=area[0], y_min=area[1], x_max=area[2], y_max=area[3]),
        sentences=list(
            forecast_sentences(found.parts, result, known_survey(session(), survey.visit.printer, survey))
        ),
    )


@blueprint.get("/files/<int:file_id>/places")
@blueprint.input(schemas.FilePlacesQuery, location="query")
@blueprint.output(schemas.FilePlacesOut)
def get_places(file_id: int, query_data: schemas.FilePlacesQuery) -> schemas.FilePlacesOut:
    """Give where the print, or one part of it, would hold, with the map of how good each place is."""
    found, result = use.find_places(
        session(), get_file(session(), file_id), query_data.stage, query_data.shift, query_data.part
    )
    name = "" if query_data.part is None else found.parts[query_data.part].name
    return schemas.FilePlacesOut.of(
        result,
        now=schemas.ShiftOut.of(result.now),
        best=schemas.ShiftOut.of(result.best) if result.best else None,
        turns=[
            schemas.ShiftsOut(
                angle=one.angle,
                dx=one.dx.tolist(),
                dy=one.dy.tolist(),
                percent=[
                    [None if share != share else round(100 * share) for share in row]
                    for row in one.share.tolist()
                ],
            )
            for one in result.places
        ],
        middle=list(result.middle),
        size=list(result.size),
        sentence=placement_sentence(result, name),
    )


@blueprint.get("/files/<int:file_id>/lines")
@blueprint.input(schemas.FileLayerQuery, location="query")
@blueprint.doc(hide=True)
def get_lines(file_id: int, query_data: schemas.FileLayerQuery) -> Response:
    """Give the lines of the first layer with the gap of each, as bytes for the picture.

    Little-endian: ``FWL1``, how many lines, how many beads; five limits (mm) and a width (mm) for each bead; then x and y of
    the starts and ends (mm), the gaps (mm, at the offset that is right in the middle), the bead, the part and the role of each line.
    """
    _, pieces, result, _ = _foretold(file_id, query_data, 0.0)
    head = MAGIC + struct.pack("<II", len(pieces.of), len(pieces.widths))
    body = b"".join(
        np.ascontiguousarray(column, dtype=kind).tobytes()
        for column, kind in (
            (pieces.limits, "<f4"),
            (pieces.widths, "<f4"),
            (np.hstack([pieces.start, pieces.end]), "<f4"),
            (result.gap, "<f4"),
            (pieces.bead, "<u2"),
            (pieces.part, "<i2"),
            (pieces.layer.role[pieces.of], "u1"),
        )
    )
    return Response(head + body, mimetype="application/octet-stream")


def _foretold(
    file_id: int, query: schemas.FileLayerQuery, shift: float
) -> tuple[PrintFile, Pieces, PrintForecast, SurveyRecord]:
    record = get_file(session(), file_id)
    if not query.bent:
        return use.foretell(session(), record, query.stage, shift)
    ground = copies.ground_of(session(), record)
    bent = copies.bend_in_thought(ground, query.top, shift)
    assert ground.survey is not None
    return ground.print_, bent.pieces, bent.after, ground.survey


@blueprint.get("/files/<int:file_id>/bend")
@blueprint.input(schemas.BendQuery, location="query")
@blueprint.output(schemas.BendOut)
def get_bend(file_id: int, query_data: schemas.BendQuery) -> schemas.BendOut:
    """Give what a copy bent to the bed of its printer would do, and what speaks against it."""
    ground = copies.ground_of(session(), get_file(session(), file_id))
    bent = copies.bend_in_thought(ground, query_data.top)
    plan = bent.plan
    before, after = (one.shares["good"] for one in (bent.before, bent.after))
    reasons = copies.bend_reasons(ground, cleared=query_data.cleared)
    return schemas.BendOut(
        reasons=[words(one) for one in reasons],
        mesh=ground.target.compensation == "mesh",
        sentence=bend_sentence(before, after, plan.up, plan.down),
        notes=[words(one) for one in plan.notes],
        needed=plan.needed,
        top=plan.bend.top,
        up=plan.up,
        down=plan.down,
        lowest=plan.lowest,
        good_before=before,
        good_after=after,
    )


@blueprint.post("/files/<int:file_id>/copies")
@blueprint.input(schemas.CopyQuery, location="query")
@blueprint.doc(responses={200: "The copy."})
def make_copy(file_id: int, query_data: schemas.CopyQuery) -> Response:
    """Make a copy of a file that is the body of the request once more: bent, moved, or with one thing changed."""
    request.max_content_length = MAX_BYTES
    record = get_file(session(), file_id)
    with tempfile.TemporaryFile() as body:
        shutil.copyfileobj(request.stream, body, PIECE)

        def text() -> Iterator[bytes]:
            body.seek(0)
            return text_of(body)

        wanted = copies.CopyWanted(
            query_data.kind,
            query_data.top,
            query_data.cleared,
            query_data.dx,
            query_data.dy,
            query_data.turn,
            query_data.part,
            query_data.change,
            query_data.value,
        )
        copy, head = copies.make_copy(copies.ground_of(session(), record), wanted, text)
    response = Response(copy.text(head), mimetype="text/x-gcode")
    response.headers["Content-Disposition"] = (
        f"attachment; filename={copy_name(record.name, query_data.kind)}"
    )
    response.call_on_close(copy.close)
    return response


deletable(blueprint, "/files", "file", set_file_deleted)


def _out(record: PrintFileRecord) -> schemas.FileOut:
    looked = use.look_at(session(), record)
    found = looked.print_
    layer = found.layer
    facts = schemas.FileFacts(
        height=layer.height,
        line_width=found.line_width,
        speed=found.speed,
        travel=layer.travel,
        bed=found.bed,
        nozzle=found.nozzle,
        fan=found.fan,
        layers=found.layers,
        top=found.top,
        lines=found.lines,
        segments=len(layer),
        roles=[
            schemas.RoleLength(role=role, length=length)
            for role in LineRole
            if (length := found.length_of(role))
        ],
    )
    return schemas.FileOut.of(
        record,
        printer=record.printer.name if record.printer else None,
        surface=record.surface_kind,
        nozzle_hole=record.nozzle,
        facts=facts,
        parts=[
            schemas.FilePart(
                name=part.name,
                foot=part.area,
                height=part.height,
                width=part.bounds[2] - part.bounds[0],
                depth=part.bounds[3] - part.bounds[1],
                brim=part.brim,
            )
            for part in found.parts
        ],
        findings=[
            schemas.PrintFindingOut.of(one, code=one.code, sentence=words(one.said))
            for one in looked.preflight.findings
        ],
        verdict=looked.preflight.worst,
        sentence=preflight_sentence(looked.preflight),
        grams=looked.grams,
        cost=looked.cost,
        survey_id=looked.survey.id if looked.survey else None,
        bed_shape=bed_out(bed_of(record.printer)) if record.printer else None,
        stages=list(looked.stages),
    )
