"""A run: what may be reported, the fold over its entries, its rules, the prompt, descriptions, outcomes and the view."""
