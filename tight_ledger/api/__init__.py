"""FastAPI: parse, call, answer. No rule and no SQL here."""
