"""First power: what to operate, what to see, what to measure, and what to expect."""

from circuitry.proving.expected import CircuitProof, outdated, prove_circuit, prove_circuits

__all__ = ["CircuitProof", "outdated", "prove_circuit", "prove_circuits"]
