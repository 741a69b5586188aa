"""When a tool is due, what sets it aside, and which runs that puts in doubt."""
