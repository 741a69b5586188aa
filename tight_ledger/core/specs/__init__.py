"""What a specification says: the spec, the shapes of its steps, what it is for, its follow-ups."""
