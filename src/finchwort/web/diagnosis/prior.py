"""What Finchwort believes, and the tables it looks things up in."""

from __future__ import annotations

import json

from apiflask import APIBlueprint
from flask import Response

from finchwort.core.base.wording import lower_first
from finchwort.core.diagnosis import NEEDS, Cause, Counts, Sign, advise_brim, check_settings, cost_of, suit
from finchwort.knowledge import beliefs, materials, schools, surfaces
from finchwort.services.diagnosis import prior as service
from finchwort.store.diagnosis import prior as store
from finchwort.store.diagnosis.cases import closed_as, list_cases
from finchwort.store.printers.own_pairs import add_own_pair, own_pairs, set_own_pair_deleted
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable

blueprint = APIBlueprint("beliefs", __name__, url_prefix="/api", tag="beliefs")


@blueprint.get("/beliefs")
@blueprint.output(schemas.BeliefsOut)
def get_beliefs() -> schemas.BeliefsOut:
    """Give every cause, sign, check and remedy, by the table and with what was counted."""
    now, counts = service.believed(session())
    signs = {sign.key: sign for sign in beliefs().signs}
    table = beliefs().causes
    total = sum(cause.weight for cause in table)
    return schemas.BeliefsOut(
        cases=counts.cases,
        causes=[_cause(old, new, counts, signs, total) for old, new in zip(table, now, strict=True)],
        checks=[
            schemas.BelievedCheck.of(
                check, outcomes=[*(outcome.words for outcome in check.outcomes), check.clear]
            )
            for check in beliefs().checks
        ],
        imports=[
            schemas.ImportOut.of(item, cases=service.read_counts(item.counts).cases)
            for item in store.imports(session())
        ],
    )


def _cause(
    old: Cause, new: Cause, counts: Counts, known: dict[str, Sign], total: float
) -> schemas.BelievedCause:
    signs = []
    for key in new.signs:  # closed cases can teach a link that the table lacks
        seen, absent = counts.signs.get((old.key, key), (0, 0))
        signs.append(
            schemas.BelievedSign(
                sign=known[key].ask,
                table=old.signs.get(key, 0.0),
                now=new.signs[key],
                seen=seen,
                absent=absent,
                told=known[key].told,
                mistaken=known[key].mistaken,
            )
        )
    return schemas.BelievedCause.of(
        old,
        table=old.weight / total,
        now=new.weight / total,
        cases=counts.causes.get(old.key, 0),
        signs=signs,
    )


@blueprint.get("/beliefs.json")
@blueprint.doc(hide=True)
def export_counts() -> Response:
    """Give this workshop's counted cases as a file."""
    text = json.dumps(service.write_counts(store.own_counts(session())), indent=1, ensure_ascii=False)
    return Response(
        text,
        mimetype="application/json",
        headers={"Content-Disposition": "attachment; filename=finchwort-cases.json"},
    )


@blueprint.post("/beliefs/imports")
@blueprint.input(schemas.MergeIn)
@blueprint.output(schemas.Done, status_code=201)
def merge_counts(json_data: schemas.MergeIn) -> schemas.Done:
    """Take another workshop's counted cases in."""
    made = service.merge_counts(session(), json_data.name, json_data.counts, client_key=json_data.client_key)
    return schemas.Done(id=made.id)


deletable(blueprint, "/beliefs/imports", "import", store.set_import_deleted)


@blueprint.get("/part")
@blueprint.input(schemas.PartQuery, location="query")
@blueprint.output(schemas.PartCheckOut)
def check_part(query_data: schemas.PartQuery) -> schemas.PartCheckOut:
    """Check a part and its settings: brim, speed, width, fan, temperatures, cost."""
    q = query_data
    brim = advise_brim(q.width, q.depth, q.height, q.corners, q.material)
    remarks = check_settings(
        q.material,
        speed=q.speed,
        width=q.line,
        nozzle=q.nozzle,
        fan=q.fan,
        overlap=q.overlap,
        must_stick=brim.layers > 1,
        long_lines=q.long_lines,
    )
    suits = suit(surfaces().get(q.surface), materials().get(q.material), q.bed, q.hot)
    results = [schemas.RemarkOut.of(remark) for remark in remarks]
    results += [schemas.RemarkOut(what="warmth", level="change", sentence=remark) for remark in suits.remarks]
    return schemas.PartCheckOut(
        brim_width=brim.width,
        brim_layers=brim.layers,
        brim=brim.why,
        remarks=results,
        cost=None if q.grams is None or q.price is None else cost_of(q.grams, q.price),
    )


@blueprint.get("/table")
@blueprint.output(schemas.TableOut)
def get_table() -> schemas.TableOut:
    """Give the table of surfaces and materials, with what this workshop found."""
    own = _own_results()
    kinds = materials()
    rows = []
    for surface in surfaces().values():
        pairs = []
        for name in kinds:
            pair = surface.pairs.get(name)
            bed = [pair.bed_low, pair.bed_high] if pair is not None and pair.bed_low is not None else None
            pairs.append(
                schemas.PairOut(
                    material=name,
                    suits=bed is not None,
                    bonds=bool(pair and pair.bonds),
                    bed=bed,
                    need=NEEDS[pair.need] if pair and pair.need else "",
                    own=own.get((surface.key, name), []),
                )
            )
        rows.append(schemas.SurfaceRow(key=surface.key, name=surface.name, pairs=pairs))
    cleaning, adhesives = (
        [schemas.School.of(item) for item in schools()[part]] for part in ("cleaning", "adhesive")
    )
    return schemas.TableOut(
        materials=list(kinds),
        nozzles=[[kind.nozzle_low, kind.nozzle_high] for kind in kinds.values()],
        surfaces=rows,
        own=[
            schemas.OwnPairOut.of(
                own_pair, surface=own_pair.surface_kind, low=own_pair.bed_low, high=own_pair.bed_high
            )
            for own_pair in own_pairs(session())
        ],
        cleaning=cleaning,
        adhesives=adhesives,
    )


@blueprint.post("/table/own")
@blueprint.input(schemas.OwnPairIn)
@blueprint.output(schemas.Done, status_code=201)
def add_own(json_data: schemas.OwnPairIn) -> schemas.Done:
    """Write down what holds in this workshop."""
    wish = json_data
    made = add_own_pair(
        session(),
        wish.surface,
        wish.material,
        wish.low,
        wish.high,
        client_key=wish.client_key,
        note=wish.note,
    )
    return schemas.Done(id=made.id)


deletable(blueprint, "/table/own", "pair", set_own_pair_deleted)


def _own_results() -> dict[tuple[str, str], list[str]]:
    """What closed cases of this workshop say of a surface, a material and a bed temperature."""
    names = {cause.key: cause.name for cause in beliefs().causes}
    own_results: dict[tuple[str, str], list[str]] = {}
    for case in list_cases(session()):
        end = closed_as(case)
        if end is None:
            continue
        strip = case.strip
        key = strip.get("surface_kind") or "", strip.get("material") or ""
        warm = strip.get("bed_temperature")
        at = "" if warm is None else f" at {warm:.0f} °C"
        own_results.setdefault(key, []).append(
            f"{end.at:%d %b %Y}{at}: {lower_first(names.get(end.key, 'cause not found'))}"
        )
    return own_results
