"""What is kept: plans, entries, notes, verdicts, and the seals over them."""
