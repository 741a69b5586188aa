"""A spec as a mechanic reads it: the sheet, steps read aloud, what makes it doubtful, its revisions."""
