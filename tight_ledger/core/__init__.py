"""The rules of the trade. No clock, no network, no database, no framework."""
