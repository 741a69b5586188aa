"""The kinds of step, one module each, and the registry that the compiler, the fold, the words and the tables are handed."""
