"""From spec, procedure, tooling and policy to a plan; which wrench can do it; the checklist before it."""
