"""Fasteners that are tightened together: layouts, shapes, orders, threads."""
