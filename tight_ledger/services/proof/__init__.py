"""Proof: checkpoints, cards with their proofs, holds, what was verified when."""
