"""A spec as rows of a table, and as a file: cells, steps, rows, documents."""
