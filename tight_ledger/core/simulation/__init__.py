"""Simulated fasteners, hands, hubs and sleeves, for the demo wrench, for tests and for benchmarks. Off the run path."""
