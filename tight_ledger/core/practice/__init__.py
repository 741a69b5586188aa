"""Practice: drills on simulated tools, judged by the rules of real work. None of it enters the ledger."""
