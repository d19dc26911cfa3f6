"""Power up: what to expect of each circuit, and the record of what was read."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.errors import UnusableInput
from circuitry.plain import plain
from circuitry.proving import CircuitProof, outdated, prove_circuit, prove_circuits
from circuitry.proving.expected import Band, LoadProof
from server.api import schemas
from server.builds import models
from server.builds.history import stale
from server.builds.results import sizing_at

router = Router(tags=["proofs"])


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/proof",
    response={200: schemas.CircuitProofView, 404: schemas.Problem, 422: schemas.Problem},
)
def read_proof(request: HttpRequest, build_id: int, circuit_id: str) -> Any:
    """What to operate, see and measure, the readings to expect, and the proofs so far."""
    row = get_object_or_404(models.Build, pk=build_id)
    return _proof_view(row, prove_circuit(sizing_at(row).build, circuit_id))


@router.post(
    "/builds/{build_id}/circuits/{circuit_id}/proofs",
    response={
        201: schemas.CircuitProofView,
        404: schemas.Problem,
        409: schemas.Conflict,
        422: schemas.Problem,
    },
)
def record_proof(
    request: HttpRequest, build_id: int, circuit_id: str, body: schemas.ProofRequest
) -> Any:
    """Keep the readings of a circuit with what was expected, the time and the verdict."""
    row = get_object_or_404(models.Build, pk=build_id)
    proof = prove_circuit(sizing_at(row).build, circuit_id)
    with transaction.atomic():
        row.refresh_from_db()
        if row.revision != body.base:
            raise stale(row, body.base)
        models.Proof.objects.create(
            build=row,
            circuit=circuit_id,
            revision=row.revision,
            passed=body.passed,
            note=body.note,
            readings=[_recorded(load, body.readings.get(load.load)) for load in proof.loads],
        )
    return 201, _proof_view(row, proof)


@router.get(
    "/builds/{build_id}/proofs", response={200: list[schemas.ProofState], 404: schemas.Problem}
)
def proof_states(request: HttpRequest, build_id: int) -> Any:
    """The newest proof of each circuit that has one."""
    row = get_object_or_404(models.Build, pk=build_id)
    newest: dict[str, models.Proof] = {}
    for proof in models.Proof.objects.filter(build=row):
        newest.setdefault(proof.circuit, proof)
    build = sizing_at(row).build
    there = {circuit: proof for circuit, proof in newest.items() if circuit in build.circuits}
    older = [circuit for circuit, proof in there.items() if proof.revision != row.revision]
    now = prove_circuits(build, older)
    return [
        {
            "circuit": circuit,
            "passed": proof.passed,
            "at": proof.at,
            "stale": circuit in now and _outdated(proof, now[circuit]),
        }
        for circuit, proof in there.items()
    ]


def _proof_view(row: models.Build, proof: CircuitProof) -> Mapping[str, Any]:
    kept = models.Proof.objects.filter(build=row, circuit=proof.circuit)
    return {
        **plain(proof),
        "key": proof.state.key,
        "switches": dict(proof.state.switches),
        "proofs": [
            {
                "id": record.pk,
                "circuit": record.circuit,
                "at": record.at,
                "revision": record.revision,
                "passed": record.passed,
                "note": record.note,
                "readings": record.readings,
                "stale": record.revision != row.revision and _outdated(record, proof),
            }
            for record in kept
        ],
    }


def _outdated(record: models.Proof, proof: CircuitProof | UnusableInput) -> bool:
    """Whether other readings are to be expected now than when this was recorded, or none."""
    if isinstance(proof, UnusableInput):
        return True
    return outdated(
        proof,
        {
            reading["load"]: (Band(**reading["volts_band"]), Band(**reading["amps_band"]))
            for reading in record.readings
        },
    )


def _recorded(load: LoadProof, reading: schemas.Reading | None) -> Mapping[str, Any]:
    volts = reading.volts if reading else None
    amps = reading.amps if reading else None
    return {
        "load": load.load,
        "name": load.name,
        "volts": volts,
        "amps": amps,
        "volts_band": plain(load.volts),
        "amps_band": plain(load.amps),
        "volts_verdict": None if volts is None else load.volts.verdict(volts),
        "amps_verdict": None if amps is None else load.amps.verdict(amps),
    }
