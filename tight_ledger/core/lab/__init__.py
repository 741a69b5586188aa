"""The lab: a joint to play with, and what happens inside. Its figures are estimates; none enters the ledger."""
