"""Levelling at the bench by paper, and by how a first layer looks."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import millimetres, seen_direction, turn_in_figures, turn_in_words
from finchwort.core.first_layer import (
    LOOK_EDGES,
    LOOK_PLACES,
    LOOK_ROWS,
    Bead,
    LookAdvice,
    advise_look,
    place_of,
)
from finchwort.core.probing import FEEL_WORDS
from finchwort.core.surveys import good_spread
from finchwort.messages.remarks import words
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer import offset_clues
from finchwort.services.first_layer.trials import moved_since_trial
from finchwort.services.tramming import bench as service
from finchwort.services.visits.changes import record_change
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import Trial
from finchwort.store.first_layer.trials import trials_of
from finchwort.store.models import BenchStep, Printer, Visit
from finchwort.store.printers.printers import bed_of, screws_of
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.first_layer.trials import step_examples

blueprint = APIBlueprint("bench", __name__, url_prefix="/api", tag="bench")


@blueprint.get("/visits/<int:visit_id>/bench")
@blueprint.output(schemas.BenchOut)
def get_bench(visit_id: int) -> schemas.BenchOut:
    """Say where levelling at the bench stands, and what is next."""
    visit = get_visit(session(), visit_id)
    return _out(visit, service.at_bench(session(), visit))


@blueprint.post("/visits/<int:visit_id>/bench")
@blueprint.input(schemas.BenchStepIn)
@blueprint.output(schemas.BenchOut)
def add_step(visit_id: int, json_data: schemas.BenchStepIn) -> schemas.BenchOut:
    """Record a feel or a turn, and say what is next."""
    service.record_step(session(), visit_id, **json_data.model_dump())
    return get_bench_of(visit_id)


@blueprint.post("/visits/<int:visit_id>/bench/undo")
@blueprint.output(schemas.BenchOut)
def undo_step(visit_id: int) -> schemas.BenchOut:
    """Take back the newest step."""
    service.undo_step(session(), visit_id)
    return get_bench_of(visit_id)


@blueprint.post("/visits/<int:visit_id>/bench/finish")
@blueprint.input(schemas.BenchFinishIn)
@blueprint.output(schemas.SurveyOut, status_code=201)
def finish(visit_id: int, json_data: schemas.BenchFinishIn) -> schemas.SurveyOut:
    """Store what was found as a survey by paper."""
    return serializers.survey_out(service.finish_bench(session(), visit_id, client_key=json_data.client_key))


def get_bench_of(visit_id: int) -> schemas.BenchOut:
    """Give where a visit's levelling stands."""
    visit = get_visit(session(), visit_id)
    return _out(visit, service.at_bench(session(), visit))


def _out(visit: Visit, stands: service.AtBench) -> schemas.BenchOut:
    now, bench, names, printer = stands.now, stands.bench, stands.names, visit.printer
    k = len(bench.screws)
    ask = "done" if now.phase == "done" else "turn" if now.knob is not None else "feel"
    known = now.high < 1.0
    title, sentence = _say(stands, printer, ask)
    is_open = now.felt[k] in ("free", "stuck") and not now.middle_read
    return schemas.BenchOut.of(
        now,
        visit_id=visit.id,
        bed=serializers.bed_out(bench.bed),
        places=[
            schemas.BenchPlace(
                name=names[i],
                x=float(x),
                y=float(y),
                knob=i < k,
                feel=now.felt[i],
                height=float(now.heights[i]),
                sd=float(now.sd[i]),
            )
            for i, (x, y) in enumerate(bench.places)
        ],
        steps=[_step_out(step, printer) for step in stands.steps],
        place=now.next_place,
        ask=ask,
        turn=_turn(stands, printer) if now.knob is not None else None,
        low=now.low if known else None,
        likely=now.likely if known else None,
        high=now.high if known else None,
        title=title,
        sentence=sentence,
        why=_why(stands, visit),
        shape=_shape(stands) if now.felt[k] is not None else None,
        open=is_open,
    )


def _turn(stands: service.AtBench, printer: Printer) -> schemas.BenchTurn:
    now = stands.now
    sign = 1.0 if now.tighten else -1.0
    return schemas.BenchTurn(
        name=stands.names[now.knob or 0],
        action="tighten" if now.tighten else "loosen",
        direction=seen_direction(sign, printer.thread_hand, printer.knob_view),
        bold=now.bold,
        bold_words=turn_in_words(now.bold, 8),
        bold_figures=turn_in_figures(now.bold, 8),
    )


def _say(stands: service.AtBench, printer: Printer, ask: str) -> tuple[str, str]:
    now, names = stands.now, stands.names
    if ask == "turn":
        way = "Tighten" if now.tighten else "Loosen"
        return (
            f"{way} {names[now.knob or 0]}",
            "Turn slowly and move the strip, until it just drags. Then tap.",
        )
    if now.phase == "done":
        return (
            "All felt",
            f"The corners are level within {millimetres(now.high)} (most likely {millimetres(now.likely)}).",
        )
    where = names[now.next_place or 0]
    if now.phase == "centre":
        return (
            "Now the centre",
            "The same height, the same strip. Here no knob is turned: it tells a warp from a tilt.",
        )
    return (
        f"Go to {where}",
        "Push the head there by hand, at the same height, the strip between. How does it feel?",
    )


def _why(stands: service.AtBench, visit: Visit) -> str:
    now, names = stands.now, stands.names
    k = len(names) - 1
    if not stands.steps:
        return (
            "Motors off, bed hot, tip clean. Push the head to just above the knob you like best and set the height so that a "
            "strip nearly drags there; it stays at that height until the end."
        )
    if now.phase == "done":
        good = good_spread(visit.first_layer)
        return f"That is {'good' if now.high <= good else 'not yet good'} for a {visit.first_layer:.2f} mm first layer (good is up to {millimetres(good)})."
    if now.knob is not None:
        return (
            "The plate is stiff: this corner moves most, its neighbours a little, the opposite one the other way."
            if k > 3
            else ("Three knobs carry the plate: each moves its own place most.")
        )
    if now.phase == "centre":
        return f"{now.turnings} turnings in {now.passes} pass{'es' if now.passes > 1 else ''}; no corner is likely to need more."
    i = now.next_place or 0
    if now.sd[i] > 0.2:
        return "Nobody has felt it there since the last turns that move it."
    return (
        f"By what was felt and turned it lies {millimetres(abs(now.heights[i]))} too {'close' if now.heights[i] > 0 else 'far'}, "
        f"± {millimetres(Z95 * now.sd[i])}: the last turns moved it along."
    )


def _shape(stands: service.AtBench) -> str:
    now, names = stands.now, stands.names
    feel = now.felt[len(names) - 1]
    if now.middle_read:
        lies = "higher" if now.middle > 0 else "lower"
        text = f"The centre lies {millimetres(abs(now.middle))} ± {millimetres(now.middle_margin)} {lies} than the corners."
    elif feel == "slight":
        return "The centre drags like the corners: the plate is flat as far as paper tells, and what there was is tilt."
    else:
        lies = "lower" if feel == "free" else "higher"
        text = f"At the centre the strip {FEEL_WORDS[feel or 'slight']}: it lies {lies} than the corners."
    return f"{text} That is the plate's own shape, a warp, and no knob takes it out."


def _step_out(bench_step: BenchStep, printer: Printer) -> schemas.BenchStepOut:
    if bench_step.what == "feel":
        text = f"{bench_step.name}: {FEEL_WORDS[bench_step.feel or 'slight']}"
    elif bench_step.what == "drag":
        text = f"{bench_step.name}: turned until the strip just drags"
    elif bench_step.what == "read":
        text = f"{bench_step.name}: {millimetres(bench_step.value or 0.0, signed=True)} against the corners"
    else:
        way = "tighter" if (bench_step.turns or 0) > 0 else "looser"
        text = f"{bench_step.name}: {turn_in_figures(bench_step.turns or 0.0, 8)} {way}"
    return schemas.BenchStepOut.of(bench_step, at=bench_step.created_at, sentence=text)


@blueprint.get("/visits/<int:visit_id>/looks")
@blueprint.input(schemas.LooksQuery, location="query")
@blueprint.output(schemas.LooksOut)
def get_looks(visit_id: int, query_data: schemas.LooksQuery) -> schemas.LooksOut:
    """Say how a first layer was last seen to look, and what follows."""
    visit = get_visit(session(), visit_id)
    return _looks_out(visit, _newest_look(visit), query_data.printing)


@blueprint.post("/visits/<int:visit_id>/looks")
@blueprint.input(schemas.LooksIn)
@blueprint.output(schemas.LooksOut)
def add_looks(visit_id: int, json_data: schemas.LooksIn) -> schemas.LooksOut:
    """Record how a first layer looks, and say what follows."""
    trial = offset_clues.record_look(
        session(),
        visit_id,
        {str(place): str(step) for place, step in json_data.looks.items()},
        client_key=json_data.client_key,
        note="While it printed." if json_data.printing else "",
    )
    return _looks_out(get_visit(session(), visit_id), trial, json_data.printing)


@blueprint.post("/visits/<int:visit_id>/looks/turned")
@blueprint.input(schemas.LookTurned)
@blueprint.output(schemas.LooksOut)
def add_look_turned(visit_id: int, json_data: schemas.LookTurned) -> schemas.LooksOut:
    """Record a knob that was turned on a look: what was measured before no longer holds."""
    visit = get_visit(session(), visit_id)
    printer = visit.printer
    if json_data.name not in {screw.name for screw in printer.screws}:
        raise ConflictError("This bed has no such knob.")
    way = "tighter" if json_data.turns > 0 else "looser"
    record_change(
        session(),
        printer.id,
        "knobs",
        client_key=json_data.client_key,
        visit_id=visit.id,
        note=f"{json_data.name} {turn_in_figures(json_data.turns, 8)} {way}, by how the first layer looked.",
    )
    return _looks_out(visit, None, True)


def _newest_look(visit: Visit) -> Trial | None:
    """The newest look, unless something was moved since."""
    looks = trials_of(session(), visit.id, "look")
    if not looks or moved_since_trial(session(), visit, looks[-1]):
        return None
    return looks[-1]


def _looks_out(visit: Visit, trial: Trial | None, printing: bool) -> schemas.LooksOut:
    printer = visit.printer
    bed = bed_of(printer)
    mesh = None if printer.compensation == "none" else stored_mesh(session(), printer, visit)
    seen = {p["place"]: p["step"] for p in trial.patches} if trial else {}
    bead = Bead(max(0.42, 1.2 * visit.first_layer), visit.first_layer)
    advice: LookAdvice | None = None
    if seen:
        advice = advise_look(
            list(seen.items()),
            bed,
            bead,
            screws_of(printer) if printer.screws else (),
            printing=printing,
            mesh=mesh is not None,
            otherwise=_otherwise(printer),
        )
    return schemas.LooksOut(
        visit_id=visit.id,
        bed=serializers.bed_out(bed),
        places=[
            schemas.LookPlaceOut(
                place=name,
                x=place_of(bed, name)[0],
                y=place_of(bed, name)[1],
                edge=name in LOOK_EDGES,
                step=seen.get(name),
            )
            for name in LOOK_PLACES
        ],
        rows=[list(row) for row in LOOK_ROWS],
        what=advice.what if advice else "look",
        turn=_look_turn(advice, printer) if advice and advice.what == "turn" else None,
        closer=advice.closer if advice else 0.0,
        sentence=words(advice.remark)
        if advice
        else "Look at each corner and at the middle, and tap how it looks.",
        trial=trial.id if trial else None,
        examples=step_examples(bead),
        spacing=bead.spacing,
        sliced=bead.height,
        mesh=mesh is not None,
    )


def _look_turn(advice: LookAdvice, printer: Printer) -> schemas.LookTurn:
    return schemas.LookTurn(
        name=advice.knob or "",
        action="tighten" if advice.turns > 0 else "loosen",
        turns=advice.turns,
        figures=turn_in_figures(advice.turns, 8),
        words=turn_in_words(advice.turns, 8),
        direction=seen_direction(advice.turns, printer.thread_hand, printer.knob_view),
    )


def _otherwise(printer: Printer) -> str:
    if printer.beam_screws == 2:
        return "beam"
    if printer.pads:
        return "pads"
    return "mesh" if printer.compensation == "mesh" else "none"
